"""What is drawn on one of two swings, drawn at the same place of the other body."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from kneel.compare.place import same_place, same_point
from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.drawing import drawn_at
from kneel.desk.swing import OpenSwing
from kneel.model import Drawn


def carried_over(one: OpenSwing, other: OpenSwing, canvas: Canvas) -> int:
    """Draw on the frame that the other shows what is chosen on ``canvas``, or all that is drawn there; gives
    how many. Raises :class:`kneel.model.UsageError` where the bodies are not known.
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
                frame=None if drawn.frame is None else other.cursor.frame,
                words=same_point(drawn.words, here, there) if drawn.shape == "prop" else drawn.words,
            )
        )
    now = other.document.now
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
