"""The swings of a clip: seen by the body model, else by how much moves; kept by content.

A phone films how somebody walks in, rehearses and walks off as well. Where a swing is seen in a long clip it
is that part which is worth looking at: it takes a fraction of the time.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.evidence.shelf import Shelf, kept, packed
from kneel.evidence.stretch import Stretch
from kneel.footage import Clip, ClipInfo
from kneel.footage.hearing import in_real_time
from kneel.footage.span import HEARD_WITHIN_S, Span
from kneel.model import Swing
from kneel.motion.checkpoints import Moment
from kneel.vision.landmarks import installed
from kneel.vision.landmarks.swinging import Swung, seen_swings
from kneel.vision.looked import shared
from kneel.vision.struck import struck

FloatArray = NDArray[np.float64]
Progress = Callable[[int, int], None]

LONG_S = 5.0
"""A clip longer than this, in real seconds, shows more than one swing."""

USUAL_S, STILL_S, RESTS_S = 0.9, 1.0, 1.6
"""What belongs to a swing before the hands go away, and after they came back: address, and the finish; as
much longer as a swing takes longer than is usual from the one to the other.
"""

GLANCED = 0.9
"""The share of the work that is finding who swings; the rest is looking which of it strikes a ball."""

SWINGS = 2
"""Raise when swings are found otherwise, so that they are found anew."""


class _KeptSwings(msgspec.Struct, frozen=True):
    seen: bool
    spans: list[tuple[int, int, float]]


def swings_in(
    info: ClipInfo,
    content: str,
    capture_rate: float | None,
    strikes: Sequence[Moment],
    shelf: Shelf,
    *,
    progress: Progress = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[bool, list[Span]]:
    """The swings of a whole clip in order, and whether they were seen as somebody's who swings.

    ``strikes`` are in stored seconds. A rehearsal strikes nothing: see :func:`no_rehearsals`.
    Nothing, and nothing kept, once ``stopped`` says yes. Raises ``FootageError``.
    """
    key = shelf.key("swings", SWINGS, content, capture_rate, installed())
    known = kept(shelf, key, _KeptSwings)
    if known is None:
        times_s = info.real_s(capture_rate)
        heard = [moment.time_s for moment in in_real_time(strikes, info, capture_rate)]
        told = _seen(info, content, capture_rate, times_s, heard, progress, stopped)
        seen, spans = bool(told), told or []
        # Whoever is there and does not seem to swing may chip: by what moves then, where that strikes a ball.
        if not spans and not stopped() and (told is None or len(heard) > 1):
            # The filters take longer to load than a window to open; only this needs them.
            from kneel.footage.motion import find_swings, motion_energy

            with Clip(info.path) as clip:
                energy = motion_energy(clip, times_s, progress=progress, stopped=stopped)
            spans = find_swings(times_s, energy, heard)
        if stopped():
            return False, []
        known = _KeptSwings(seen, [(one.first, one.last, one.fastest_s) for one in spans])
        shelf.put(key, packed(known))
    return known.seen, [Span(*one) for one in known.spans]


def untouched(swing: Swing) -> bool:
    """Whether nobody has said which frames are the swing, or marked anything in it yet."""
    return swing.span is None and not swing.marks and not swing.pinned


def worth_parting(swing: Swing, length_s: float) -> bool:
    """Whether swings are to be looked for: a long clip that is :func:`untouched`."""
    return length_s > LONG_S and untouched(swing)


def parts_of(
    swing: Swing,
    info: ClipInfo,
    content: str,
    strikes: Sequence[Moment],
    shelf: Shelf,
    *,
    progress: Progress = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[tuple[int, int]]:
    """The first and last frame of each swing of a clip that is worth parting; empty where it is not, or where
    the whole of it is to be taken. ``strikes`` are in stored seconds. Raises ``FootageError``.
    """
    times_s = info.real_s(swing.capture_rate)
    if not len(times_s) or not worth_parting(swing, float(times_s[-1] - times_s[0])):
        return []
    seen, spans = swings_in(
        info, content, swing.capture_rate, strikes, shelf, progress=progress, stopped=stopped
    )
    # One burst of motion alone may be anything, and may be slowed down.
    return [(one.first, one.last) for one in spans] if seen or len(spans) > 1 else []


def _seen(
    info: ClipInfo,
    content: str,
    capture_rate: float | None,
    times_s: FloatArray,
    heard_s: Sequence[float],
    progress: Progress,
    stopped: Callable[[], bool],
) -> list[Span] | None:
    """None where nobody is seen."""
    if not installed() or len(times_s) < 2:
        return None
    whole = Stretch.of(Swing().given(capture_rate=capture_rate), info, content)
    glanced, looked = shared(progress, 0, GLANCED), shared(progress, GLANCED, 1 - GLANCED)
    found = seen_swings(
        lambda: whole.straight_reader().picture, times_s, info.width, progress=glanced, stopped=stopped
    )
    if found is None:
        return None
    if len(found) > 1:
        reader = whole.straight_reader()
        try:
            seen = struck(found, reader.luma, times_s, progress=looked, stopped=stopped)
        finally:
            reader.close()
        heard = [any(abs(one.struck_s - at) < HEARD_WITHIN_S for at in heard_s) for one in found]
        found = no_rehearsals(found, heard, seen)
    return spans_of(found, times_s)


def no_rehearsals(swings: Sequence[Swung], heard: Sequence[bool], seen: Sequence[bool | None]) -> list[Swung]:
    """The swings that strike a ball, as they were ``heard`` to strike and ``seen`` to (None where that is not
    told): those not seen to leave it, and of those only the ones heard or seen, where any is heard.

    >>> some = [Swung(2.0, 3.0), Swung(5.0, 6.0), Swung(8.0, 9.0)]
    >>> [one.away_s for one in no_rehearsals(some, [False, False, False], [False, True, None])]
    [5.0, 8.0]
    >>> [one.away_s for one in no_rehearsals(some, [False, False, True], [None, True, None])]
    [5.0, 8.0]
    >>> [one.away_s for one in no_rehearsals(some, [True, False, False], [False, True, None])]
    [5.0, 8.0]
    """
    told = any(h and s is not False for h, s in zip(heard, seen, strict=True))
    return [
        one for one, h, s in zip(swings, heard, seen, strict=True) if s or (s is None and (h or not told))
    ]


def spans_of(swings: Sequence[Swung], times_s: FloatArray) -> list[Span]:
    """The frames of each swing, address and finish with it, none in two.

    >>> clock = np.arange(0, 12, 0.02)
    >>> [(one.first, one.last) for one in spans_of([Swung(2.0, 3.0), Swung(5.0, 6.0)], clock)]
    [(45, 199), (200, 388)]
    """
    slow = [max((one.struck_s - one.away_s) / USUAL_S, 1.0) for one in swings]
    starts = [one.away_s - times * STILL_S for one, times in zip(swings, slow, strict=True)]
    ends = [one.struck_s + times * RESTS_S for one, times in zip(swings, slow, strict=True)]
    for k in range(len(swings) - 1):
        if ends[k] > starts[k + 1]:
            # A swing begins after the one before was over.
            ends[k] = starts[k + 1] = (swings[k].struck_s + swings[k + 1].away_s) / 2
    firsts = np.searchsorted(times_s, starts)
    lasts = np.searchsorted(times_s, ends) - (np.array(ends) <= times_s[-1])
    return [
        Span(int(first), int(min(last, len(times_s) - 1)), one.struck_s)
        for first, last, one in zip(firsts, lasts, swings, strict=True)
    ]
