"""The canvas: the frame on show with its layers, and how the picture lies on the widget."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.stage import body, captions, drawing, measured
from kneel.desk.stage.framing import swing_box
from kneel.desk.stage.outline import paint_outline
from kneel.desk.stage.pictures import Manner, Pictures
from kneel.desk.stage.scene import INK, ON_PICTURE, Held, Scene
from kneel.desk.stage.viewport import PLAIN, Hold, Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.aim import Aimed
from kneel.desk.widgets.theme import Look
from kneel.model.take import Drawn

MARGIN_SHARE = 0.02


class Canvas(QWidget):
    """Shows the frame at the cursor, without hands. ``laid`` tells that the picture has another place."""

    laid = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.view = Viewport()
        self._pictures = Pictures()
        self._places: dict[str, QPointF] = {}
        self._framed = False
        self.exact = False
        """Whether the picture painted last was that of its frame."""

        self._strip = QRectF()
        self.covered: list[QRectF] = []
        """Where a tool lies over the picture: no number stands under it."""

        self.selected: str | None = None
        self.drawn: int | None = None
        """Which of the things drawn is chosen."""

        self.light = 1.0
        """The picture's own light and shade is raised to this power; under 1 it is shown lighter."""

        self.plain = self.trail = self.large = False
        self.caption = ""
        """A sentence for a far eye, under the picture: it covers neither golfer nor ball."""

        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(260, 220))
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        opened.opened.connect(self._begin)
        opened.numbers.renewed.connect(self._frame_once)
        signals = (opened.numbers.renewed, opened.cursor.moved, opened.selection.chose, opened.picture_ready)
        for signal in (*signals, opened.sighted, look.changed, opened.document.changed, opened.aim.changed):
            signal.connect(self.update)
        self.destroyed.connect(self._pictures.close)

    def rest(self) -> None:
        """Nobody looks at it: what was made ahead goes."""
        self._pictures.forget()

    # What the hand has, where there is one

    def held(self) -> Held:
        """The point in the hand and where the hand is, before the numbers have followed."""
        return None

    def drawing(self) -> Drawn | None:
        """What the hand is drawing."""
        return None

    def marking(self) -> bool:
        """Whether the next click marks a point."""
        return False

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
        if self.view.hold is Hold.WHOLE and not self._framed:
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
        self._frame_once()

    def say(self, caption: str) -> None:
        """Stand with a sentence for a far eye under the picture, or without."""
        lay = bool(caption) != bool(self.caption)
        self.caption = caption
        if lay:
            self._lay()
        self.update()

    def lay_on(self, size: QSize) -> None:
        """Lie as on a widget of that size, though it is not seen itself."""
        self.resize(size)
        self._lay()

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

    def paint(self, painter: QPainter) -> None:
        """The frame with its layers, without what only the hand at work needs."""
        painter.fillRect(self.rect(), self._look.colour("panel"))
        self._paint_picture(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene = self.scene()
        if not self.caption:
            captions.paint_frame_caption(painter, scene)
        painter.save()
        painter.setClipRect(self.view.shown, Qt.ClipOperation.IntersectClip)
        if not self.plain:
            body.paint_ghost(painter, scene)
            if self.trail:
                body.paint_trail(painter, scene)
            body.paint_limbs(painter, scene)
            measured.paint_measured(painter, scene)
            body.paint_points(painter, scene)
            self._paint_aim(painter)
            measured.paint_numbers(painter, scene)
        drawing.paint_drawn(painter, scene, self.drawn, self.drawing())
        painter.restore()
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
        scene = Scene(
            self.view,
            self._open,
            self.view.shown,
            self.selected,
            self.held(),
            marking=self.marking(),
            large=self.large,
            places=self._places,
        )
        for box in self.covered:
            scene.room.take(box)
        aim = self._open.aim
        if aim.shown is Aimed.FIGURE and aim.beside:
            body = self._box_of(aim.places(self._open.cursor.frame))
            if body is not None:
                scene.room.take(body)
        return scene

    def _box_of(self, places: Mapping[str, tuple[float, float]]) -> QRectF | None:
        """What a body beside the golfer covers."""
        if not places:
            return None
        xs, ys = zip(*(places[name] for name in places if name != "clubhead"), strict=True)
        a, b = self.view.to_widget(min(xs), min(ys)), self.view.to_widget(max(xs), max(ys))
        return QRectF(a, b).normalized().adjusted(-16, -16, 16, 16)

    def _paint_aim(self, painter: QPainter) -> None:
        """The corrected ghost, or the reference figure, where it is wanted."""
        aim = self._open.aim
        if aim.wanted and aim.study is not None:
            places = aim.places(self._open.cursor.frame)
            rim = ON_PICTURE.colour("clear") if aim.shown is Aimed.GHOST else INK
            paint_outline(painter, self, self.view, places, aim.study.px_per_m, ON_PICTURE, rim)

    def _paint_picture(self, painter: QPainter) -> None:
        store, opened, ratio = self._open.store, self._open, self.devicePixelRatioF()
        assert store is not None
        part = self.view.part
        place = self.view.place_of(part)
        size = max(round(place.width() * ratio), 1), max(round(place.height() * ratio), 1)
        number = opened.first + opened.cursor.frame
        image, self.exact = self._pictures.show(Manner(store, part, size, self.light), number, self._near())
        if image is not None:
            painter.save()
            painter.setClipRect(self.view.shown, Qt.ClipOperation.IntersectClip)
            if self.view.pose != PLAIN:
                painter.setTransform(self.view.pose.about(self.view.rect.center()), combine=True)
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(place, image, QRectF(image.rect()))
            painter.restore()

    def _near(self) -> tuple[int, ...]:
        """The frames that a key jumps to."""
        analysis = self._open.analysis
        found = analysis.checkpoints.values() if analysis else ()
        return tuple(self._open.first + one.shown for one in found)

    def forget_places(self) -> None:
        """The picture has moved: numbers look for new places."""
        self._places.clear()
