"""A picture that is painted anew only when what it shows has changed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPixmap


class Painted:
    """Keeps the last picture of something that is dear to paint."""

    def __init__(self) -> None:
        self._made = QPixmap()
        self._about: tuple[object, ...] | None = None

    def layer(
        self, size: tuple[int, int, float], about: tuple[object, ...], paint: Callable[[QPainter], None]
    ) -> QPixmap:
        """The picture of ``size`` (width, height, device pixels each) about some things."""
        key = (size, *about)
        known = self._about
        # Large things are compared by being the same one, and held: an address is given away again.
        if known is None or not all(
            a is b or (isinstance(a, str | tuple) and a == b) for a, b in zip(key, known, strict=True)
        ):
            width, height, ratio = size
            self._made = QPixmap(round(width * ratio), round(height * ratio))
            self._made.setDevicePixelRatio(ratio)
            self._made.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.end()
            self._about = key
        return self._made
