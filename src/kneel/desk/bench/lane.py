"""One lane of the ribbon: a trace with its error, the school's window as a channel, the gap hatched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from kneel.desk.bench.axis import TimeAxis
from kneel.desk.glyphs import hatch
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import tr
from kneel.judge import school
from kneel.judge.words import UNITS, number
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Unit
from kneel.motion.quantity import Series
from kneel.motion.scale import Scale

LOW_PX = 56
"""A lane lower than this has room for a value or two beside it."""


@dataclass(frozen=True)
class Channel:
    """The school's window over time: frames (K,) with its lower and upper edge, infinite where open."""

    frames: np.ndarray
    lo: np.ndarray
    hi: np.ndarray

    def edges(self, frames: np.ndarray, bottom: float, top: float) -> tuple[np.ndarray, np.ndarray]:
        """Both edges at some frames, an open side running to ``bottom`` or ``top``; NaN outside."""
        outside = (frames < self.frames[0]) | (frames > self.frames[-1])
        low = np.interp(frames, self.frames, np.where(np.isfinite(self.lo), self.lo, bottom))
        high = np.interp(frames, self.frames, np.where(np.isfinite(self.hi), self.hi, top))
        return np.where(outside, np.nan, low), np.where(outside, np.nan, high)


def channel_of(opened: OpenSwing, key: str) -> Channel | None:
    """The channel of a measure: zero at address, then the windows at the checkpoints, joined.
    Toward an open side the edge runs out of the lane.
    """
    analysis = opened.analysis
    if analysis is None or "address" not in analysis.checkpoints:
        return None
    scale = analysis.scale
    per = scale.cm_per_unit if isinstance(scale, Scale) and REGISTRY[key].unit is Unit.LENGTH else 1.0
    rows = [(analysis.checkpoints["address"].frame, 0.0, 0.0)]
    for window in school(opened.swing.school).window:
        if window.measure == key and window.at in analysis.checkpoints:
            lo = -np.inf if window.lo is None else window.lo / per
            hi = np.inf if window.hi is None else window.hi / per
            rows.append((analysis.checkpoints[window.at].frame, lo, hi))
    if len(rows) < 2:
        return None
    rows.sort()
    table = np.array(rows)
    return Channel(table[:, 0], table[:, 1], table[:, 2])


class Lane:
    """Paints one measure in a rectangle: what stays while the cursor moves, and the value at the cursor."""

    def __init__(self, opened: OpenSwing, look: Look, key: str) -> None:
        self._open, self._look, self.key = opened, look, key
        self._reach: tuple[Series, str, tuple[float, float]] | None = None

    def paint(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """Paint all that does not hang on the cursor."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRect(box)
        series = self._series()
        if not isinstance(series, Series):
            self._absent(painter, box, series.reason)
            return
        low, high = self._range(series)
        self._axis(painter, box, series, low, high)
        painter.save()
        painter.setClipRect(box)
        y_of = _scale(box, low, high)
        channel = channel_of(self._open, self.key)
        if channel is not None:
            self._channel(painter, channel, (low, high), axis, y_of, series)
        painter.setPen(QPen(self._look.colour("faint", 0.6), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(box.left(), y_of(0.0)), QPointF(box.right(), y_of(0.0)))
        self._trace(painter, series, axis, y_of)
        painter.restore()

    def paint_value(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """Paint the value at the cursor, beside it."""
        series = self._series()
        if isinstance(series, Series) and self._open.cursor.frame < len(series.values):
            self._value(painter, box, series, axis, _scale(box, *self._range(series)))

    def _series(self) -> Series | Failed:
        analysis = self._open.analysis
        return analysis.measure(self.key) if analysis else Failed("")

    def _absent(self, painter: QPainter, box: QRectF, reason: str) -> None:
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(12.5))
        painter.drawText(box.adjusted(12, 0, -12, 0), Qt.AlignmentFlag.AlignVCenter, reason)
        self._title(painter, box, "")

    def _range(self, series: Series) -> tuple[float, float]:
        """Lowest and highest value shown: trace, error where it is modest, and closed windows."""
        judged, known = self._open.swing.school, self._reach
        if known is None or known[0] is not series or known[1] != judged:
            known = self._reach = series, judged, self._found_range(series)
        return known[2]

    def _found_range(self, series: Series) -> tuple[float, float]:
        sure = series.sigma < 3 * np.median(series.sigma) + 1e-9
        low = float((series.values - series.sigma)[sure].min())
        high = float((series.values + series.sigma)[sure].max())
        for window in school(self._open.swing.school).window:
            if window.measure == self.key:
                low = min(low, window.lo if window.lo is not None else low)
                high = max(high, min(window.hi, high + 2) if window.hi is not None else high)
        low, high = min(low, 0.0), max(high, 0.0)
        pad = 0.10 * (high - low) + 1e-6
        return low - pad, high + pad

    def _title(self, painter: QPainter, box: QRectF, unit: str) -> None:
        painter.setPen(self._look.colour("text"))
        painter.setFont(font(13, 600))
        painter.drawText(QPointF(12, box.top() + 16), tr(REGISTRY[self.key].short))
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(11.5))
        hint = tr(REGISTRY[self.key].hint)
        painter.drawText(QPointF(12, box.top() + 33), f"{unit}, {hint}" if unit else hint)

    def _axis(self, painter: QPainter, box: QRectF, series: Series, low: float, high: float) -> None:
        unit = series.unit
        self._title(painter, box, tr({"stance": "stance"}.get(unit, UNITS[unit])))
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(11.5))
        y_of = _scale(box, low, high)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for value in _ticks(low, high, 3 if box.height() > LOW_PX else 1.5):
            y = y_of(value)
            if box.top() + 4 <= y <= box.bottom() - 4:
                text = number(value, unit).removesuffix(".0").replace("+0", "0")
                painter.drawText(QRectF(box.left() - 44, y - 9, 36, 18), right, text)

    def _channel(
        self,
        painter: QPainter,
        channel: Channel,
        reach: tuple[float, float],
        axis: TimeAxis,
        y_of: Callable[[float], float],
        series: Series,
    ) -> None:
        frames = np.arange(len(series.values), dtype=float)
        frames = np.unique(np.concatenate([frames, channel.frames]))
        low, high = channel.edges(frames, *reach)
        inside = np.isfinite(low)
        at = frames[inside]
        xs = axis.xs_of(at)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self._look.colour("clear", 0.65), 1))
        painter.setBrush(self._look.colour("clear", 0.22))
        painter.drawPolygon(_band(xs, y_of(high[inside]), y_of(low[inside])))
        values = np.interp(at, np.arange(len(series.values)), series.values)
        for edge, outside in ((low[inside], values < low[inside]), (high[inside], values > high[inside])):
            self._gap(painter, xs, y_of(values), y_of(edge), outside)

    def _gap(
        self,
        painter: QPainter,
        xs: np.ndarray,
        trace: np.ndarray,
        edge: np.ndarray,
        outside: np.ndarray,
    ) -> None:
        """Hatch between the trace and the edge it has crossed, both in places of the widget."""
        runs = np.flatnonzero(np.diff(np.concatenate([[0], outside.astype(int), [0]])))
        painter.setPen(Qt.PenStyle.NoPen)
        for first, last in runs.reshape(-1, 2):
            part = slice(first, last)
            shape = _band(xs[part], trace[part], edge[part])
            painter.setBrush(self._look.colour("fault", 0.14))
            painter.drawPolygon(shape)
            painter.setBrush(hatch(self._look))
            painter.drawPolygon(shape)

    def _trace(
        self,
        painter: QPainter,
        series: Series,
        axis: TimeAxis,
        y_of: Callable[[float], float],
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        upper, lower = y_of(series.values + series.sigma), y_of(series.values - series.sigma)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("ink", 0.30))
        painter.drawPolygon(_band(axis.xs, upper, lower))
        path = QPainterPath()
        path.addPolygon(_line(axis.xs, y_of(series.values)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.colour("ink"), 1.8))
        painter.drawPath(path)

    def _value(
        self,
        painter: QPainter,
        box: QRectF,
        series: Series,
        axis: TimeAxis,
        y_of: Callable[[float], float],
    ) -> None:
        frame = self._open.cursor.frame
        value, sigma = float(series.values[frame]), float(series.sigma[frame])
        at = QPointF(axis.x_of(frame), min(max(y_of(value), box.top()), box.bottom()))
        unit = tr({"stance": "stance"}.get(series.unit, UNITS[series.unit]))
        text = f"{number(value, series.unit)} ± {number(sigma, series.unit, signed=False)} {unit}"
        painter.setFont(font(12, 600))
        width = painter.fontMetrics().horizontalAdvance(text) + 16
        left = at.x() + 10 if at.x() + 10 + width < box.right() else at.x() - 10 - width
        top = min(max(at.y() - 24, box.top() + 2), box.bottom() - 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("ground", 0.92))
        painter.drawRoundedRect(QRectF(left, top, width, 22), 5, 5)
        painter.setPen(self._look.colour("text"))
        painter.drawText(QRectF(left, top, width, 22), Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(QPen(self._look.colour("ground"), 1.4))
        painter.setBrush(self._look.colour("ink"))
        painter.drawEllipse(at, 4, 4)


def _line(xs: np.ndarray, ys: np.ndarray) -> QPolygonF:
    """Places (N,) as a line, put where Qt keeps them: one object for each takes ten times as long."""
    line = QPolygonF()
    line.fill(QPointF(), len(xs))
    if len(xs):
        memory = line.data()
        memory.setsize(16 * len(xs))
        np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)[:] = np.stack([xs, ys], axis=1)
    return line


def _band(xs: np.ndarray, upper: np.ndarray, lower: np.ndarray) -> QPolygonF:
    """The area between two lines."""
    return _line(np.concatenate([xs, xs[::-1]]), np.concatenate([upper, lower[::-1]]))


def _scale(box: QRectF, low: float, high: float) -> Callable[..., Any]:
    """From values, one or many, to places down the widget."""
    per = box.height() / (high - low)
    return lambda value: box.bottom() - (value - low) * per


def _ticks(low: float, high: float, steps: float) -> list[float]:
    """Round values between ``low`` and ``high``, about so many steps apart."""
    rough = (high - low) / steps
    power = 10.0 ** np.floor(np.log10(rough))
    step = min((m * power for m in (1, 2, 5, 10)), key=lambda s: abs(s - rough))
    first = np.ceil(low / step)
    return [float(k * step) for k in np.arange(first, np.floor(high / step) + 1)]
