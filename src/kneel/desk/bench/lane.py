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
from kneel.judge import Reading
from kneel.judge.numbers import OfSwing, as_used
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Series
from kneel.speech.words import number, with_unit

GATE_PX = 4.0
"""Half the width of the window at a checkpoint."""

LOW_PX = 56
"""A lane lower than this has room for a value or two beside it."""


@dataclass(frozen=True)
class Channel:
    """The school's window at the checkpoints: frames (K,), its lower and upper edge, infinite where open."""

    frames: np.ndarray
    lo: np.ndarray
    hi: np.ndarray

    def edges(self, frames: np.ndarray, bottom: float, top: float) -> tuple[np.ndarray, np.ndarray]:
        """Both edges at some frames, an open side running to ``bottom`` or ``top``."""
        low = np.interp(frames, self.frames, np.where(np.isfinite(self.lo), self.lo, bottom))
        high = np.interp(frames, self.frames, np.where(np.isfinite(self.hi), self.hi, top))
        return low, high


def channel_of(opened: OpenSwing, key: str) -> Channel | None:
    """The channel of a measure: the windows as used at the checkpoints that are found."""
    analysis, reading = opened.analysis, opened.numbers.reading
    if analysis is None or reading is None:
        return None
    numbers, rows = OfSwing(analysis, opened.swing.club), []
    for name, found in analysis.checkpoints.items():
        window = reading.school.find(key, name, opened.swing.club)
        if window is not None:
            used = as_used(window, numbers, analysis.unit(key))
            lo = -np.inf if used.lo is None else used.lo
            rows.append((found.frame, lo, np.inf if used.hi is None else used.hi))
    if not rows:
        return None
    rows.sort()
    table = np.array(rows)
    return Channel(table[:, 0], table[:, 1], table[:, 2])


def seen_past(opened: OpenSwing, key: str) -> list[tuple[int, float, float]]:
    """Where a measure is judged past its limit: frame, value and limit."""
    analysis, reading = opened.analysis, opened.numbers.reading
    found = []
    for finding in reading.findings if analysis and reading else ():
        for one in finding.weighed:
            if one.check.measure == key and one.verdict.at_work and one.at in analysis.checkpoints:
                value, limits = one.told.value, one.limits
                below = limits.lo is not None and value < limits.lo
                found.append((analysis.checkpoints[one.at].shown, value, limits.lo if below else limits.hi))
    return found


class Lane:
    """Paints one measure in a rectangle: what stays while the cursor moves, and the value at the cursor."""

    def __init__(self, opened: OpenSwing, look: Look, key: str) -> None:
        self._open, self._look, self.key = opened, look, key
        self._reach: tuple[Series, Reading | None, tuple[float, float]] | None = None

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
            self._channel(painter, channel, (low, high), axis, y_of)
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
        reading, known = self._open.numbers.reading, self._reach
        if known is None or known[0] is not series or known[1] is not reading:
            known = self._reach = series, reading, self._found_range(series)
        return known[2]

    def _found_range(self, series: Series) -> tuple[float, float]:
        sure = series.sigma < 3 * np.median(series.sigma) + 1e-9
        low = float((series.values - series.sigma)[sure].min())
        high = float((series.values + series.sigma)[sure].max())
        channel = channel_of(self._open, self.key)
        if channel is not None:
            low = min(low, *channel.lo[np.isfinite(channel.lo)], low)
            high = max(high, *np.minimum(channel.hi[np.isfinite(channel.hi)], high + 2), high)
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
        self._title(painter, box, tr(with_unit("", unit, short=True)))
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
    ) -> None:
        """Firm at the checkpoints, where something is asked, and faint between; hatched past a limit."""
        low, high = channel.edges(channel.frames, *reach)
        xs = axis.xs_of(channel.frames)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("clear", 0.12))
        if len(xs) > 1:
            painter.drawPolygon(_band(xs, y_of(high), y_of(low)))
        painter.setBrush(self._look.colour("clear", 0.38))
        edge = QPen(self._look.colour("clear"), 1.6)
        for x, bottom, top, lo, hi in zip(xs, low, high, channel.lo, channel.hi, strict=True):
            painter.setPen(Qt.PenStyle.NoPen)
            gate = QRectF(QPointF(x - GATE_PX, y_of(top)), QPointF(x + GATE_PX, y_of(bottom)))
            painter.drawRect(gate)
            painter.setPen(edge)
            for limit, y in ((hi, gate.top()), (lo, gate.bottom())):
                if np.isfinite(limit):
                    painter.drawLine(QPointF(gate.left() - 2, y), QPointF(gate.right() + 2, y))
        for frame, value, limit in seen_past(self._open, self.key):
            x = axis.x_of(frame)
            gap = QRectF(
                QPointF(x - 1.6 * GATE_PX, y_of(value)), QPointF(x + 1.6 * GATE_PX, y_of(limit))
            ).normalized()
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.colour("fault", 0.20))
            painter.drawRect(gap)
            painter.setBrush(hatch(self._look))
            painter.drawRect(gap)

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
        unit = series.unit
        text = with_unit(f"{number(value, unit)} ± {number(sigma, unit, signed=False)}", unit, short=True)
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
