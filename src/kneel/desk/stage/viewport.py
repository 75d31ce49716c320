"""How the picture lies on the stage: whole, framed on the golfer, or where the hand has put it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from PyQt6.QtCore import QPointF, QRectF, QSizeF
from PyQt6.QtGui import QTransform

from kneel.footage import Part

LARGEST_ZOOM = 24.0


class Hold(Enum):
    """Who has put the picture where it lies."""

    WHOLE = "whole"
    FRAMED = "framed"
    HAND = "hand"


@dataclass(frozen=True)
class Pose:
    """How a picture is turned before it is laid: mirrored, then by so many degrees clockwise, both about its
    middle.
    """

    mirrored: bool = False
    turned_deg: float = 0.0

    def about(self, middle: QPointF) -> QTransform:
        """The pose as a map of whatever has its middle there."""
        turn = QTransform.fromTranslate(middle.x(), middle.y()).rotate(self.turned_deg)
        turn.scale(-1.0 if self.mirrored else 1.0, 1.0)
        return turn.translate(-middle.x(), -middle.y())


PLAIN = Pose()


class Viewport:
    """Maps picture pixels (whole numbers on pixel centres) to places on the widget.

    ``area`` and ``frame_on`` go by the picture as it is posed; ``part`` by the picture itself.
    """

    def __init__(self) -> None:
        self.pose = PLAIN
        self._free = False
        """Whether the picture may end on the stage."""

        self._turn: QTransform | None = None
        self._back = QTransform()
        self._picture = QSizeF(1280, 720)
        self._area = QRectF(0, 0, 1, 1)
        self._frame: QRectF | None = None
        self._zoom = 1.0
        self._middle = QPointF(0.5, 0.5)
        self.hold = Hold.WHOLE
        self._lay()

    def _lay(self) -> None:
        """Reckon once where the picture lies; after every change of area, zoom or middle."""
        area, picture = self._area, self._picture
        fit = min(area.width() / picture.width(), area.height() / picture.height())
        self._fitting = max(fit, 1e-6)
        self._scale = self._fitting * self._zoom
        width, height = picture.width() * self._scale, picture.height() * self._scale
        centre = area.center()
        self._left = centre.x() - self._middle.x() * width
        self._top = centre.y() - self._middle.y() * height
        self._rect = QRectF(self._left, self._top, width, height)

    def set_picture(self, width: int, height: int) -> None:
        """Take up another clip's picture, whole."""
        self._picture, self._frame = QSizeF(width, height), None
        self.set_pose(PLAIN)
        self.fit()

    def set_pose(self, pose: Pose) -> None:
        """Turn the picture; it lies where it lay."""
        self.pose = pose
        turn = pose.about(QPointF((self._picture.width() - 1) / 2, (self._picture.height() - 1) / 2))
        self._turn = None if pose == PLAIN else turn
        self._back = turn.inverted()[0]

    def posed(self, x: float, y: float) -> tuple[float, float]:
        """Where a place of the picture, px, lies in the picture as it is posed."""
        if self._turn is None:
            return x, y
        at = self._turn.map(QPointF(x, y))
        return at.x(), at.y()

    def set_area(self, area: QRectF) -> None:
        """The stage has another size: what was framed is framed again, what the hand chose stays as large."""
        scale = self._scale
        self._area = area
        self._lay()
        if self.hold is Hold.FRAMED and self._frame is not None:
            self._show(self._frame)
        elif self.hold is Hold.HAND:
            self._zoom = min(max(scale / self._fitting, 1.0), LARGEST_ZOOM)
            self._stay_on()

    def fit(self) -> None:
        """Show the whole picture."""
        self._zoom, self._middle, self.hold, self._free = 1.0, QPointF(0.5, 0.5), Hold.WHOLE, False
        self._lay()

    def frame_on(self, box: QRectF) -> None:
        """Show a part of the picture, px, as large as it goes, and keep to it when the stage is resized."""
        self._frame, self.hold, self._free = box, Hold.FRAMED, False
        self._show(box)

    def one_to_one(self, ratio: float, at: QPointF) -> None:
        """Show each pixel of the picture as one of the screen, about a place on the widget."""
        self.zoom_at(at, 1.0 / (ratio * self.scale), smallest=0.05)

    def put(self, scale: float, place: tuple[float, float], at: QPointF) -> None:
        """Show a place of the picture, px, at one on the widget, in so many of its px a pixel of the picture,
        though the picture may end on the stage; from then on the hand has it.
        """
        self._zoom, self.hold, self._free = scale / self._fitting, Hold.HAND, True
        self._middle = QPointF(0.5, 0.5)
        self._lay()
        way = at - self.to_widget(*place)
        self._middle -= QPointF(way.x() / self._rect.width(), way.y() / self._rect.height())
        self._lay()

    def _show(self, box: QRectF) -> None:
        want = min(self._area.width() / box.width(), self._area.height() / box.height())
        self._zoom = min(max(want / self._fitting, 1.0), LARGEST_ZOOM)
        centre = box.center()
        self._middle = QPointF(
            (centre.x() + 0.5) / self._picture.width(), (centre.y() + 0.5) / self._picture.height()
        )
        self._stay_on()

    @property
    def scale(self) -> float:
        """Widget pixels per picture pixel."""
        return self._scale

    @property
    def rect(self) -> QRectF:
        """Where the whole picture lies on the widget."""
        return QRectF(self._rect)

    @property
    def shown(self) -> QRectF:
        """The part of the widget that holds picture."""
        return self.rect.intersected(self._area)

    @property
    def part(self) -> Part:
        """The part of the picture that can be seen, px, rounded outward to even numbers."""
        rect, scale, shown = self.rect, self.scale, self.shown
        if self._turn is not None:
            shown = self.pose.about(rect.center()).inverted()[0].mapRect(shown).intersected(rect)
        wide, high = int(self._picture.width()) // 2 * 2, int(self._picture.height()) // 2 * 2
        left = max(int((shown.left() - rect.left()) / scale) // 2 * 2, 0)
        top = max(int((shown.top() - rect.top()) / scale) // 2 * 2, 0)
        right = min(-int(-(shown.right() - rect.left()) / scale // 2) * 2, wide)
        bottom = min(-int(-(shown.bottom() - rect.top()) / scale // 2) * 2, high)
        return left, top, max(right - left, 2), max(bottom - top, 2)

    def place_of(self, part: Part) -> QRectF:
        """Where a part of the picture lies on the widget, before it is posed."""
        rect, scale = self.rect, self.scale
        left, top, width, height = part
        return QRectF(rect.left() + left * scale, rect.top() + top * scale, width * scale, height * scale)

    def to_widget(self, x: float, y: float) -> QPointF:
        scale = self._scale
        if self._turn is not None:
            x, y = self.posed(x, y)
        return QPointF(self._left + (x + 0.5) * scale, self._top + (y + 0.5) * scale)

    def to_picture(self, at: QPointF) -> tuple[float, float]:
        x = (at.x() - self._left) / self._scale - 0.5
        y = (at.y() - self._top) / self._scale - 0.5
        if self._turn is None:
            return x, y
        back = self._back.map(QPointF(x, y))
        return back.x(), back.y()

    def zoom_at(self, at: QPointF, factor: float, *, smallest: float = 1.0) -> None:
        """Zoom about a place on the widget, which stays where it is; from then on the hand has it."""
        x, y = self.to_picture(at)
        self._zoom = min(max(self._zoom * factor, smallest), LARGEST_ZOOM)
        self._lay()
        now = self.to_widget(x, y)
        self.pan(at.x() - now.x(), at.y() - now.y())
        if self._zoom == 1.0 and smallest == 1.0:
            self._middle = QPointF(0.5, 0.5)
            self._lay()

    def pan(self, dx: float, dy: float) -> None:
        """Move the picture, off the stage only where it was put so; from then on the hand has it."""
        rect = self.rect
        self._middle -= QPointF(dx / rect.width(), dy / rect.height())
        self.hold = Hold.HAND
        self._stay_on()

    def _stay_on(self) -> None:
        self._lay()
        if self._free:
            return
        width, height = self._rect.width(), self._rect.height()
        half_x = min(0.5, self._area.width() / (2 * width))
        half_y = min(0.5, self._area.height() / (2 * height))
        x, y = self._middle.x(), self._middle.y()
        self._middle = QPointF(min(max(x, half_x), 1 - half_x), min(max(y, half_y), 1 - half_y))
        self._lay()
