"""How the windows of a school over the swing are painted."""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QLinearGradient, QPainter, QPen, QPolygonF

from kneel.desk.places.schools.course import Corridors
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, RIGHT, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.judge.kinds import ONCE
from kneel.judge.records import Window
from kneel.motion.measures import REGISTRY
from kneel.speech.units import spoken
from kneel.speech.words import number, with_unit

if TYPE_CHECKING:
    from kneel.desk.places.schools.canvas import Canvas, Handle

LEFT_PX = 58
HANDLE = 22.0, 8.0
GATE_PX, FADE_PX = 9.0, 64.0
SIDES = ("lo", "hi")


class Painting:
    """Paints a canvas: columns, scale, gates and corridor, a second school, the swing, the handles."""

    def __init__(self, canvas: Canvas, look: Look) -> None:
        self._of, self._look = canvas, look

    def paint(self, painter: QPainter) -> None:
        """Paint all of it."""
        look = self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self._of.rect()), 6, 6)
        if self._of.shown is None:
            return
        self._paint_columns(painter, self._of.shown)
        self._paint_scale(painter, self._of.shown)
        self._paint_channel(painter, self._of.shown)
        pen = QPen(look.colour("secondary"), 1.4, Qt.PenStyle.DotLine)
        self._paint_edges(painter, self._of.shown.beside, pen)
        for at, window in self._of.shown.base.items():
            if at in self._of.shown.own:
                self._paint_edges(painter, {at: window}, QPen(look.colour("secondary"), 1.6))
        self._paint_course(painter, self._of.shown)
        for handle in self._of.handles():
            self._paint_handle(painter, handle)
        if self._of.hasFocus():
            painter.setPen(QPen(look.colour("chosen_edge"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self._of.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _paint_columns(self, painter: QPainter, shown: Corridors) -> None:
        box, look = self._of.box, self._look
        entry = REGISTRY[shown.measure]
        write(
            painter,
            QRectF(14, 8, self._of.width() - 28, 16),
            f"{tr(entry.title)}, {with_unit('', shown.unit).strip() or tr('share')}: {tr(entry.positive)}",
            font(11.5),
            look.colour("secondary"),
        )
        here = self._of.chosen.at if self._of.chosen else ""
        free = -1e9
        for k, at in enumerate(shown.columns):
            x = self._of.x_of(k)
            painter.setPen(QPen(look.colour("chosen_edge" if at == here else "edge"), 1))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            words = tr("once a swing") if at == ONCE else tr(checkpoint_title(at))
            type_ = font(12, 600 if at == here else 400)
            width = wide(words, type_) + 2
            place = QRectF(x - width / 2, box.top() - 22, width, 16)
            if place.left() > free:
                asked = at in shown.windows
                write(painter, place, words, type_, look.colour("text" if asked else "faint"), CENTRE)
                free = place.right() + 6

    def _paint_scale(self, painter: QPainter, shown: Corridors) -> None:
        box, look, (low, high) = self._of.box, self._look, self._of.reach()
        per = spoken(1.0, shown.unit)
        raw = (high - low) * per / 6
        power = 10.0 ** math.floor(math.log10(raw))
        tick = next(power * k for k in (1, 2, 5, 10) if power * k >= raw)
        for k in range(math.ceil(low * per / tick), math.floor(high * per / tick) + 1):
            value = k * tick / per
            y = self._of.y_of(value)
            painter.setPen(QPen(look.colour("faint", 0.9 if k == 0 else 0.4), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            place = QRectF(4, y - 8, LEFT_PX - 12, 16)
            words = number(value, shown.unit) if k else "0"
            write(painter, place, words, font(11), look.colour("secondary"), RIGHT)

    def _columns(self, windows: Mapping[str, Window]) -> list[tuple[float, Window]]:
        assert self._of.shown is not None
        return [
            (self._of.x_of(k), windows[at]) for k, at in enumerate(self._of.shown.columns) if at in windows
        ]

    def _paint_channel(self, painter: QPainter, shown: Corridors) -> None:
        """A gate at each checkpoint, fading out where a side is open, and between two the corridor."""
        box, told = self._of.box, self._columns(self._of.windows())
        if not told:
            words = tr("The school asks nothing of this number for this club.")
            write(painter, box, words, font(12), self._look.colour("secondary"), CENTRE)
            return
        painter.save()
        painter.setClipRect(box.adjusted(-GATE_PX, 0, GATE_PX, 0))
        painter.setPen(Qt.PenStyle.NoPen)
        for x, window in told:
            lo, hi = (None if one is None else self._of.y_of(one) for one in (window.lo, window.hi))
            top = hi if hi is not None else (lo or 0.0) - FADE_PX
            foot = lo if lo is not None else (hi or 0.0) + FADE_PX
            fade = QLinearGradient(0, top, 0, foot)
            for place, limit in ((0.0, hi), (1.0, lo)):
                fade.setColorAt(place, self._look.colour("clear", 0.42 if limit is not None else 0.0))
            painter.setBrush(QBrush(fade))
            painter.drawRect(QRectF(x - GATE_PX, top, 2 * GATE_PX, foot - top))
        painter.setBrush(self._look.colour("clear", 0.16))
        for (a, one), (b, other) in pairwise(told):
            if None not in (one.lo, one.hi, other.lo, other.hi):
                spots = [(a, one.hi), (b, other.hi), (b, other.lo), (a, one.lo)]
                painter.drawPolygon(
                    QPolygonF([QPointF(x, self._of.y_of(y)) for x, y in spots if y is not None])
                )
        painter.restore()
        self._paint_edges(painter, self._of.windows(), QPen(self._look.colour("clear"), 1.4))

    def _paint_edges(self, painter: QPainter, windows: Mapping[str, Window], pen: QPen) -> None:
        """The limits, joined where one checkpoint and the next have one on the same side."""
        told = self._columns(windows)
        painter.setPen(pen)
        for side in SIDES:
            for (a, one), (b, other) in pairwise(told):
                ends = getattr(one, side), getattr(other, side)
                if None not in ends:
                    painter.drawLine(QPointF(a, self._of.y_of(ends[0])), QPointF(b, self._of.y_of(ends[1])))
            for x, window in told:
                value = getattr(window, side)
                if value is not None:
                    y = self._of.y_of(value)
                    painter.drawLine(QPointF(x - GATE_PX, y), QPointF(x + GATE_PX, y))

    def _paint_course(self, painter: QPainter, shown: Corridors) -> None:
        course = shown.course
        if course is None:
            return
        look = self._look
        xs = np.array([self._of.x_of(x) for x in course.x])
        if len(xs) == 1:
            y, reach = self._of.y_of(course.values[0]), course.sigma[0]
            painter.setPen(QPen(look.colour("ink"), 2))
            top, foot = (self._of.y_of(course.values[0] + k * reach) for k in (1, -1))
            painter.drawLine(QPointF(xs[0], top), QPointF(xs[0], foot))
            painter.setBrush(look.colour("ink"))
            painter.drawEllipse(QPointF(xs[0], y), 4, 4)
            return
        upper = [QPointF(x, self._of.y_of(v)) for x, v in zip(xs, course.values + course.sigma, strict=True)]
        lower = [QPointF(x, self._of.y_of(v)) for x, v in zip(xs, course.values - course.sigma, strict=True)]
        painter.save()
        painter.setClipRect(self._of.box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("ink", 0.14))
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
        painter.setPen(QPen(look.colour("ink"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        spots = [QPointF(x, self._of.y_of(v)) for x, v in zip(xs, course.values, strict=True)]
        painter.drawPolyline(QPolygonF(spots))
        painter.restore()

    def _paint_handle(self, painter: QPainter, handle: Handle) -> None:
        assert self._of.shown is not None
        look, place = self._look, self._of.place_of(handle)
        chosen, over = handle == self._of.chosen, handle == self._of.over
        width, height = HANDLE
        box = QRectF(place.x() - width / 2, place.y() - height / 2, width, height)
        own = handle.at in self._of.shown.own
        painter.setPen(QPen(look.colour("text" if chosen or over else "panel"), 1.8 if chosen else 1.2))
        painter.setBrush(look.colour("chosen_edge" if own else "clear"))
        painter.drawRoundedRect(box, 3, 3)
        if chosen:
            value = getattr(self._of.windows()[handle.at], handle.side)
            words = number(value, self._of.shown.unit)
            above = handle.side == "hi"
            at = QRectF(place.x() - 40, place.y() + (-height / 2 - 18 if above else height / 2 + 2), 80, 16)
            width = wide(words, font(12, 600)) + 8
            painter.fillRect(QRectF(at.center().x() - width / 2, at.top(), width, 16), look.colour("panel"))
            write(painter, at, words, font(12, 600), look.colour("text"), CENTRE)
