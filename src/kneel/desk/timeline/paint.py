"""What the ribbon paints that is neither a lane nor a pennant: cursor, what is under the hand, times."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.timeline.lane import RibbonLane
from kneel.desk.widgets.language import MINUS, tr
from kneel.desk.widgets.text import CENTRE, wide, write
from kneel.desk.widgets.theme import Look, font

GAP = 8
STEPS_S = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0)


def boxes_of(room: QRectF, count: int) -> list[QRectF]:
    """Where each of some lanes lies in a room; of two the first is the higher."""
    high = room.height() - GAP * (count - 1)
    share = [0.6, 0.4] if count == 2 else [1 / count] * count
    top, boxes = room.top(), []
    for part in share:
        boxes.append(QRectF(room.left(), top, room.width(), high * part))
        top += high * part + GAP
    return boxes


def paint_cursor(painter: QPainter, look: Look, x: float, axis: TimeAxis, top: float, bottom: float) -> None:
    """The line through all lanes at the frame on show."""
    if axis.holds(x):
        painter.setPen(QPen(look.colour("ink"), 1.6))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))


def paint_hover(
    painter: QPainter,
    look: Look,
    lanes: Iterable[tuple[RibbonLane, QRectF]],
    axis: TimeAxis,
    at: QPointF,
    cursor: int,
) -> None:
    """What the lane under the hand says there."""
    frame = round(axis.frame_at(at.x()))
    lane, box = next(((lane, box) for lane, box in lanes if box.contains(at)), (None, QRectF()))
    words = lane.told(frame) if lane is not None and frame != cursor else ""
    if lane is None or not words:
        return
    unsure = lane.suspected()
    if frame < len(unsure) and unsure[frame]:
        words += " · " + tr("unsure here")
    painter.setPen(QPen(look.colour("faint"), 1, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()))
    type_ = font(11.5)
    width = wide(words, type_) + 14
    left = min(max(at.x() - width / 2, box.left()), box.right() - width)
    tag = QRectF(left, box.top() + 2, width, 19)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.colour("raised"))
    painter.drawRoundedRect(tag, 5, 5)
    write(painter, tag, words, type_, look.colour("text"), CENTRE)


def paint_times(
    painter: QPainter, look: Look, axis: TimeAxis, zero_s: float, top: float, width: float
) -> None:
    """Milliseconds of real time from ``zero_s`` on, which is address, or the first frame."""
    first, last = axis.shown
    span = last - first
    most = max(axis.width / 90.0, 2.0)
    step = next((s for s in STEPS_S if span / s <= most), STEPS_S[-1])
    type_, colour = font(11.5), look.colour("secondary")
    for k in range(int(np.ceil((first - zero_s) / step)), int((last - zero_s) / step) + 1):
        x = axis.x_at_s(zero_s + k * step)
        text = f"{k * step * 1000:.0f} ms" if span < 8 else f"{k * step:g} s"
        box = QRectF(x - 40, top + 3, 80, 17)
        if box.right() <= width and box.left() >= axis.left - 50:
            write(painter, box, text.replace("-", MINUS), type_, colour, CENTRE)
