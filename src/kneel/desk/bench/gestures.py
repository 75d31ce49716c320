"""One class per gesture of the mouse on the stage: it starts, moves, ends or is cancelled."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPointF

from kneel.desk.bench.viewport import Viewport
from kneel.desk.session import Session
from kneel.model import KnownLength, Mark


class Gesture(Protocol):
    """What the stage knows of a gesture."""

    def move(self, at: QPointF) -> None: ...

    def end(self, at: QPointF) -> None: ...

    def cancel(self) -> None: ...


class DragPoint:
    """Moves one point; the numbers follow live, the step is taken on release."""

    def __init__(self, session: Session, view: Viewport, point: str, at: QPointF, grab: QPointF) -> None:
        self._session, self._view = session, view
        self.point = point
        self._offset = grab - at
        self._moved = False
        self.place = view.to_picture(grab)

    def move(self, at: QPointF) -> None:
        self._moved = True
        self.place = self._view.to_picture(at + self._offset)
        self._show()

    def nudge(self, dx: float, dy: float) -> None:
        """Move by fractions of a picture pixel while held."""
        self._moved = True
        self._offset += QPointF(dx, dy) * self._view.scale
        self.place = self.place[0] + dx, self.place[1] + dy
        self._show()

    def end(self, at: QPointF) -> None:
        self._session.drop_preview()
        if self._moved:
            self._session.place(self.point, *self.place)

    def cancel(self) -> None:
        self._session.drop_preview()

    def _show(self) -> None:
        mark = Mark(self.point, self._session.frame, *self.place)
        history = self._session.history
        self._session.preview(history.now.with_mark(mark))


class DrawLength:
    """Draws a line along something of known length."""

    def __init__(self, session: Session, view: Viewport, at: QPointF, length_cm: float, what: str) -> None:
        self._session, self._view = session, view
        self._length, self._what = length_cm, what
        self.start = self.stop = view.to_picture(at)

    def move(self, at: QPointF) -> None:
        self.stop = self._view.to_picture(at)

    def end(self, at: QPointF) -> None:
        self.stop = self._view.to_picture(at)
        (ax, ay), (bx, by) = self.start, self.stop
        if abs(bx - ax) + abs(by - ay) < 3:
            return
        frame = self._session.frame
        scale = KnownLength(frame, ax, ay, bx, by, self._length, self._what)
        self._session.set("Set scale", scale=scale)

    def cancel(self) -> None:
        self.stop = self.start


class Pan:
    """Moves the zoomed picture."""

    def __init__(self, view: Viewport, at: QPointF) -> None:
        self._view, self._last = view, at

    def move(self, at: QPointF) -> None:
        self._view.pan(at.x() - self._last.x(), at.y() - self._last.y())
        self._last = at

    def end(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        return
