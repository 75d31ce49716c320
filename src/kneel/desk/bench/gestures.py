"""One class per gesture of the mouse on the stage: it starts, moves, ends or is cancelled."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPointF

from kneel.desk.bench.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.model import KnownLength, Mark


class Gesture(Protocol):
    """What the stage knows of a gesture."""

    def move(self, at: QPointF) -> None: ...

    def end(self, at: QPointF) -> None: ...

    def cancel(self) -> None: ...


class DragPoint:
    """Moves one point on the frame it was gripped on; the numbers follow live, release takes the step."""

    def __init__(self, opened: OpenSwing, view: Viewport, point: str, at: QPointF, grab: QPointF) -> None:
        self._open, self._view = opened, view
        self.point, self.frame = point, opened.cursor.frame
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
        if self._moved:
            self._open.document.place(self.point, self.frame, *self.place)
        else:
            self._open.document.drop_preview()

    def cancel(self) -> None:
        self._open.document.drop_preview()

    def _show(self) -> None:
        mark = Mark(self.point, self.frame, *self.place)
        document = self._open.document
        document.preview(document.history.now.with_mark(mark))


class DrawLength:
    """Draws a line along something of known length."""

    def __init__(self, opened: OpenSwing, view: Viewport, at: QPointF, length_cm: float, what: str) -> None:
        self._open, self._view = opened, view
        self._length, self._what = length_cm, what
        self._frame = opened.cursor.frame
        self.start = self.stop = view.to_picture(at)

    def move(self, at: QPointF) -> None:
        self.stop = self._view.to_picture(at)

    def end(self, at: QPointF) -> None:
        self.stop = self._view.to_picture(at)
        (ax, ay), (bx, by) = self.start, self.stop
        if abs(bx - ax) + abs(by - ay) < 3:
            return
        scale = KnownLength(self._frame, ax, ay, bx, by, self._length, self._what)
        self._open.set("Set scale", scale=scale)

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
