"""A finding's measure as a small trace beside it: its course, the limit, and where it is judged."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.theme import Look
from kneel.judge import Finding
from kneel.motion.quantity import Series

POINTS = 48


@dataclass(frozen=True)
class TraceCourse:
    """Places of the trace in a unit square (K, 2), the limit's height, and where it is judged."""

    line: np.ndarray
    limit: float | None
    judged: tuple[float, float] | None


def course_of(opened: OpenSwing, finding: Finding) -> TraceCourse | None:
    """The course of a finding's measure from address to finish; None where it has none over time."""
    analysis = opened.analysis
    if analysis is None or finding.measure is None or finding.checkpoint not in analysis.checkpoints:
        return None
    series = analysis.measure(finding.measure)
    if not isinstance(series, Series):
        return None
    shown = [one.shown for one in analysis.checkpoints.values()]
    first, last = min(shown), max(shown)
    if last - first < 2:
        return None
    frames = np.unique(np.linspace(first, last, POINTS).round().astype(int))
    values = series.values[frames]
    limits = [v for v in (finding.limits.lo, finding.limits.hi) if v is not None] if finding.limits else []
    judged_at = analysis.checkpoints[finding.checkpoint].shown
    limit = min(limits, key=lambda v: abs(v - series.values[judged_at])) if limits else None
    every = [*values, *([limit] if limit is not None else [])]
    low, high = float(min(every)), float(max(every))
    span = max(high - low, 1e-9)

    def place(frame: float, value: float) -> tuple[float, float]:
        return (frame - first) / (last - first), 1.0 - (value - low) / span

    line = np.array([place(f, v) for f, v in zip(frames, values, strict=True)])
    return TraceCourse(
        line,
        None if limit is None else place(first, limit)[1],
        place(judged_at, float(series.values[judged_at])),
    )


def paint_course(painter: QPainter, look: Look, box: QRectF, course: TraceCourse, verdict: str) -> None:
    """The trace in a box, its limit as a dotted line."""

    def at(x: float, y: float) -> QPointF:
        return QPointF(box.left() + x * box.width(), box.top() + y * box.height())

    painter.setBrush(Qt.BrushStyle.NoBrush)
    if course.limit is not None:
        pen = QPen(look.colour("clear"), 1.2, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([2, 2])
        painter.setPen(pen)
        painter.drawLine(at(0, course.limit), at(1, course.limit))
    painter.setPen(QPen(look.colour("ink"), 1.3))
    painter.drawPolyline(QPolygonF([at(float(x), float(y)) for x, y in course.line]))
    if course.judged is not None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour(verdict))
        painter.drawEllipse(at(*course.judged), 2.8, 2.8)
