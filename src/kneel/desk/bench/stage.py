"""The stage: the frame, what is drawn on it, and the hands of the instructor."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.bench.facts import points_at
from kneel.desk.bench.gestures import DragPoint, DrawLength, Gesture, Pan
from kneel.desk.bench.loupe import paint_empty, paint_loupe
from kneel.desk.bench.overlay import HALO, INK, Overlay
from kneel.desk.bench.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import point_title, tr
from kneel.footage import picture_of
from kneel.model import anatomical, side_of

GRAB_PX = 14
NUDGE_PX = 0.25
NUDGES = {
    Qt.Key.Key_Left: (-NUDGE_PX, 0.0),
    Qt.Key.Key_Right: (NUDGE_PX, 0.0),
    Qt.Key.Key_Up: (0.0, -NUDGE_PX),
    Qt.Key.Key_Down: (0.0, NUDGE_PX),
}


class Stage(QWidget):
    """Shows the frame at the cursor.

    ``placed`` tells that an armed point has been marked, ``gripped`` that the
    hand has taken hold of something, ``skipped`` that the next point is wanted.
    """

    armed_changed = pyqtSignal()
    placed = pyqtSignal()
    gripped = pyqtSignal()
    skipped = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._view = Viewport()
        self._overlay = Overlay()
        self._image: QImage | None = None
        self._image_key: tuple[object, ...] = ()
        self._gesture: Gesture | None = None
        self.armed: str | None = None
        self.selected: str | None = None
        self._length: tuple[float, str] | None = None
        self._golfer = False
        self.plain = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(480, 270))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Picture of the swing"))
        opened.opened.connect(self._begin)
        signals = (opened.numbers.renewed, opened.cursor.moved, opened.selection.chose, opened.picture_ready)
        for signal in (*signals, opened.sighted, look.changed):
            signal.connect(self.update)

    # What the next click does

    def arm(self, point: str | None) -> None:
        """Let the next click mark ``point``, named by lead and trail; None lets go."""
        self.armed, self._length, self._golfer = point, None, False
        self.setCursor(Qt.CursorShape.CrossCursor if point else Qt.CursorShape.ArrowCursor)
        self.armed_changed.emit()
        self.update()

    def arm_length(self, length_cm: float, what: str) -> None:
        """Let the next drag mark something of known length."""
        self.armed, self._length, self._golfer = None, (length_cm, what), False
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.update()

    def arm_golfer(self) -> None:
        """Let the next click say which of the people in the picture is the golfer."""
        self.armed, self._length, self._golfer = None, None, True
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.update()

    def fit(self) -> None:
        self._view.fit()
        self.update()

    def _begin(self) -> None:
        store = self._open.store
        if store is not None:
            self._view.set_picture(store.info.width, store.info.height)
        self._image, self._image_key = None, ()
        self.selected = None
        self.arm(None)

    # Painting

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._view.set_area(QRectF(self.rect()))
        super().resizeEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._open.store is None:
            paint_empty(painter, self._look, self.rect())
            return
        self._paint_picture(painter)
        gesture = self._gesture
        # The point in the hand is where the hand is, before the numbers have followed.
        held = (gesture.point, gesture.place) if isinstance(gesture, DragPoint) else None
        self._overlay.paint(
            painter, self._view, self._open, chosen=self.selected, held=held, plain=self.plain
        )
        if not self.plain:
            self._overlay.paint_legend(painter, self._view)
        self._paint_hint(painter)
        if isinstance(self._gesture, DrawLength):
            self._paint_length(painter, self._gesture)
        if isinstance(self._gesture, DragPoint):
            paint_loupe(painter, self._view, self._open, self._gesture.place, self.rect())

    def _paint_picture(self, painter: QPainter) -> None:
        image = self._picture()
        if image is None:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, not self._view.fitted)
        painter.setClipRect(self.rect())
        painter.drawImage(self._view.rect, image, QRectF(image.rect()))

    def _picture(self) -> QImage | None:
        """The frame on show, scaled once by the decoder's own scaler; the last one until it comes."""
        store, number = self._open.store, self._open.first + self._open.cursor.frame
        assert store is not None
        rect, ratio = self._view.rect, self.devicePixelRatioF()
        size = (round(rect.width() * ratio), round(rect.height() * ratio)) if self._view.fitted else None
        key = (store, number, size)
        if key == self._image_key:
            return self._image
        frame = store.get(number)
        if frame is None:
            store.request(number)
            frame = None if self._image_key[:1] == (store,) else store.nearest(number)
            if frame is None:
                return self._image
            key = ()
        pixels = picture_of(frame, store.info.upright, size=size, form="bgra")
        height, width = pixels.shape[:2]
        self._image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()
        self._image_key = key
        return self._image

    def _paint_hint(self, painter: QPainter) -> None:
        """What a click will do now."""
        if self.armed:
            words = tr("Click the %s · Tab for the next point · Esc to end") % point_title(self.armed)
        elif self._length:
            words = tr("Drag along the %s, end to end · Esc to end") % self._length[1]
        elif self._golfer:
            words = tr("Click on the golfer · Esc to leave it")
        else:
            return
        painter.setFont(font(13, 600))
        width = painter.fontMetrics().horizontalAdvance(words) + 28
        shown = self._view.shown
        box = QRectF(shown.center().x() - width / 2, shown.top() + 42, width, 30)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("chosen"))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(self._look.colour("text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_length(self, painter: QPainter, gesture: DrawLength) -> None:
        start, stop = self._view.to_widget(*gesture.start), self._view.to_widget(*gesture.stop)
        for pen in (QPen(HALO, 4), QPen(INK, 1.8)):
            painter.setPen(pen)
            painter.drawLine(start, stop)

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._open.store is None:
            return
        if event.button() is Qt.MouseButton.MiddleButton:
            self._gesture = Pan(self._view, at)
        elif event.button() is Qt.MouseButton.LeftButton:
            # What is taken hold of stands on one frame; the picture must not run away under the hand.
            self.gripped.emit()
            self._gesture = self._begin_gesture(at)
        self.update()

    def _begin_gesture(self, at: QPointF) -> Gesture | None:
        view, opened = self._view, self._open
        if not view.shown.contains(at):
            return None
        if self._golfer:
            self.arm(None)
            self._open.point_out(*view.to_picture(at), self._open.cursor.frame)
            return None
        if self._length:
            gesture: Gesture = DrawLength(opened, view, at, *self._length)
            return gesture
        if self.armed:
            point = anatomical(self.armed, opened.swing.hand)
            self.selected = point
            drag = DragPoint(opened, view, point, at, at)
            drag.move(at)
            return drag
        near = self._nearest(at)
        self.selected = near[0] if near else None
        if near:
            return DragPoint(opened, view, near[0], at, near[1])
        return Pan(view, at)

    def _nearest(self, at: QPointF) -> tuple[str, QPointF] | None:
        places = [(p.name, self._view.to_widget(p.x, p.y)) for p in points_at(self._open)]
        reach = [(QPointF.dotProduct(place - at, place - at), name, place) for name, place in places]
        best = min(reach, default=None, key=lambda r: r[0])
        return (best[1], best[2]) if best and best[0] <= GRAB_PX**2 else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._gesture is not None:
            self._gesture.move(event.position())
            self.update()
        elif not self.armed and not self._length and not self._golfer:
            near = self._nearest(event.position()) if self._open.store else None
            self.setCursor(Qt.CursorShape.OpenHandCursor if near else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(near[0]) if near else "")

    def _tip(self, name: str) -> str:
        side = side_of(name, self._open.swing.hand)
        joint = name.rsplit("_", maxsplit=1)[-1] if side else name
        sure = next((p.sigma for p in points_at(self._open) if p.name == name), 0.0)
        words = f"{side} {joint}" if side else joint
        return tr("%s, ± %.1f px. Drag to correct, Delete to unmark.") % (words, sure)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        gesture, self._gesture = self._gesture, None
        if gesture is None:
            return
        gesture.end(event.position())
        if isinstance(gesture, DrawLength):
            self.arm(None)
        elif isinstance(gesture, DragPoint) and self.armed:
            self.placed.emit()
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._view.zoom_at(event.position(), 1.25**turn)
            self.update()
        elif self._gesture is None:
            self._open.cursor.step(-round(turn) if abs(turn) >= 1 else 0)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.ShortcutOverride:
            # Arrows step through the frames, except while they nudge what the hand holds.
            alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
            held = isinstance(self._gesture, DragPoint) or (self.selected and alt)
            if held and event.key() in NUDGES:
                event.accept()
                return True
        return super().event(event)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab goes to the next point while points are being marked, else to the next part of the desk."""
        if self.armed and next:
            self.skipped.emit()
            return True
        return super().focusNextPrevChild(next)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = NUDGES.get(event.key())
        if way and isinstance(self._gesture, DragPoint):
            self._gesture.nudge(*way)
            self.update()
        elif way and self.selected and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.nudge_selected(*way)
        else:
            super().keyPressEvent(event)

    def nudge_selected(self, dx: float, dy: float) -> None:
        """Move the selected point by fractions of a pixel, as a mark on this frame."""
        here = next((p for p in points_at(self._open) if p.name == self.selected), None)
        if here is not None:
            frame = self._open.cursor.frame
            self._open.document.place(here.name, frame, here.x + dx, here.y + dy)

    def cancel(self) -> None:
        """Give up a gesture under way, else what is armed."""
        if self._gesture is not None:
            self._gesture.cancel()
            self._gesture = None
        else:
            self.arm(None)
            self.selected = None
        self.update()
