"""A review's pictures: the stage as it was at a moment, with the hand, its clicks, the chapter's title."""

from __future__ import annotations

import math
import time

from PyQt6.QtCore import QCoreApplication, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.scene import HALO, INK, PLATE_TEXT, paint_plate
from kneel.desk.swing.replayed import ReplayedSwing
from kneel.desk.widgets.text import CENTRE, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.model.review import Seen
from kneel.review.edits import CLICK_S

ARROW = ((0, 0), (0, 17), (4, 13), (7, 20), (10, 19), (7, 12), (12, 12))
RING_PX = 26.0
PATIENCE_S = 5.0
CHALK = QColor("#fff2b8")


class ReplayCanvas(Canvas):
    """The canvas of one clip of a review, as large as its film, in pixels of ``ratio`` to one of the desk's:
    words and lines stand as large to the picture as they do on a desk.
    """

    def __init__(self, opened: ReplayedSwing, look: Look, size: QSize, ratio: float = 1.0) -> None:
        super().__init__(opened, look)
        self.replayed, self._ratio = opened, ratio
        self._part: tuple[float, float, float, float] | None = None
        self.setMinimumSize(1, 1)
        self.lie_on(QSize(round(size.width() / ratio), round(size.height() / ratio)))
        store = opened.store
        if store is not None:
            self.view.set_picture(store.info.width, store.info.height)

    def devicePixelRatioF(self) -> float:
        return self._ratio

    def show_part(self, part: tuple[float, float, float, float] | None) -> None:
        """Show a part of the picture, px; all of it for None."""
        if part == self._part:
            return
        self._part = part
        if part is None:
            self.view.fit()
        else:
            self.view.frame_on(QRectF(*part))
        self.forget_places()

    def lie_on(self, size: QSize) -> None:
        """Be as large as that, of the desk's pixels."""
        self.lay_on(size)
        part, self._part = self._part, None
        self.show_part(part)

    def put(self, seen: Seen) -> None:
        """Put all as it was."""
        self.replayed.show(seen)
        self.plain, self.trail = seen.plain, seen.trail
        self.show_part(seen.part)

    def film(self, seen: Seen) -> QImage:
        """The stage as it was, without the hand; waits until its frame is decoded."""
        self.put(seen)
        image = QImage(self.size() * self._ratio, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(self._ratio)
        end = time.monotonic() + PATIENCE_S
        while True:
            painter = QPainter(image)
            self.paint(painter)
            painter.end()
            if self.exact or time.monotonic() > end:
                return image
            QCoreApplication.processEvents()
            time.sleep(0.002)


def paint_hand(painter: QPainter, at: QPointF, click_s: float | None) -> None:
    """The pointer, and the ring of a click so long ago."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if click_s is not None:
        share = min(click_s / CLICK_S, 1.0)
        radius = RING_PX * math.sqrt(share) + 4
        colour = QColor(CHALK)
        colour.setAlphaF(1.0 - share)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 3.0))
        painter.drawEllipse(at, radius, radius)
    painter.setPen(QPen(HALO, 1.6))
    painter.setBrush(INK)
    painter.drawPolygon(QPolygonF([at + QPointF(x, y) for x, y in ARROW]))


def paint_title(painter: QPainter, area: QRectF, words: str) -> None:
    """A chapter's title, at the head of the picture: the ball lies at its foot."""
    type_ = font(17, 600)
    width = wide(words, type_) + 36
    box = QRectF(area.center().x() - width / 2, area.top() + 8, width, 36)
    paint_plate(painter, box)
    write(painter, box, words, type_, PLATE_TEXT, CENTRE)


def pointed(canvas: Canvas, image: QImage, seen: Seen, click_s: float | None, title: str = "") -> QImage:
    """A copy of a picture with the hand on it, and a title."""
    copy = image.copy()
    painter = QPainter(copy)
    if title:
        paint_title(painter, QRectF(canvas.rect()), title)
    if seen.hand is not None:
        paint_hand(painter, canvas.view.to_widget(*seen.hand), click_s)
    painter.end()
    return copy
