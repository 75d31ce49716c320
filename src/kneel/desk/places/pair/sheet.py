"""Both pictures as one, with what differs written under them: what a still or a slow clip shows."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QImage, QPainter

from kneel.desk.places.pair.both import BothPictures
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.stage.scene import PLATE_SECOND, PLATE_TEXT
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.text import TOP_LEFT, write_block
from kneel.desk.widgets.theme import font

GROUND = Qt.GlobalColor.black
EDGE, LINE = 14, 21
MOST = 3
"""More than so many differences are not read."""


class PairSheet:
    """Composes the sheet; ``said`` are the lines under the pictures, the first stands out."""

    def __init__(self, on_desk: OpenSwing, other: OpenSwing, both: BothPictures, clock: PairClock) -> None:
        self._on_desk, self._other, self._both, self._clock = on_desk, other, both, clock
        self.said: Sequence[str] = ()

    def seen(self) -> QImage:
        """The sheet as it is now, in the screen's own pixels."""
        pictures = self._both.seen()
        ratio = pictures.devicePixelRatio()
        wide = self._both.width()
        lines = [line for line in self.said if line][: MOST + 2]
        heights = [_height(line, wide - 2 * EDGE, strong=not k) for k, line in enumerate(lines)]
        high = self._both.height() + (sum(heights) + 2 * EDGE if lines else 0)
        sheet = QImage(QSize(wide, round(high)) * ratio, QImage.Format.Format_RGB32)
        sheet.setDevicePixelRatio(ratio)
        sheet.fill(GROUND)
        painter = QPainter(sheet)
        painter.drawImage(QPointF(0, 0), pictures)
        top = self._both.height() + EDGE * 0.8
        for k, (line, height) in enumerate(zip(lines, heights, strict=True)):
            box = QRectF(EDGE, top, wide - 2 * EDGE, height)
            write_block(painter, box, line, _type(strong=not k), PLATE_SECOND if k else PLATE_TEXT, TOP_LEFT)
            top += height
        painter.end()
        return sheet

    def seen_at(self, frame: int) -> QImage | None:
        """The sheet at another frame of the swing on the desk, in step; None until both are decoded."""
        there = self._clock.other_frame(frame) if self._clock.runs else None
        other = self._other.cursor
        with self._on_desk.cursor.glance(frame), other.glance(other.frame if there is None else round(there)):
            sheet = self.seen()
            exact = all(c.exact for c in self._both.pictures if c.isVisibleTo(self._both))
        return sheet if exact else None


def _type(*, strong: bool):
    return font(13.5, 600) if strong else font(13)


def _height(line: str, width: float, *, strong: bool) -> float:
    room = QRectF(0, 0, width, 1000)
    flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft)
    return max(QFontMetricsF(_type(strong=strong)).boundingRect(room, flags, line).height() + 3, LINE)
