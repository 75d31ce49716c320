"""Both traces over the time of the swing on the desk, and under them what lies between."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.places.pair.clock import PairClock
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.timeline.lane import band_of, line_of, runs_of, scale_of
from kneel.desk.timeline.paint import boxes_of, paint_cursor, paint_times
from kneel.desk.timeline.painted import Painted
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, wide, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Series
from kneel.speech.words import length_words, number, spoken_unit, with_unit

LEFT, RIGHT, HEAD, AXIS = 148, 22, 22, 20
Traces = tuple[Series, np.ndarray, np.ndarray]

COVERS = 1.96
"""So many standard errors are what error alone makes, 95 times in 100."""


class PairLanes(QWidget):
    """A measure of both, in step, and its difference; dragging on it scrubs both."""

    def __init__(self, on_desk: OpenSwing, other: OpenSwing, clock: PairClock, look: Look) -> None:
        super().__init__()
        self._on_desk, self._other, self._clock, self._look = on_desk, other, clock, look
        self.measure: str | None = None
        self._moment: int | None = None
        self._painted = Painted()
        self._known: tuple[tuple[object, ...], Traces | None] | None = None
        self.setMinimumSize(QSize(360, 150))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Both swings over time, and what lies between"))
        for signal in (on_desk.cursor.moved, clock.changed, look.changed, other.numbers.renewed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(1000, 190)

    def show_measure(self, measure: str | None) -> None:
        """Show another measure."""
        self.measure = measure
        self.update()

    def show_moment(self, moment: int | None) -> None:
        """Show how far the swing is from what it was at a frame of it; None for another swing."""
        self._moment = moment
        self.update()

    @property
    def axis(self) -> TimeAxis | None:
        times = self._on_desk.times_s
        return TimeAxis(times, LEFT, max(self.width() - LEFT - RIGHT, 1)) if len(times) > 1 else None

    def traces(self) -> Traces | None:
        """The measure of the swing on the desk, and the other's value and error at each of its frames (T,),
        NaN where the other has no such moment; None where either does not tell it.
        """
        mine = self._series(self._on_desk)
        if mine is not None and self._moment is not None:
            # What both moments err by alike goes out; how much that is, the table says.
            there, frames = min(self._moment, len(mine.values) - 1), len(mine.values)
            return mine, np.full(frames, mine.values[there]), np.full(frames, np.nan)
        theirs = self._series(self._other)
        step = self._clock.step
        if mine is None or theirs is None or step is None or mine.unit != theirs.unit:
            return None
        there, times = step.to_b(self._on_desk.times_s), self._other.times_s
        known = (there >= times[0]) & (there <= times[-1])
        told = [np.where(known, np.interp(there, times, v), np.nan) for v in (theirs.values, theirs.sigma)]
        return mine, told[0], told[1]

    def _known_traces(self) -> Traces | None:
        """The traces, taken anew only where what they are of has changed."""
        of = self._on_desk.analysis, self._other.analysis, self._clock.step, self.measure, self._moment
        if self._known is None or any(a is not b for a, b in zip(of, self._known[0], strict=True)):
            self._known = of, self.traces()
        return self._known[1]

    def _series(self, swing: OpenSwing) -> Series | None:
        study = swing.analysis
        if study is None or self.measure is None:
            return None
        found = study.measure(self.measure)
        return found if isinstance(found, Series) and len(found.values) == len(swing.times_s) else None

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis, traces = self.axis, self._known_traces()
        if axis is None or traces is None or self.measure is None:
            words = tr("Both swings’ measures run here, in step, once two are compared.")
            write(painter, QRectF(self.rect()), words, font(12.5), self._look.colour("secondary"), CENTRE)
            return
        mine, values, sigma = traces
        room = QRectF(LEFT, HEAD, axis.width, self.height() - HEAD - AXIS)
        first, second = boxes_of(room, 2)
        between, error = mine.values - values, COVERS * np.hypot(mine.sigma, sigma)

        def still(on: QPainter) -> None:
            self._checkpoints(on, axis)
            self._both(on, first, axis, mine, values)
            self._between(on, second, axis, mine.unit, between, error)
            start = self._on_desk.numbers.shown("address")
            zero = float(self._on_desk.times_s[start]) if start is not None else 0.0
            paint_times(on, self._look, axis, zero, self.height() - AXIS, self.width())

        # A step moves the cursor; all else is painted anew only when it has changed.
        about = (
            *traces,
            self._on_desk.analysis,
            spoken_unit("cm"),
            self._on_desk.checkpoint or "",
            self._look.colours,
        )
        size = self.width(), self.height(), self.devicePixelRatioF()
        painter.drawPixmap(0, 0, self._painted.layer(size, about, still))
        cursor = self._on_desk.cursor.frame
        paint_cursor(painter, self._look, axis.x_of(cursor), axis, HEAD - 4, self.height() - AXIS + 4)
        self._told(painter, (first, second), axis, cursor, mine, values, between, error)

    def _title(self, painter: QPainter, box: QRectF, title: str, under: str) -> None:
        write(
            painter, QRectF(12, box.top() + 2, LEFT - 20, 18), title, font(12, 600), self._look.colour("text")
        )
        rest = QRectF(12, box.top() + 20, LEFT - 20, box.height() - 20)
        write_block(painter, rest, under, font(11.5), self._look.colour("secondary"))

    def _ground(self, painter: QPainter, box: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRect(box)

    def _both(self, painter: QPainter, box: QRectF, axis: TimeAxis, mine: Series, values: np.ndarray) -> None:
        self._ground(painter, box)
        entry = REGISTRY[mine.key]
        unit = tr(with_unit("", mine.unit, short=True)).strip()
        self._title(
            painter,
            box,
            tr(entry.short),
            tr("%s, %s · line: on the desk, dashes: beside") % (unit, entry.hint),
        )
        low, high = _reach(np.concatenate([mine.values, values]))
        y_of = scale_of(box, low, high)
        self._zero(painter, box, y_of(0.0))
        self._trace(
            painter, axis.xs, y_of(values), QPen(self._look.colour("secondary"), 1.8, Qt.PenStyle.DashLine)
        )
        self._trace(painter, axis.xs, y_of(mine.values), QPen(self._look.colour("ink"), 1.8))

    def _between(
        self,
        painter: QPainter,
        box: QRectF,
        axis: TimeAxis,
        unit: str,
        between: np.ndarray,
        error: np.ndarray,
    ) -> None:
        self._ground(painter, box)
        under = tr("grey: what error alone can make") if self._moment is None else tr("errors: in the table")
        self._title(painter, box, tr("Between them"), under)
        sure = error[np.isfinite(error)]
        usual = float(np.median(sure)) if len(sure) else 1.0
        low, high = _reach(np.concatenate([between, [1.4 * usual, -1.4 * usual]]))
        y_of = scale_of(box, low, high)
        known = np.isfinite(between) & np.isfinite(error)
        painter.save()
        painter.setClipRect(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("faint", 0.30))
        painter.drawPolygon(band_of(axis.xs[known], y_of(error[known]), y_of(-error[known])))
        self._zero(painter, box, y_of(0.0))
        self._trace(painter, axis.xs, y_of(between), QPen(self._look.colour("ink"), 1.8))
        real = known & (np.abs(between) > error)
        strong = np.where(real, between, np.nan)
        self._trace(painter, axis.xs, y_of(strong), QPen(self._look.colour("watch"), 3.0))
        painter.restore()

    def _zero(self, painter: QPainter, box: QRectF, y: float) -> None:
        painter.setPen(QPen(self._look.colour("faint", 0.6), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))

    def _trace(self, painter: QPainter, xs: np.ndarray, ys: np.ndarray, pen: QPen) -> None:
        """A line with gaps where nothing is known."""
        path = QPainterPath()
        for first, after in runs_of(np.isfinite(ys)):
            path.addPolygon(line_of(xs[first:after], ys[first:after]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen)
        painter.drawPath(path)

    def _checkpoints(self, painter: QPainter, axis: TimeAxis) -> None:
        """Where the checkpoints are, with the names of those that have room."""
        analysis, free = self._on_desk.analysis, 0.0
        type_, here = font(11.5), self._on_desk.checkpoint
        for name, point in analysis.checkpoints.items() if analysis else ():
            x, words = axis.x_of(point.frame), checkpoint_title(name)
            painter.setPen(QPen(self._look.colour("faint"), 1))
            painter.drawLine(QPointF(x, HEAD - 6), QPointF(x, self.height() - AXIS))
            width = wide(words, type_) + 8
            if x - width / 2 >= free and x + width / 2 <= self.width():
                colour = self._look.colour("text" if name == here else "secondary")
                write(painter, QRectF(x - width / 2, 0, width, HEAD - 6), words, type_, colour, CENTRE)
                free = x + width / 2

    def _told(
        self,
        painter: QPainter,
        boxes: tuple[QRectF, QRectF],
        axis: TimeAxis,
        frame: int,
        mine: Series,
        values: np.ndarray,
        between: np.ndarray,
        error: np.ndarray,
    ) -> None:
        """Both values at the cursor, and what lies between them."""
        if not 0 <= frame < len(between) or not np.isfinite(between[frame]):
            return
        unit = mine.unit
        both = f"{number(float(values[frame]), unit)} → {number(float(mine.values[frame]), unit)}"
        real = tr("beyond error") if abs(between[frame]) > error[frame] else tr("within error")
        gap = f"{length_words(float(between[frame]), float(error[frame]) / COVERS, unit)}, {real}"
        if not np.isfinite(error[frame]):
            gap = length_words(float(between[frame]), None, unit)
        words = (with_unit(both, unit, short=True), gap)
        for box, text in zip(boxes, words, strict=True):
            width = wide(text, font(12, 600)) + 16
            x = axis.x_of(frame) + 10
            left = x if x + width < box.right() else x - 20 - width
            tag = QRectF(left, box.bottom() - 24, width, 22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.colour("ground", 0.92))
            painter.drawRoundedRect(tag, 5, 5)
            write(painter, tag, text, font(12, 600), self._look.colour("text"), CENTRE)

    # The hand

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._scrub(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._on_desk.cursor.step(-1 if event.angleDelta().y() > 0 else 1)

    def _scrub(self, event: QMouseEvent) -> None:
        axis = self.axis
        if axis is not None and event.position().x() >= LEFT - 8:
            self._on_desk.cursor.go(round(axis.frame_at(event.position().x())))


def _reach(values: np.ndarray) -> tuple[float, float]:
    """Lowest and highest value shown, zero among them."""
    known = values[np.isfinite(values)]
    low, high = min(float(known.min()), 0.0), max(float(known.max()), 0.0)
    pad = 0.10 * (high - low) + 1e-6
    return low - pad, high + pad
