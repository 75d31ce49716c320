"""Windows of a school as a corridor over the swing; each limit is a handle to drag, or to move by keys."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.places.schools.course import Corridors
from kneel.desk.places.schools.painting import HANDLE, LEFT_PX, SIDES, Painting
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.judge.records import Window
from kneel.motion.measures import REGISTRY

TOP_PX, RIGHT_PX, BOTTOM_PX = 52, 26, 16
NEAR_PX = 12.0
STEPS = {"cm": 0.5, "deg": 1.0}
"""One key moves a limit so far."""

MANY = 5
"""With Shift so many steps."""


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
        self._painting = Painting(self, look)
        self.shown: Corridors | None = None
        self.chosen: Handle | None = None
        self._drag: tuple[Handle, float, tuple[float, float]] | None = None
        self.over: Handle | None = None
        self.setMinimumHeight(220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Windows of the school over the swing"))
        look.changed.connect(self.update)

    def show_corridors(self, shown: Corridors) -> None:
        """Show other windows, or a measure's as they are now."""
        before = self.shown
        same = before is not None and _subject(before) == _subject(shown)
        self.shown = shown
        handles = self.handles()
        if not same or self.chosen is None or self.chosen.at not in shown.columns:
            self.chosen = next((one for one in handles if one.at in ("top", "impact")), None)
            self.chosen = self.chosen or next(iter(handles), None)
        if self._drag is not None and (not same or self._drag[0] not in handles):
            self._drag = None
        self.update()

    # Where things lie

    @property
    def box(self) -> QRectF:
        """Where the swing lies."""
        return QRectF(self.rect()).adjusted(LEFT_PX, TOP_PX, -RIGHT_PX, -BOTTOM_PX)

    def windows(self) -> Mapping[str, Window]:
        """The windows as they are drawn: with the limit under the hand where it is."""
        assert self.shown is not None
        if self._drag is None:
            return self.shown.windows
        handle, value, _ = self._drag
        return {
            **self.shown.windows,
            handle.at: replace(self.shown.windows[handle.at], **{handle.side: value}),
        }

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
        box, count = self.box, len(self.shown.columns)
        return box.center().x() if count == 1 else box.left() + box.width() * (column + 0.35) / (count - 0.3)

    def y_of(self, value: float) -> float:
        """Where a value lies."""
        box, (low, high) = self.box, self.reach()
        return box.bottom() - box.height() * (value - low) / (high - low)

    def value_at(self, y: float) -> float:
        """The value at a height."""
        box, (low, high) = self.box, self.reach()
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

    # Hands and eyes

    def paintEvent(self, event: QPaintEvent) -> None:
        self._painting.paint(QPainter(self))

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
            above = event.position().y() < self.box.center().y()
            self._choose(Handle(self.shown.columns[column], "hi" if above else "lo"))
        if event.button() is Qt.MouseButton.RightButton:
            self.opened.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.opened.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            self.over = self._near(event.position()) if self.shown is not None else None
            self.setCursor(Qt.CursorShape.SizeVerCursor if self.over else Qt.CursorShape.ArrowCursor)
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


def _subject(shown: Corridors) -> tuple[object, ...]:
    return shown.measure, shown.fault, shown.kind
