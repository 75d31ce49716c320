"""One lane of the ribbon: a trace with its error, the school's window as a channel, the gap hatched."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from kneel.desk.swing import OpenSwing
from kneel.desk.swing.figures import Figures
from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, LEFT, RIGHT, wide, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import hatch
from kneel.judge.corridor import Corridor, corridor_of
from kneel.motion.failure import Failed
from kneel.motion.ghost import Ghost
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Series
from kneel.motion.study import Study
from kneel.speech.units import spoken
from kneel.speech.words import number, with_unit

GATE_PX = 4.0
"""Half the width of the window at a checkpoint."""

VALUES_PX = 46
"""Room for the numbers of the scale, left of the lane."""

SUSPECT_TIMES = 2.5
"""A frame this many times less sure than usual is one to look at."""

LOW_PX = 56
"""A lane lower than this has room for a value or two beside it."""


def corridor_shown(opened: OpenSwing, key: str) -> Corridor | None:
    """The corridor of a measure under the school on show."""
    figures = opened.figures_of(key)
    if figures.analysis is None or figures.reading is None:
        return None
    return corridor_of(figures.analysis, figures.reading.school, key, opened.swing.club)


def seen_past(opened: OpenSwing, key: str) -> list[tuple[int, float, float]]:
    """Where a measure is judged past its limit: frame, value and limit."""
    figures = opened.figures_of(key)
    analysis, reading = figures.analysis, figures.reading
    found = []
    for finding in reading.findings if analysis and reading else ():
        for one in finding.weighed:
            if one.check.measure == key and one.verdict.at_work and one.at in analysis.checkpoints:
                value, limits = one.told.value, one.limits
                below = limits.lo is not None and value < limits.lo
                found.append((analysis.checkpoints[one.at].shown, value, limits.lo if below else limits.hi))
    return found


class RibbonLane:
    """Paints one measure in a rectangle: what stays while the cursor moves, and the value at the cursor."""

    def __init__(self, opened: OpenSwing, look: Look, key: str) -> None:
        self._open, self._look, self.key = opened, look, key
        self._reach: tuple[Figures, tuple[float, float]] | None = None
        self._known: tuple[Study | None, Series | Failed] | None = None

    def paint(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """Paint all that does not hang on the cursor."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRect(box)
        series = self._series()
        if not isinstance(series, Series):
            awaited = self._open.gathering.awaited
            self._absent(painter, box, tr("Kneel is looking for the joints.") if awaited else series.reason)
            return
        low, high = self._range(series)
        self._axis(painter, box, series, low, high)
        painter.save()
        painter.setClipRect(box)
        y_of = scale_of(box, low, high)
        channel = corridor_shown(self._open, self.key)
        if channel is not None:
            self._channel(painter, channel, (low, high), axis, y_of)
        painter.setPen(QPen(self._look.colour("faint", 0.6), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(box.left(), y_of(0.0)), QPointF(box.right(), y_of(0.0)))
        self._trace(painter, series, axis, y_of)
        self._suspects(painter, box, axis)
        painter.restore()

    def paint_value(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """Paint the value at the cursor, beside it."""
        series, frame = self._series(), self._open.cursor.frame
        if isinstance(series, Series) and frame < len(series.values) and axis.holds(axis.x_of(frame)):
            self._value(painter, box, series, axis, frame)

    def paint_aim(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """Paint where the measure of the corrected ghost would run, broken."""
        series, ghost = self._series(), self._open.aim.ghost
        if not isinstance(series, Series) or not isinstance(ghost, Ghost) or ghost.key != self.key:
            return
        y_of = scale_of(box, *self._range(series))
        course = ghost.own + self._open.aim.share * (ghost.aim - ghost.own)
        painter.save()
        painter.setClipRect(box)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.colour("clear"), 1.8, Qt.PenStyle.DashLine))
        for first, after in runs_of(ghost.aim != ghost.own):
            part = slice(max(first - 1, 0), after + 1)
            painter.drawPolyline(line_of(axis.xs[part], y_of(course[part])))
        painter.restore()

    def told(self, frame: int) -> str:
        """The value at a frame with its error, in words; empty where there is none."""
        series = self._series()
        if not isinstance(series, Series) or not 0 <= frame < len(series.values):
            return ""
        (value, sigma), unit = self._open.selection.told_at(series, frame), series.unit
        return with_unit(f"{number(value, unit)} ± {number(sigma, unit, signed=False)}", unit, short=True)

    def suspected(self) -> np.ndarray:
        """Which frames between address and finish are much less sure than usual, (T,) bool."""
        series, analysis = self._series(), self._open.figures_of(self.key).analysis
        if not isinstance(series, Series) or analysis is None:
            return np.zeros(0, bool)
        shown = [one.shown for one in analysis.checkpoints.values()]
        first, last = (min(shown), max(shown)) if len(shown) > 1 else (0, len(series.values) - 1)
        usual = float(np.median(series.sigma[first : last + 1]))
        unsure = series.sigma > SUSPECT_TIMES * usual
        unsure[:first] = unsure[last + 1 :] = False
        return unsure

    def _suspects(self, painter: QPainter, box: QRectF, axis: TimeAxis) -> None:
        """A bar under the frames that are suspected: look there first."""
        unsure = self.suspected()
        if not unsure.any():
            return
        runs = runs_of(unsure)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("watch"))
        for first, after in runs:
            left, right = axis.x_of(first - 0.5), axis.x_of(after - 0.5)
            painter.drawRect(QRectF(left, box.bottom() - 3, max(right - left, 2.0), 3))
        first, after = runs[0]
        at = axis.x_of(after - 0.5) + 6
        room = QRectF(at, box.bottom() - 14, max(box.right() - at, 0.0), 12)
        write(painter, room, tr("less sure: look here first"), font(10.5), self._look.colour("watch"))

    def _series(self) -> Series | Failed:
        analysis = self._open.figures_of(self.key).analysis
        if self._known is None or self._known[0] is not analysis:
            self._known = analysis, analysis.measure(self.key) if analysis else Failed("")
        return self._known[1]

    def _absent(self, painter: QPainter, box: QRectF, reason: str) -> None:
        inner = box.adjusted(12, 4, -12, -4)
        write_block(painter, inner, reason, font(12), self._look.colour("secondary"), LEFT)
        self._title(painter, box, "")

    def _range(self, series: Series) -> tuple[float, float]:
        """Lowest and highest value shown: trace, error where it is modest, and closed windows."""
        figures, known = self._open.figures_of(self.key), self._reach
        if known is None or known[0] is not figures:
            known = self._reach = figures, self._found_range(series)
        return known[1]

    def _found_range(self, series: Series) -> tuple[float, float]:
        sure = series.sigma < 3 * np.median(series.sigma) + 1e-9
        low = float((series.values - series.sigma)[sure].min())
        high = float((series.values + series.sigma)[sure].max())
        channel = corridor_shown(self._open, self.key)
        if channel is not None:
            low = min(low, *channel.lo[np.isfinite(channel.lo)], low)
            high = max(high, *np.minimum(channel.hi[np.isfinite(channel.hi)], high + 2), high)
        low, high = min(low, 0.0), max(high, 0.0)
        pad = 0.10 * (high - low) + 1e-6
        return low - pad, high + pad

    def _title(self, painter: QPainter, box: QRectF, unit: str) -> None:
        """Name, unit and sign at the left, as much of it as the lane is high."""
        room = QRectF(12, box.top() + 2, box.left() - 12 - VALUES_PX, box.height() - 2)
        hint = tr(REGISTRY[self.key].hint)
        words = f"{unit}, {hint}" if unit else hint
        type_, small = font(13, 600), font(11.5)
        title = tr(REGISTRY[self.key].short)
        high = 18.0
        if wide(title, type_) > room.width():
            type_ = font(12, 600)
            two = QRectF(room.left(), room.top(), room.width(), min(32.0, room.height()))
            high = write_block(painter, two, title, type_, self._look.colour("text")) + 2
        else:
            write(
                painter,
                QRectF(room.left(), room.top(), room.width(), 18),
                title,
                type_,
                self._look.colour("text"),
            )
        rest = room.adjusted(0, high, 0, 0)
        if rest.height() >= 15:
            short = words if wide(words, small) <= rest.width() or rest.height() >= 30 else unit or hint
            if wide(short, small) <= rest.width():
                write(
                    painter,
                    QRectF(rest.left(), rest.top(), rest.width(), 16),
                    short,
                    small,
                    self._look.colour("secondary"),
                )
            elif rest.height() >= 30:
                write_block(painter, rest, short, small, self._look.colour("secondary"))

    def _axis(self, painter: QPainter, box: QRectF, series: Series, low: float, high: float) -> None:
        unit = series.unit
        self._title(painter, box, tr(with_unit("", unit, short=True)))
        y_of, type_, colour = scale_of(box, low, high), font(11.5), self._look.colour("secondary")
        per = spoken(1.0, unit)
        for tick in _ticks(low * per, high * per, 3 if box.height() > LOW_PX else 1.5):
            value = tick / per
            y = y_of(value)
            if box.top() + 4 <= y <= box.bottom() - 4:
                text = number(value, unit).removesuffix(".0").replace("+0", "0")
                write(
                    painter,
                    QRectF(box.left() - VALUES_PX, y - 9, VALUES_PX - 6, 18),
                    text,
                    type_,
                    colour,
                    RIGHT,
                )

    def _channel(
        self,
        painter: QPainter,
        channel: Corridor,
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
            painter.drawPolygon(band_of(xs, y_of(high), y_of(low)))
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
        painter.drawPolygon(band_of(axis.xs, upper, lower))
        path = QPainterPath()
        path.addPolygon(line_of(axis.xs, y_of(series.values)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._look.colour("ink"), 1.8))
        painter.drawPath(path)

    def _value(self, painter: QPainter, box: QRectF, series: Series, axis: TimeAxis, frame: int) -> None:
        y_of = scale_of(box, *self._range(series))
        value = float(series.values[frame])
        at = QPointF(axis.x_of(frame), min(max(y_of(value), box.top()), box.bottom()))
        text, type_ = self.told(frame), font(12, 600)
        width = wide(text, type_) + 16
        left = at.x() + 10 if at.x() + 10 + width < box.right() else at.x() - 10 - width
        top = min(max(at.y() - 24, box.top() + 2), box.bottom() - 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("ground", 0.92))
        painter.drawRoundedRect(QRectF(left, top, width, 22), 5, 5)
        write(painter, QRectF(left, top, width, 22), text, type_, self._look.colour("text"), CENTRE)
        painter.setPen(QPen(self._look.colour("ground"), 1.4))
        painter.setBrush(self._look.colour("ink"))
        painter.drawEllipse(at, 4, 4)


def runs_of(known: np.ndarray) -> np.ndarray:
    """Where something holds (T,) bool, run by run: the first frame of each and the one after it, (N, 2)."""
    return np.flatnonzero(np.diff(np.concatenate([[0], known.astype(int), [0]]))).reshape(-1, 2)


def line_of(xs: np.ndarray, ys: np.ndarray) -> QPolygonF:
    """Places (N,) as a line, put where Qt keeps them: one object for each takes ten times as long."""
    line = QPolygonF()
    line.fill(QPointF(), len(xs))
    if len(xs):
        memory = line.data()
        memory.setsize(16 * len(xs))
        np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)[:] = np.stack([xs, ys], axis=1)
    return line


def band_of(xs: np.ndarray, upper: np.ndarray, lower: np.ndarray) -> QPolygonF:
    """The area between two lines."""
    return line_of(np.concatenate([xs, xs[::-1]]), np.concatenate([upper, lower[::-1]]))


def scale_of(box: QRectF, low: float, high: float) -> Callable[..., Any]:
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
