"""The stage: the frame on show with its layers, and what the hands do on it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.stage import body, captions, drawing, measured
from kneel.desk.stage.framing import swing_box
from kneel.desk.stage.gestures import DragPoint, DrawLength, DrawShape
from kneel.desk.stage.hands import Hands
from kneel.desk.stage.loupe import paint_empty, paint_loupe
from kneel.desk.stage.pictures import Manner, Pictures
from kneel.desk.stage.scene import HALO, INK, Scene
from kneel.desk.stage.tools import Draw, MarkPoint, MeasureLength, PointOut, Tool
from kneel.desk.stage.viewport import Hold, Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look

MARGIN_SHARE = 0.02


class Stage(QWidget):
    """Shows the frame at the cursor.

    ``placed`` tells that an armed point has been marked, ``gripped`` that the hand has taken hold of
    something, ``skipped`` that the next point is wanted, ``armed_changed`` that the next click does another
    thing, ``browse_wanted`` that the empty stage was clicked, ``laid`` that the picture has another place.
    """

    armed_changed = pyqtSignal()
    placed = pyqtSignal()
    gripped = pyqtSignal()
    skipped = pyqtSignal()
    browse_wanted = pyqtSignal()
    laid = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.view = Viewport()
        self.hands = Hands(self, opened)
        self._pictures = Pictures()
        self._places: dict[str, QPointF] = {}
        self._framed = False
        self.exact = False
        """Whether the picture painted last was that of its frame."""

        self._strip = QRectF()
        self.tool: Tool | None = None
        self.selected: str | None = None
        self.drawn: int | None = None
        """Which of the things drawn is chosen."""

        self.plain = self.trail = self.large = False
        self.caption = ""
        """A sentence for a far eye, under the picture: it covers neither golfer nor ball."""

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
        self.hands.put_by()
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
        box = self._needed() if self.view.hold is Hold.WHOLE else None
        if box is not None:
            self.view.frame_on(box)
        else:
            self.view.fit()
        self._moved_view()

    def one_to_one(self) -> None:
        """A pixel of the picture on one of the screen."""
        self.view.one_to_one(self.devicePixelRatioF(), QPointF(self.rect().center()))
        self._moved_view()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a place, or about the middle."""
        self.view.zoom_at(at or QPointF(self.rect().center()), factor)
        self._moved_view()

    def _moved_view(self) -> None:
        self.forget_places()
        self.update()

    def _needed(self) -> QRectF | None:
        box, store = swing_box(self._open.analysis), self._open.store
        if box is None or store is None:
            return None
        grown = box.adjusted(*(k * MARGIN_SHARE * box.height() for k in (-1, -1, 1, 1)))
        return grown.intersected(QRectF(0, 0, store.info.width, store.info.height))

    def _frame_once(self) -> None:
        """Frame the golfer as soon as the body is found, unless the hand has put the picture elsewhere."""
        if self.view.hold is Hold.WHOLE and not self._framed and self.tool is None:
            box = self._needed()
            if box is not None and box.width() > 1 and box.height() > 1:
                self._framed = True
                self.view.frame_on(box)
                self._moved_view()

    def _begin(self) -> None:
        store = self._open.store
        self._framed = False
        if store is not None:
            self.view.set_picture(store.info.width, store.info.height)
        self._pictures.forget()
        self._places.clear()
        self.selected = self.drawn = None
        self.say("")
        self.take_up(None)
        self._frame_once()

    def say(self, caption: str) -> None:
        """Stand with a sentence for a far eye under the picture, or without."""
        lay = bool(caption) != bool(self.caption)
        self.caption = caption
        if lay:
            self._lay()
        self.update()

    def _lay(self) -> None:
        """The picture has the widget, but for the strip of a sentence."""
        area = QRectF(self.rect())
        self._strip = QRectF()
        if self.caption:
            high = captions.sentence_height(area.width())
            self._strip = QRectF(area.left(), area.bottom() - high, area.width(), high)
            area.setHeight(area.height() - high)
        self.view.set_area(area)
        self._places.clear()
        self.laid.emit()

    # Painting

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._lay()
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
            if isinstance(self.hands.gesture, DrawShape) and self.hands.gesture.asks == "leg":
                hint = tr("Click on the other leg · Esc to leave it")
            captions.paint_hint(painter, self.scene(), hint, self._look)
        gesture = self.hands.gesture
        if isinstance(gesture, DrawLength):
            self._paint_length(painter, gesture)
        if isinstance(gesture, DragPoint):
            paint_loupe(painter, self.view, self._open, gesture.place, self.rect())

    def paint(self, painter: QPainter) -> None:
        """The frame with its layers, without what only the hand at work needs."""
        painter.fillRect(self.rect(), self._look.colour("panel"))
        self._paint_picture(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene = self.scene()
        if not self.caption:
            captions.paint_frame_caption(painter, scene)
        painter.setClipRect(self.view.shown)
        gesture = self.hands.gesture
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
            captions.paint_sentence(painter, self._strip, self.caption)
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
        shown = self.view.shown.toAlignedRect()
        scaled = QRectF(shown.x() * ratio, shown.y() * ratio, shown.width() * ratio, shown.height() * ratio)
        return image.copy(scaled.toAlignedRect())

    def seen_at(self, frame: int) -> QImage | None:
        """The stage as it would be seen at another frame, without going there; None until it is decoded."""
        here, places = self.exact, dict(self._places)
        with self._open.cursor.glance(frame):
            image = self.seen()
            there, self.exact = self.exact, here
        self._places = places
        return image if there else None

    def scene(self) -> Scene:
        gesture = self.hands.gesture
        # The point in the hand is where the hand is, before the numbers have followed.
        held = (gesture.point, gesture.place) if isinstance(gesture, DragPoint) else None
        return Scene(
            self.view,
            self._open,
            self.view.shown,
            self.selected,
            held,
            marking=self.armed is not None,
            large=self.large,
            places=self._places,
        )

    def _paint_picture(self, painter: QPainter) -> None:
        store, opened, ratio = self._open.store, self._open, self.devicePixelRatioF()
        assert store is not None
        part = self.view.part
        place = self.view.place_of(part)
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
        start, stop = self.view.to_widget(*gesture.start), self.view.to_widget(*gesture.stop)
        for pen in (QPen(HALO, 4), QPen(INK, 1.8)):
            painter.setPen(pen)
            painter.drawLine(start, stop)

    def forget_places(self) -> None:
        """The picture has moved: numbers look for new places."""
        self._places.clear()

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open.store is None:
            self.browse_wanted.emit()
        else:
            self.hands.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.hands.release(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.25**turn, event.position())
        elif self.hands.gesture is None:
            self._open.cursor.step(-round(turn) if abs(turn) >= 1 else 0)

    def event(self, event: QEvent | None) -> bool:
        override = isinstance(event, QKeyEvent) and event.type() is QEvent.Type.ShortcutOverride
        if override and self.hands.claims(event):
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
        if not self.hands.key(event):
            super().keyPressEvent(event)

    def cancel(self) -> None:
        """Give up a gesture under way, else what is armed."""
        self.hands.cancel()
