"""Windows of a school as a corridor over the swing; each limit is a handle to drag, or to move by keys."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

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

LEFT_PX, TOP_PX, RIGHT_PX, BOTTOM_PX = 58, 52, 26, 16
HANDLE = 22.0, 8.0
GATE_PX, FADE_PX = 9.0, 64.0
NEAR_PX = 12.0
STEPS = {"cm": 0.5, "deg": 1.0}
"""One key moves a limit so far."""

MANY = 5
"""With Shift so many steps."""

SIDES = ("lo", "hi")


@dataclass(frozen=True)
class Handle:
    """One limit: at a checkpoint, ``lo`` or ``hi``."""

    at: str
    side: str


class Canvas(QWidget):
    """``picked`` tells that another handle is chosen; ``moved`` that a limit shall lie elsewhere (handle,
    value) once the hand lets go; ``opened`` asks for all that can be done with the window chosen,
    ``restored`` that it be as shipped.
    """

    picked = pyqtSignal()
    moved = pyqtSignal(object, float)
    opened = pyqtSignal()
    restored = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown: Corridors | None = None
        self.chosen: Handle | None = None
        self._drag: tuple[Handle, float, tuple[float, float]] | None = None
        self._over: Handle | None = None
        self.setMinimumHeight(220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Windows of the school over the swing"))
        look.changed.connect(self.update)

    def show_corridors(self, shown: Corridors) -> None:
        """Show other windows, or a measure's as they are now."""
        same = self.shown is not None and self.shown.measure == shown.measure
        self.shown = shown
        handles = self.handles()
        if not same or self.chosen is None or self.chosen.at not in shown.columns:
            self.chosen = next((one for one in handles if one.at in ("top", "impact")), None)
            self.chosen = self.chosen or next(iter(handles), None)
        self._drag = None
        self.update()

    # Where things lie

    @property
    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(LEFT_PX, TOP_PX, -RIGHT_PX, -BOTTOM_PX)

    def windows(self) -> Mapping[str, Window]:
        """The windows as they are drawn: with the limit under the hand where it is."""
        assert self.shown is not None
        if self._drag is None:
            return self.shown.windows
        handle, value, _ = self._drag
        return {**self.shown.windows, handle.at: _with(self.shown.windows[handle.at], handle.side, value)}

    def handles(self) -> list[Handle]:
        """Every limit there is, in the order of the swing."""
        if self.shown is None:
            return []
        windows = self.shown.windows
        return [
            Handle(at, side)
            for at in self.shown.columns
            for side in SIDES
            if at in windows and getattr(windows[at], side) is not None
        ]

    def reach(self) -> tuple[float, float]:
        """Lowest and highest value shown; it stays while a hand drags."""
        if self._drag is not None:
            return self._drag[2]
        assert self.shown is not None
        values, margins = [0.0], [1.0]
        for windows in (self.shown.windows, self.shown.beside, self.shown.base):
            for window in windows.values():
                values += [one for one in (window.lo, window.hi) if one is not None]
                margins.append(window.margin)
        course = self.shown.course
        if course is not None:
            values += [float(course.values.min()), float(course.values.max())]
        if REGISTRY[self.shown.measure].turned or len(values) == 1:
            values.append(0.0)
        elif not any(abs(one) < 4 * max(margins) for one in values[1:]):
            values = values[1:]
        room = max(1.5 * max(margins), 0.08 * (max(values) - min(values)))
        return min(values) - room, max(values) + room

    def x_of(self, column: float) -> float:
        """Where a column lies."""
        assert self.shown is not None
        box, count = self._box, len(self.shown.columns)
        return box.center().x() if count == 1 else box.left() + box.width() * (column + 0.35) / (count - 0.3)

    def y_of(self, value: float) -> float:
        """Where a value lies."""
        box, (low, high) = self._box, self.reach()
        return box.bottom() - box.height() * (value - low) / (high - low)

    def value_at(self, y: float) -> float:
        """The value at a height."""
        box, (low, high) = self._box, self.reach()
        return low + (high - low) * (box.bottom() - y) / box.height()

    def place_of(self, handle: Handle) -> QPointF:
        """Where a handle lies."""
        assert self.shown is not None
        value = getattr(self.windows()[handle.at], handle.side)
        return QPointF(self.x_of(self.shown.columns.index(handle.at)), self.y_of(value))

    @property
    def step(self) -> float:
        """How far one key moves a limit."""
        assert self.shown is not None
        low, high = self.reach()
        return STEPS.get(self.shown.unit, 10 ** math.floor(math.log10(max(high - low, 1e-6) / 20)))

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        if self.shown is None:
            return
        self._paint_columns(painter, self.shown)
        self._paint_scale(painter, self.shown)
        self._paint_channel(painter, self.shown)
        pen = QPen(look.colour("secondary"), 1.4, Qt.PenStyle.DotLine)
        self._paint_edges(painter, self.shown.beside, pen)
        for at, window in self.shown.base.items():
            if at in self.shown.own:
                self._paint_edges(painter, {at: window}, QPen(look.colour("secondary"), 1.6))
        self._paint_course(painter, self.shown)
        for handle in self.handles():
            self._paint_handle(painter, handle)
        if self.hasFocus():
            painter.setPen(QPen(look.colour("chosen_edge"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)

    def _paint_columns(self, painter: QPainter, shown: Corridors) -> None:
        box, look = self._box, self._look
        entry = REGISTRY[shown.measure]
        write(
            painter,
            QRectF(14, 8, self.width() - 28, 16),
            f"{tr(entry.title)}, {with_unit('', shown.unit).strip() or tr('share')}: {tr(entry.positive)}",
            font(11.5),
            look.colour("secondary"),
        )
        here = self.chosen.at if self.chosen else ""
        free = -1e9
        for k, at in enumerate(shown.columns):
            x = self.x_of(k)
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
        box, look, (low, high) = self._box, self._look, self.reach()
        per = spoken(1.0, shown.unit)
        raw = (high - low) * per / 6
        power = 10.0 ** math.floor(math.log10(raw))
        tick = next(power * k for k in (1, 2, 5, 10) if power * k >= raw)
        for k in range(math.ceil(low * per / tick), math.floor(high * per / tick) + 1):
            value = k * tick / per
            y = self.y_of(value)
            painter.setPen(QPen(look.colour("faint", 0.9 if k == 0 else 0.4), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            place = QRectF(4, y - 8, LEFT_PX - 12, 16)
            words = number(value, shown.unit) if k else "0"
            write(painter, place, words, font(11), look.colour("secondary"), RIGHT)

    def _columns(self, windows: Mapping[str, Window]) -> list[tuple[float, Window]]:
        assert self.shown is not None
        return [(self.x_of(k), windows[at]) for k, at in enumerate(self.shown.columns) if at in windows]

    def _paint_channel(self, painter: QPainter, shown: Corridors) -> None:
        """A gate at each checkpoint, fading out where a side is open, and between two the corridor."""
        box, told = self._box, self._columns(self.windows())
        if not told:
            words = tr("The school asks nothing of this number for this club.")
            write(painter, box, words, font(12), self._look.colour("secondary"), CENTRE)
            return
        painter.save()
        painter.setClipRect(box.adjusted(-GATE_PX, 0, GATE_PX, 0))
        painter.setPen(Qt.PenStyle.NoPen)
        for x, window in told:
            lo, hi = (None if one is None else self.y_of(one) for one in (window.lo, window.hi))
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
                painter.drawPolygon(QPolygonF([QPointF(x, self.y_of(y)) for x, y in spots if y is not None]))
        painter.restore()
        self._paint_edges(painter, self.windows(), QPen(self._look.colour("clear"), 1.4))

    def _paint_edges(self, painter: QPainter, windows: Mapping[str, Window], pen: QPen) -> None:
        """The limits, joined where one checkpoint and the next have one on the same side."""
        told = self._columns(windows)
        painter.setPen(pen)
        for side in SIDES:
            for (a, one), (b, other) in pairwise(told):
                ends = getattr(one, side), getattr(other, side)
                if None not in ends:
                    painter.drawLine(QPointF(a, self.y_of(ends[0])), QPointF(b, self.y_of(ends[1])))
            for x, window in told:
                value = getattr(window, side)
                if value is not None:
                    y = self.y_of(value)
                    painter.drawLine(QPointF(x - GATE_PX, y), QPointF(x + GATE_PX, y))

    def _paint_course(self, painter: QPainter, shown: Corridors) -> None:
        course = shown.course
        if course is None:
            return
        look = self._look
        xs = np.array([self.x_of(x) for x in course.x])
        if len(xs) == 1:
            y, reach = self.y_of(course.values[0]), course.sigma[0]
            painter.setPen(QPen(look.colour("ink"), 2))
            top, foot = (self.y_of(course.values[0] + k * reach) for k in (1, -1))
            painter.drawLine(QPointF(xs[0], top), QPointF(xs[0], foot))
            painter.setBrush(look.colour("ink"))
            painter.drawEllipse(QPointF(xs[0], y), 4, 4)
            return
        upper = [QPointF(x, self.y_of(v)) for x, v in zip(xs, course.values + course.sigma, strict=True)]
        lower = [QPointF(x, self.y_of(v)) for x, v in zip(xs, course.values - course.sigma, strict=True)]
        painter.save()
        painter.setClipRect(self._box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("ink", 0.14))
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
        painter.setPen(QPen(look.colour("ink"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        spots = [QPointF(x, self.y_of(v)) for x, v in zip(xs, course.values, strict=True)]
        painter.drawPolyline(QPolygonF(spots))
        painter.restore()

    def _paint_handle(self, painter: QPainter, handle: Handle) -> None:
        assert self.shown is not None
        look, place = self._look, self.place_of(handle)
        chosen, over = handle == self.chosen, handle == self._over
        width, height = HANDLE
        box = QRectF(place.x() - width / 2, place.y() - height / 2, width, height)
        own = handle.at in self.shown.own
        painter.setPen(QPen(look.colour("text" if chosen or over else "panel"), 1.8 if chosen else 1.2))
        painter.setBrush(look.colour("chosen_edge" if own else "clear"))
        painter.drawRoundedRect(box, 3, 3)
        if chosen:
            value = getattr(self.windows()[handle.at], handle.side)
            words = number(value, self.shown.unit)
            above = handle.side == "hi"
            at = QRectF(place.x() - 40, place.y() + (-height / 2 - 18 if above else height / 2 + 2), 80, 16)
            width = wide(words, font(12, 600)) + 8
            painter.fillRect(QRectF(at.center().x() - width / 2, at.top(), width, 16), look.colour("panel"))
            write(painter, at, words, font(12, 600), look.colour("text"), CENTRE)

    # Hands

    def _near(self, at: QPointF) -> Handle | None:
        handles = self.handles()
        far = {one: (self.place_of(one) - at) for one in handles}
        near = [one for one in handles if abs(far[one].x()) < HANDLE[0] and abs(far[one].y()) < NEAR_PX]
        return min(near, key=lambda one: abs(far[one].y()), default=None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.shown is None:
            return
        near = self._near(event.position())
        if near is not None:
            self._choose(near)
            if event.button() is Qt.MouseButton.LeftButton:
                value = getattr(self.shown.windows[near.at], near.side)
                self._drag = near, value, self.reach()
        else:
            columns = range(len(self.shown.columns))
            column = min(columns, key=lambda k: abs(self.x_of(k) - event.position().x()))
            above = event.position().y() < self._box.center().y()
            self._choose(Handle(self.shown.columns[column], "hi" if above else "lo"))
        if event.button() is Qt.MouseButton.RightButton:
            self.opened.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.opened.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            self._over = self._near(event.position()) if self.shown is not None else None
            self.setCursor(Qt.CursorShape.SizeVerCursor if self._over else Qt.CursorShape.ArrowCursor)
        else:
            handle, _, reach = self._drag
            step = self.step / 5 if self.shown and self.shown.unit in STEPS else self.step
            value = round(self.value_at(event.position().y()) / step) * step
            self._drag = handle, self._apart(handle, value), reach
            self.picked.emit()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and self.shown is not None:
            handle, value, _ = drag
            if value != getattr(self.shown.windows[handle.at], handle.side):
                self.moved.emit(handle, value)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._walk(1 if key is Qt.Key.Key_Right else -1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            many = MANY if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._nudge((many if key is Qt.Key.Key_Up else -many) * self.step)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.restored.emit()
        else:
            super().keyPressEvent(event)

    def _walk(self, way: int) -> None:
        """To the limit before or after, all checkpoints between them included."""
        if self.shown is None:
            return
        every = [Handle(at, side) for at in self.shown.columns for side in SIDES]
        known = set(self.handles())
        steps = [
            one for one in every if one in known or (one.at not in self.shown.windows and one.side == "hi")
        ]
        if not steps:
            return
        here = every.index(self.chosen) if self.chosen in every else -1
        later = [one for one in steps if (every.index(one) - here) * way > 0]
        if later:
            self._choose(later[0] if way > 0 else later[-1])

    def _nudge(self, by: float) -> None:
        if self.shown is None or self.chosen not in self.handles():
            return
        assert self.chosen is not None
        now = getattr(self.shown.windows[self.chosen.at], self.chosen.side)
        value = self._apart(self.chosen, round((now + by) / self.step) * self.step)
        if value != now:
            self.moved.emit(self.chosen, value)

    def _apart(self, handle: Handle, value: float) -> float:
        """A limit never passes the other one."""
        assert self.shown is not None
        window, least = self.shown.windows[handle.at], self.step / 5
        if handle.side == "lo" and window.hi is not None:
            value = min(value, window.hi - least)
        if handle.side == "hi" and window.lo is not None:
            value = max(value, window.lo + least)
        return round(value, 6)

    def _choose(self, handle: Handle) -> None:
        self.chosen = handle
        self.picked.emit()
        self.update()


def _with(window: Window, side: str, value: float) -> Window:
    limits = {"lo": window.lo, "hi": window.hi, side: value}
    return Window(window.measure, window.at, window.margin, limits["lo"], limits["hi"])
