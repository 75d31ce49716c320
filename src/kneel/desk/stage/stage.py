"""The stage: the frame on show with its layers, and what the hands do on it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from kneel.desk.stage import body, captions, drawing, measured
from kneel.desk.stage.facts import points_at
from kneel.desk.stage.framing import swing_box
from kneel.desk.stage.gestures import DragPoint, DrawLength, DrawShape, Gesture, MoveDrawn, Pan
from kneel.desk.stage.loupe import paint_empty, paint_loupe
from kneel.desk.stage.pictures import Manner, Pictures
from kneel.desk.stage.scene import HALO, INK, Scene
from kneel.desk.stage.tools import Draw, MarkPoint, MeasureLength, PointOut, Tool
from kneel.desk.stage.viewport import Hold, Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.model import side_of

GRAB_PX = 14
NUDGE_PX = 0.25
NUDGES = {
    Qt.Key.Key_Left: (-NUDGE_PX, 0.0),
    Qt.Key.Key_Right: (NUDGE_PX, 0.0),
    Qt.Key.Key_Up: (0.0, -NUDGE_PX),
    Qt.Key.Key_Down: (0.0, NUDGE_PX),
}
MARGIN_SHARE = 0.02


class Stage(QWidget):
    """Shows the frame at the cursor.

    ``placed`` tells that an armed point has been marked, ``gripped`` that the hand has taken hold of
    something, ``skipped`` that the next point is wanted, ``armed_changed`` that the next click does another
    thing.
    """

    armed_changed = pyqtSignal()
    placed = pyqtSignal()
    gripped = pyqtSignal()
    skipped = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._view = Viewport()
        self._pictures = Pictures()
        self._gesture: Gesture | None = None
        self._places: dict[str, QPointF] = {}
        self._framed = False
        self.exact = False
        """Whether the picture painted last was that of its frame."""

        self.tool: Tool | None = None
        self.selected: str | None = None
        self.drawn: int | None = None
        """Which of the things drawn is chosen."""

        self.plain = self.trail = self.large = False
        self.caption = ""
        """A sentence for a far eye, along the foot of the picture."""

        self._word = QLineEdit(self)
        self._word.setAccessibleName(tr("Words to write on the picture"))
        self._word.hide()
        self._word.returnPressed.connect(self._write_word)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(260, 220))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(tr("Picture of the swing"))
        opened.opened.connect(self._begin)
        opened.numbers.renewed.connect(self._frame_once)
        signals = (opened.numbers.renewed, opened.cursor.moved, opened.selection.chose, opened.picture_ready)
        for signal in (*signals, opened.sighted, look.changed, opened.document.changed):
            signal.connect(self.update)
        self.destroyed.connect(self._pictures.close)

    # What the next click does

    @property
    def armed(self) -> str | None:
        """The point that the next click marks, by lead and trail."""
        return self.tool.point if isinstance(self.tool, MarkPoint) else None

    def take_up(self, tool: Tool | None) -> None:
        """Let the next click do something; None lets go."""
        self.tool = tool
        self._word.hide()
        if tool is None:
            self._frame_once()
        self.setCursor(Qt.CursorShape.CrossCursor if tool else Qt.CursorShape.ArrowCursor)
        self.armed_changed.emit()
        self.update()

    def arm(self, point: str | None) -> None:
        """Let the next click mark ``point``, named by lead and trail; None lets go."""
        self.take_up(MarkPoint(point) if point else None)

    def arm_length(self, length_cm: float, what: str) -> None:
        """Let the next drag mark something of known length."""
        self.take_up(MeasureLength(length_cm, what))

    def arm_golfer(self) -> None:
        """Let the next click say which of the people in the picture is the golfer."""
        self.take_up(PointOut())

    def draw(self, shape: str) -> None:
        """Let the next press draw."""
        self.take_up(Draw(shape))
        self.setFocus()

    # How the picture lies

    def fit(self) -> None:
        """The whole picture; where it is whole already, the golfer."""
        box = self._needed() if self._view.hold is Hold.WHOLE else None
        if box is not None:
            self._view.frame_on(box)
        else:
            self._view.fit()
        self._moved_view()

    def one_to_one(self) -> None:
        """A pixel of the picture on one of the screen."""
        self._view.one_to_one(self.devicePixelRatioF(), QPointF(self.rect().center()))
        self._moved_view()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a place, or about the middle."""
        self._view.zoom_at(at or QPointF(self.rect().center()), factor)
        self._moved_view()

    def _moved_view(self) -> None:
        self._places.clear()
        self.update()

    def _needed(self) -> QRectF | None:
        box, store = swing_box(self._open.analysis), self._open.store
        if box is None or store is None:
            return None
        grown = box.adjusted(*(k * MARGIN_SHARE * box.height() for k in (-1, -1, 1, 1)))
        return grown.intersected(QRectF(0, 0, store.info.width, store.info.height))

    def _frame_once(self) -> None:
        """Frame the golfer as soon as the body is found, unless the hand has put the picture elsewhere."""
        if self._view.hold is Hold.WHOLE and not self._framed and self.tool is None:
            box = self._needed()
            if box is not None and box.width() > 1 and box.height() > 1:
                self._framed = True
                self._view.frame_on(box)
                self._moved_view()

    def _begin(self) -> None:
        store = self._open.store
        self._framed = False
        if store is not None:
            self._view.set_picture(store.info.width, store.info.height)
        self._pictures.forget()
        self._places.clear()
        self.selected = self.drawn = None
        self.caption = ""
        self.take_up(None)
        self._frame_once()

    # Painting

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._view.set_area(QRectF(self.rect()))
        self._places.clear()
        super().resizeEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._open.store is None:
            painter.fillRect(self.rect(), self._look.colour("ground"))
            paint_empty(painter, self._look, self.rect())
            return
        self.paint(painter)
        if self.tool is not None:
            hint = self.tool.hint()
            if isinstance(self._gesture, DrawShape) and self._gesture.asks == "leg":
                hint = tr("Click on the other leg · Esc to leave it")
            captions.paint_hint(painter, self._scene(), hint, self._look)
        gesture = self._gesture
        if isinstance(gesture, DrawLength):
            self._paint_length(painter, gesture)
        if isinstance(gesture, DragPoint):
            paint_loupe(painter, self._view, self._open, gesture.place, self.rect())

    def paint(self, painter: QPainter) -> None:
        """The frame with its layers, without what only the hand at work needs."""
        painter.fillRect(self.rect(), self._look.colour("panel"))
        self._paint_picture(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene = self._scene()
        captions.paint_frame_caption(painter, scene)
        painter.setClipRect(self._view.shown)
        gesture = self._gesture
        under_way = gesture.drawn if isinstance(gesture, DrawShape) else None
        if not self.plain:
            body.paint_ghost(painter, scene)
            if self.trail:
                body.paint_trail(painter, scene)
            body.paint_limbs(painter, scene)
            measured.paint_measured(painter, scene)
            body.paint_points(painter, scene)
            measured.paint_numbers(painter, scene)
        drawing.paint_drawn(painter, scene, self.drawn, under_way)
        painter.setClipping(False)
        if self.caption:
            captions.paint_sentence(painter, scene, self.caption)
        elif not self.plain:
            captions.paint_legend(painter, scene)

    def seen(self) -> QImage:
        """The stage as it is seen, without the tools, in the screen's own pixels."""
        ratio = self.devicePixelRatioF()
        image = QImage(self.size() * ratio, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        painter = QPainter(image)
        self.paint(painter)
        painter.end()
        shown = self._view.shown.toAlignedRect()
        scaled = QRectF(shown.x() * ratio, shown.y() * ratio, shown.width() * ratio, shown.height() * ratio)
        return image.copy(scaled.toAlignedRect())

    def _scene(self) -> Scene:
        gesture = self._gesture
        # The point in the hand is where the hand is, before the numbers have followed.
        held = (gesture.point, gesture.place) if isinstance(gesture, DragPoint) else None
        return Scene(
            self._view,
            self._open,
            self._view.shown,
            self.selected,
            held,
            marking=self.armed is not None,
            plain=self.plain,
            large=self.large,
            places=self._places,
        )

    def _paint_picture(self, painter: QPainter) -> None:
        store, opened, ratio = self._open.store, self._open, self.devicePixelRatioF()
        assert store is not None
        part = self._view.part
        place = self._view.place_of(part)
        size = max(round(place.width() * ratio), 1), max(round(place.height() * ratio), 1)
        number = opened.first + opened.cursor.frame
        image, self.exact = self._pictures.show(Manner(store, part, size), number, self._near())
        if image is not None:
            painter.setClipRect(self.rect())
            painter.drawImage(QRectF(place.topLeft(), place.size()), image, QRectF(image.rect()))
            painter.setClipping(False)

    def _near(self) -> tuple[int, ...]:
        """The frames that a key jumps to."""
        analysis = self._open.analysis
        found = analysis.checkpoints.values() if analysis else ()
        return tuple(self._open.first + one.shown for one in found)

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
        if isinstance(self._gesture, DrawShape) and self._gesture.asks:
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
        if self.tool is not None:
            gesture = self.tool.begin(opened, view, at)
            if isinstance(gesture, DragPoint):
                self.selected = gesture.point
            elif gesture is None:
                self.take_up(None)
            return gesture
        near = self._nearest(at)
        self.selected = near[0] if near else None
        if near:
            self.drawn = None
            return DragPoint(opened, view, near[0], at, near[1])
        self.drawn = drawing.nearest_drawn(self._scene(), at)
        if self.drawn is not None:
            return MoveDrawn(opened, view, self.drawn, at, drawing.moved)
        return Pan(view, at)

    def _nearest(self, at: QPointF) -> tuple[str, QPointF] | None:
        places = [(p.name, self._view.to_widget(p.x, p.y)) for p in points_at(self._open)]
        reach = [(QPointF.dotProduct(place - at, place - at), name, place) for name, place in places]
        best = min(reach, default=None, key=lambda r: r[0])
        return (best[1], best[2]) if best and best[0] <= GRAB_PX**2 else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._gesture is not None:
            self._gesture.move(event.position())
            if isinstance(self._gesture, Pan):
                self._places.clear()
            self.update()
        elif self.tool is None:
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
        gesture = self._gesture
        if gesture is None:
            return
        gesture.end(event.position())
        if isinstance(gesture, DrawShape) and not gesture.finished:
            if gesture.asks == "word":
                self._ask_word(event.position())
            self.update()
            return
        self._gesture = None
        if isinstance(gesture, DragPoint) and self.armed:
            self.placed.emit()
        elif self.tool is not None and not self.tool.stays:
            self.take_up(None)
        self.update()

    def _ask_word(self, at: QPointF) -> None:
        self._word.clear()
        self._word.setGeometry(round(at.x()), round(at.y()) - 14, min(220, self.width() - round(at.x())), 30)
        self._word.show()
        self._word.setFocus()

    def _write_word(self) -> None:
        gesture, self._gesture = self._gesture, None
        if isinstance(gesture, DrawShape):
            gesture.word(self._word.text())
        self.take_up(None)
        self.setFocus()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.25**turn, event.position())
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
            if self.tool is not None and not self.tool.stays:
                self.take_up(None)
        else:
            self.take_up(None)
            self.selected = self.drawn = None
        self.update()
