"""Where days and values lie on the trend."""

from __future__ import annotations

import datetime
import math
from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSizeF

from kneel.compare.trend import Trend

STEPS = (1, 2, 5)
ROOM_SHARE = 0.12
"""So much of the range is left free over and under what is shown."""


@dataclass(frozen=True)
class Axes:
    """Days to the right, values upward, in a box."""

    box: QRectF
    first: datetime.date
    last: datetime.date
    low: float
    high: float

    @staticmethod
    def of(trend: Trend, box: QRectF, today: datetime.date) -> Axes:
        """Axes that hold all points with their errors, the window's near edge, and what is practised."""
        days = [point.day for point in trend.points]
        late = [one.check_in for one in trend.practised[-1:]] + [one.last for one in trend.practised[-1:]]
        days += [day for day in late if day >= min(days)]
        last = max([*days, *([today] if trend.practised else [])])
        first = min(days)
        if (last - first).days < 14:
            first, last = first - datetime.timedelta(days=7), last + datetime.timedelta(days=7)
        low, high = _span(trend)
        return Axes(box, first, last, low, high)

    def x(self, day: datetime.date) -> float:
        share = (day - self.first).days / max((self.last - self.first).days, 1)
        return self.box.left() + share * self.box.width()

    def y(self, value: float) -> float:
        share = (value - self.low) / (self.high - self.low)
        return self.box.bottom() - share * self.box.height()

    def at(self, day: datetime.date, value: float) -> QPointF:
        return QPointF(self.x(day), self.y(value))

    def ticks(self, per: float = 1.0, most: int = 4) -> list[float]:
        """Values across the range that are round as they are said, ``per`` of those they are kept in."""
        raw = (self.high - self.low) * per / most
        power = 10.0 ** math.floor(math.log10(raw))
        step = next((power * s for s in (*STEPS, 10) if power * s >= raw), raw)
        first, last = math.ceil(self.low * per / step), math.floor(self.high * per / step)
        return [k * step / per for k in range(first, last + 1)]


def _span(trend: Trend) -> tuple[float, float]:
    ends: list[float] = []
    for point in trend.points:
        reach = max(1.96 * point.sigma, point.spread or 0.0)
        ends += [point.value - reach, point.value + reach]
    first = trend.reference
    for found in trend.against if first is not None else ():
        if first is not None and found is not None:
            ends += [first.value - found.detectable, first.value + found.detectable]
    low, high = min(ends), max(ends)
    if trend.limits is not None:
        edges = [edge for edge in (trend.limits.lo, trend.limits.hi) if edge is not None]
        nearest = sorted(edges, key=lambda edge: max(low - edge, edge - high, 0.0))[:1]
        if len(edges) == 2 and edges[1] - edges[0] < 1.5 * (high - low):
            nearest = edges
        for edge in nearest:
            low, high = min(low, edge), max(high, edge + trend.limits.margin)
    room = ROOM_SHARE * max(high - low, 1e-6)
    return low - room, high + room


def apart(places: Sequence[float], widths: Sequence[float], gap: float = 6.0) -> list[bool]:
    """Which of several labels, each centred on a place, have room beside each other; the last comes first.

    >>> apart([0, 10, 100], [30, 30, 30])
    [False, True, True]
    """
    shown = [False] * len(places)
    free = math.inf
    for k in range(len(places) - 1, -1, -1):
        if places[k] + widths[k] / 2 + gap <= free:
            shown[k] = True
            free = places[k] - widths[k] / 2
    return shown


def free_place(at: QPointF, size: QSizeF, taken: list[QRectF], whole: QRectF, *, must: bool) -> QRectF | None:
    """A place beside a point for words of a size, within ``whole`` and clear of what is taken; with ``must``
    one at any rate.
    """
    w, h = size.width(), size.height()
    corners = [(12, -h - 5), (12, 6), (-12 - w, -h - 5), (-12 - w, 6)]
    boxes = [QRectF(QPointF(at.x() + x, at.y() + y), size) for x, y in corners]
    inside = [box for box in boxes if whole.contains(box)] or (boxes[:1] if must else [])
    clear = [box for box in inside if not any(box.intersects(other) for other in taken)]
    return next(iter(clear or (inside if must else [])), None)


def around(at: QPointF, reach: float) -> QRectF:
    """The square about a place."""
    return QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach)
