"""How the picture lies on the stage: whole, framed on the golfer, or where the hand has put it."""

from __future__ import annotations

from enum import Enum

from PyQt6.QtCore import QPointF, QRectF, QSizeF

from kneel.footage import Part

LARGEST_ZOOM = 24.0


class Hold(Enum):
    """Who has put the picture where it lies."""

    WHOLE = "whole"
    FRAMED = "framed"
    HAND = "hand"


class Viewport:
    """Maps picture pixels (whole numbers on pixel centres) to places on the widget."""

    def __init__(self) -> None:
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
        self.fit()

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
        self._zoom, self._middle, self.hold = 1.0, QPointF(0.5, 0.5), Hold.WHOLE
        self._lay()

    def frame_on(self, box: QRectF) -> None:
        """Show a part of the picture, px, as large as it goes, and keep to it when the stage is resized."""
        self._frame, self.hold = box, Hold.FRAMED
        self._show(box)

    def one_to_one(self, ratio: float, at: QPointF) -> None:
        """Show each pixel of the picture as one of the screen, about a place on the widget."""
        self.zoom_at(at, 1.0 / (ratio * self.scale), smallest=0.05)

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
        wide, high = int(self._picture.width()) // 2 * 2, int(self._picture.height()) // 2 * 2
        left = max(int((shown.left() - rect.left()) / scale) // 2 * 2, 0)
        top = max(int((shown.top() - rect.top()) / scale) // 2 * 2, 0)
        right = min(-int(-(shown.right() - rect.left()) / scale // 2) * 2, wide)
        bottom = min(-int(-(shown.bottom() - rect.top()) / scale // 2) * 2, high)
        return left, top, max(right - left, 2), max(bottom - top, 2)

    def place_of(self, part: Part) -> QRectF:
        """Where a part of the picture lies on the widget."""
        rect, scale = self.rect, self.scale
        left, top, width, height = part
        return QRectF(rect.left() + left * scale, rect.top() + top * scale, width * scale, height * scale)

    def to_widget(self, x: float, y: float) -> QPointF:
        scale = self._scale
        return QPointF(self._left + (x + 0.5) * scale, self._top + (y + 0.5) * scale)

    def to_picture(self, at: QPointF) -> tuple[float, float]:
        rect = self.rect
        return (at.x() - rect.left()) / self.scale - 0.5, (at.y() - rect.top()) / self.scale - 0.5

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
        """Move the picture, but never off the stage; from then on the hand has it."""
        rect = self.rect
        self._middle -= QPointF(dx / rect.width(), dy / rect.height())
        self.hold = Hold.HAND
        self._stay_on()

    def _stay_on(self) -> None:
        self._lay()
        width, height = self._rect.width(), self._rect.height()
        half_x = min(0.5, self._area.width() / (2 * width))
        half_y = min(0.5, self._area.height() / (2 * height))
        x, y = self._middle.x(), self._middle.y()
        self._middle = QPointF(min(max(x, half_x), 1 - half_x), min(max(y, half_y), 1 - half_y))
        self._lay()
