"""One class per gesture of the mouse on the stage: it starts, moves, ends or is cancelled."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np
from PyQt6.QtCore import QPointF

from kneel.desk.stage.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.model import Drawn, KnownLength, Mark
from kneel.model.take import MOST_PLACES


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
        x, y = self.place
        self._offset += self._view.to_widget(x + dx, y + dy) - self._view.to_widget(x, y)
        self.place = x + dx, y + dy
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
        document.preview(document.now.with_mark(mark))


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


class DrawShape:
    """Draws a shape on the frame on show: what it takes besides is asked for by ``asks``.

    ``asks`` is ``word`` where words are wanted at the place, ``leg`` where an angle lacks its other leg.
    """

    def __init__(self, opened: OpenSwing, view: Viewport, at: QPointF, shape: str) -> None:
        self._open, self._view, self.shape = opened, view, shape
        self._frame = opened.cursor.frame
        self._places = [view.to_picture(at)]
        self.asks = ""
        self.finished = False

    @property
    def drawn(self) -> Drawn | None:
        """What has been drawn so far."""
        single = self.shape in ("dot", "cross", "word")
        places = self._places[-1:] if single else self._places
        shape = "line" if self.shape == "angle" and len(places) == 2 else self.shape
        if shape == "word" or (not single and len(places) < 2):
            return None
        return Drawn(shape, tuple(float(v) for place in places for v in place), self._frame)

    def move(self, at: QPointF) -> None:
        place = self._view.to_picture(at)
        if self.shape == "pen":
            if len(self._places) < MOST_PLACES:
                self._places.append(place)
        elif self.shape == "angle" and self.asks:
            self._places[2:] = [place]
        else:
            self._places[1:] = [place]

    def end(self, at: QPointF) -> None:
        self.move(at)
        if self.shape == "word":
            self.asks = "word"
            return
        if self.shape == "angle" and not self.asks:
            # The corner was pressed on, so that it stands between both legs.
            self.finished = self._far() < LEAST_PX
            if self.finished:
                return
            self._places = [self._places[1], self._places[0], self._places[1]]
            self.asks = "leg"
            return
        self.finished = True
        drawn = self.drawn
        if drawn is not None and (self.shape in POINTLIKE or self._far() >= LEAST_PX):
            self.keep(drawn)

    def keep(self, drawn: Drawn) -> None:
        """Take it into the document."""
        if drawn.shape == "prop":
            drawn = Drawn("prop", drawn.points, None, self._nearest_point())
        now = self._open.document.now
        self._open.document.change(
            f"Draw a {drawn.shape}", now.given(drawn=(*now.drawn, drawn), guessed=now.guessed)
        )

    def word(self, words: str) -> None:
        """Write words where the click was."""
        if words.strip():
            x, y = self._places[0]
            self.keep(Drawn("word", (x, y), self._frame, words.strip()))

    def cancel(self) -> None:
        return

    def _far(self) -> float:
        places = np.array(self._places)
        return float(np.abs(places - places[0]).sum(axis=1).max()) * self._view.scale

    def _nearest_point(self) -> str:
        """The point of the body whose gap to the line is told: the one nearest to it now."""
        analysis = self._open.analysis
        if analysis is None:
            return ""
        a, b = np.array(self._places[0]), np.array(self._places[-1])
        normal = np.array([a[1] - b[1], b[0] - a[0]]) / max(float(np.linalg.norm(b - a)), 1e-9)
        gaps = {
            name: abs(float(np.dot(track.xy[self._frame] - a, normal)))
            for name, track in analysis.tracks.items()
            if name not in ("ball", "clubhead") and not analysis.gone(name, self._frame)
        }
        return min(gaps, key=lambda name: gaps[name], default="")


LEAST_PX = 4.0
POINTLIKE = ("dot", "cross")


class MoveDrawn:
    """Moves something that was drawn; release takes the step."""

    def __init__(
        self,
        opened: OpenSwing,
        view: Viewport,
        which: int,
        at: QPointF,
        moved: Callable[..., object],
    ) -> None:
        self._open, self._view, self._which, self._start = opened, view, which, at
        self._moved = moved
        self._by = QPointF()

    def move(self, at: QPointF) -> None:
        (x, y), (from_x, from_y) = self._view.to_picture(at), self._view.to_picture(self._start)
        self._by = QPointF(x - from_x, y - from_y)
        document = self._open.document
        document.preview(self._moved(document.now, self._which, self._by.x(), self._by.y()))

    def end(self, at: QPointF) -> None:
        document = self._open.document
        if abs(self._by.x()) + abs(self._by.y()) < 0.5:
            document.drop_preview()
            return
        now = document.now
        document.change("Move what is drawn", self._moved(now, self._which, self._by.x(), self._by.y()))

    def cancel(self) -> None:
        self._open.document.drop_preview()


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
