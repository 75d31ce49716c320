"""How the picture lies on the stage: fitted or zoomed, and the way between the two kinds of pixels."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSizeF

LARGEST_ZOOM = 16.0


class Viewport:
    """Maps picture pixels (whole numbers on pixel centres) to places on the widget."""

    def __init__(self) -> None:
        self._picture = QSizeF(1280, 720)
        self._area = QRectF(0, 0, 1, 1)
        self._zoom = 1.0
        self._middle = QPointF(0.5, 0.5)

    def set_picture(self, width: int, height: int) -> None:
        self._picture = QSizeF(width, height)
        self.fit()

    def set_area(self, area: QRectF) -> None:
        self._area = area

    def fit(self) -> None:
        """Show the whole picture."""
        self._zoom, self._middle = 1.0, QPointF(0.5, 0.5)

    @property
    def fitted(self) -> bool:
        return self._zoom == 1.0

    @property
    def scale(self) -> float:
        """Widget pixels per picture pixel."""
        fit = min(self._area.width() / self._picture.width(), self._area.height() / self._picture.height())
        return max(fit * self._zoom, 1e-6)

    @property
    def rect(self) -> QRectF:
        """Where the whole picture lies on the widget."""
        width, height = self._picture.width() * self.scale, self._picture.height() * self.scale
        centre = self._area.center()
        left = centre.x() - self._middle.x() * width
        top = centre.y() - self._middle.y() * height
        return QRectF(left, top, width, height)

    @property
    def shown(self) -> QRectF:
        """The part of the widget that holds picture."""
        return self.rect.intersected(self._area)

    def to_widget(self, x: float, y: float) -> QPointF:
        rect = self.rect
        return QPointF(rect.left() + (x + 0.5) * self.scale, rect.top() + (y + 0.5) * self.scale)

    def to_picture(self, at: QPointF) -> tuple[float, float]:
        rect = self.rect
        return (at.x() - rect.left()) / self.scale - 0.5, (at.y() - rect.top()) / self.scale - 0.5

    def zoom_at(self, at: QPointF, factor: float) -> None:
        """Zoom about a place on the widget, which stays where it is."""
        x, y = self.to_picture(at)
        self._zoom = min(max(self._zoom * factor, 1.0), LARGEST_ZOOM)
        now = self.to_widget(x, y)
        self.pan(at.x() - now.x(), at.y() - now.y())
        if self._zoom == 1.0:
            self.fit()

    def pan(self, dx: float, dy: float) -> None:
        """Move the picture, but never off the stage."""
        rect = self.rect
        x = self._middle.x() - dx / rect.width()
        y = self._middle.y() - dy / rect.height()
        half_x = min(0.5, self._area.width() / (2 * rect.width()))
        half_y = min(0.5, self._area.height() / (2 * rect.height()))
        self._middle = QPointF(min(max(x, half_x), 1 - half_x), min(max(y, half_y), 1 - half_y))
