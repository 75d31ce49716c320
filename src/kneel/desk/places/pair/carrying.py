"""What is drawn on one of two swings, drawn at the same place of the other body."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from kneel.compare.place import same_place, same_point
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.drawing import drawn_at
from kneel.desk.swing import OpenSwing
from kneel.model import Drawn


def carried_over(one: OpenSwing, other: OpenSwing, canvas: Canvas, frame: int) -> int:
    """Draw on the other what is chosen on ``canvas``, or all that is drawn on its frame; gives how many.

    ``frame`` is the other's in step. Raises :class:`kneel.model.UsageError` where the bodies are not known.
    """
    here, there = one.analysis, other.analysis
    if here is None or there is None:
        return 0
    found = drawn_at(one)
    chosen = [drawn for number, drawn, _ in found if number == canvas.drawn]
    fresh: list[Drawn] = []
    for drawn in chosen or [drawn for _, drawn, _ in found]:
        places = same_place(here, there, np.array(drawn.points).reshape(-1, 2))
        fresh.append(
            replace(
                drawn,
                points=tuple(places.ravel().tolist()),
                frame=None if drawn.frame is None else frame,
                words=same_point(drawn.words, here, there) if drawn.shape == "prop" else drawn.words,
            )
        )
    now = other.document.history.now
    known = {(old.shape, old.frame, old.words, _near(old)) for old in now.drawn}
    fresh = [new for new in fresh if (new.shape, new.frame, new.words, _near(new)) not in known]
    if fresh:
        other.document.change(
            "Draw the same on the other", now.given(drawn=(*now.drawn, *fresh), guessed=now.guessed)
        )
    return len(fresh)


def _near(drawn: Drawn) -> tuple[int, ...]:
    """Its places to the pixel: what lies there already is not drawn twice."""
    return tuple(round(value) for value in drawn.points)


def frame_there(clock: PairClock, one: OpenSwing, other: OpenSwing, *, from_desk: bool) -> int:
    """The frame of the other in step with that of ``one``."""
    if not from_desk or clock.step is None or clock.held:
        return other.cursor.frame
    found = clock.other_frame(one.cursor.frame)
    return other.cursor.frame if found is None else round(found)
