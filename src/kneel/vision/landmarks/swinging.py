"""Where in a long film somebody swings a club.

Eight glances a second follow everybody, and three times as many where hands that were high come down and go
up again. Whoever walks, tees a ball up or leans on the club moves as much of the picture as a swing does; but
in a swing alone the hands are high, come down past the hips and are high again within a second, on feet that
stay where they are.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import chain, pairwise

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.networks import Networks
from kneel.vision.landmarks.people import (
    Glimpse,
    Person,
    glance,
    glimpse_in,
    hands_above_hips,
    nearest_middle,
    people,
    same_place,
    trunk_px,
)

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]
Pictures = Callable[[int], Picture]

GLANCE_S, CLOSER_S = 0.12, 0.04
"""Hands are high for half a second about the top, and longer after the ball; between they are low for about
two tenths (common practice, no source).
"""

ANEW_EVERY, NOBODY_EVERY = 5, 16
"""Who came into the picture is looked for at every so many glances; where nobody was yet, at every so many,
since the whole picture has to be gone through in small pieces.
"""

HIGH, LOW = 0.6, 0.25
"""Hands above the hips, in trunk lengths: half a swing takes them to the shoulders, at the ball and walking
they hang about the hips."""

THROUGH_S = 0.9
"""From hands that are high past the hips to hands that are high again takes no longer: usual swings take a
third of a second."""

PACES = (1.0, 2.0, 4.0, 8.0)
"""So many times slower than life a film may run without saying so: told where nobody swings any faster."""

STAYS = 0.25
"""The foot that stays most is no farther from its place through it, in trunk lengths; a stride is one and
more.
"""

AGAIN_S = 0.5
"""Nobody swings again whose hands have not hung for a while since the last."""


@dataclass(frozen=True)
class Swung:
    """A swing seen: when the hands went away from the ball, were last high above it, and came back to it, s.

    ``ankles`` are where both feet stand and ``trunk_px`` is how long the trunk is seen, px, in a film that
    runs ``pace`` times slower than life.
    """

    away_s: float
    struck_s: float
    top_s: float = float("nan")
    ankles: tuple[tuple[float, float], ...] = ()
    trunk_px: float = float("nan")
    pace: float = 1.0


def seen_swings(
    open_pictures: Callable[[], Pictures],
    times_s: FloatArray,
    width: int,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
    workers: int = 2,
) -> list[Swung] | None:
    """All swings of one golfer in a film ``width`` px wide, in order; of several who swing the one
    :func:`~kneel.vision.landmarks.people.nearest_middle`. None where nobody is seen.

    ``open_pictures`` gives a function from frame number to picture (H, W, 3) RGB, a fresh one for each
    thread, asked in rising order; ``times_s`` (T,) are real seconds. Raises ``BodyModelError``.
    """
    count = int((times_s[-1] - times_s[0]) / GLANCE_S) + 1
    wanted = np.searchsorted(times_s, times_s[0] + GLANCE_S * np.arange(count))
    frames = np.unique(np.minimum(wanted, len(times_s) - 1))
    parts = [part.tolist() for part in np.array_split(frames, workers) if part.size]
    done = [0] * len(parts)

    def work(k: int) -> list[list[Glimpse]]:
        def tell(n: int) -> None:
            done[k] = n
            progress(sum(done), len(frames))

        return _glances(Networks(), open_pictures(), parts[k], tell, stopped)

    with ThreadPoolExecutor(len(parts)) as pool:
        every = list(chain.from_iterable(pool.map(work, range(len(parts)))))
    persons = people(every)
    for pace in PACES:
        swinging: list[tuple[Person, list[Swung]]] = []
        for one in persons:
            seen = _closer(one, doubtful(one, times_s, pace), open_pictures, stopped)
            if found := swings_of(seen, times_s, pace):
                swinging.append((one, found))
        if swinging:
            golfer = nearest_middle([one for one, _ in swinging], width)
            return next(found for one, found in swinging if one is golfer)
    return [] if persons else None


def _glances(
    networks: Networks,
    picture: Pictures,
    frames: Sequence[int],
    tell: Callable[[int], None],
    stopped: Callable[[], bool],
) -> list[list[Glimpse]]:
    """Everybody in each frame: who was there before is followed, who is new looked for now and then."""
    out: list[list[Glimpse]] = []
    before: list[Glimpse] = []
    due = 0
    for k, frame in enumerate(frames):
        if stopped():
            break
        shown = picture(frame)
        here = [g for one in before if (g := glimpse_in(networks, shown, frame, one.region)) is not None]
        if k >= due or (before and not here):
            new = glance(networks, shown, frame, None)
            here += [g for g in new if not any(same_place(g.region, other.region) for other in here)]
            due = k + (ANEW_EVERY if here or any(out) else NOBODY_EVERY)
        before = here
        out.append(here)
        tell(k + 1)
    return out


def _places(person: Person) -> FloatArray:
    return np.stack([g.xy for g in person.glimpses])


def doubtful(person: Person, times_s: FloatArray, pace: float) -> NDArray[np.int64]:
    """The frames to look at closely, between glimpses of hands that were high and soon are again."""
    times, hands = times_s[[g.frame for g in person.glimpses]], hands_above_hips(_places(person))
    high = np.flatnonzero(hands > HIGH)
    some: list[FloatArray] = [np.empty(0)]
    for k, after in pairwise(high.tolist()):
        if after > k + 1 and times[after] - times[k] < pace * THROUGH_S + 2 * GLANCE_S:
            some.append(np.arange(times[k], times[after], pace * CLOSER_S))
    known = [g.frame for g in person.glimpses]
    return np.setdiff1d(np.searchsorted(times_s, np.concatenate(some)), known)


def _closer(
    person: Person,
    frames: NDArray[np.int64],
    open_pictures: Callable[[], Pictures],
    stopped: Callable[[], bool],
) -> Person:
    """Somebody with further glimpses, at frames in rising order."""
    if not frames.size:
        return person
    networks, picture, more = Networks(), open_pictures(), list(person.glimpses)
    for frame in frames.tolist():
        if stopped():
            break
        seen = glimpse_in(networks, picture(frame), frame, person.region(frame))
        if seen is not None:
            more.append(seen)
    return Person(tuple(sorted(more, key=lambda g: g.frame)))


def _strays(feet: FloatArray) -> float:
    """How far the foot that stays most is from where it usually is, but for a glimpse or two in which left is
    taken for right; ``feet`` (N, 2, 2).
    """
    order = np.argsort(feet[..., 0], axis=1)
    as_they_lie = np.take_along_axis(feet, order[..., None], axis=1)
    away = np.linalg.norm(as_they_lie - np.median(as_they_lie, axis=0), axis=2)
    return float(np.percentile(away, 80, axis=0).min())


def swings_of(person: Person, times_s: FloatArray, pace: float = 1.0) -> list[Swung]:
    """The swings of one person, by where hands and feet are at each glimpse, in a film that runs ``pace``
    times slower than life.
    """
    times = times_s[[g.frame for g in person.glimpses]]
    xy = _places(person)
    trunk = trunk_px(xy)
    hands, feet = hands_above_hips(xy), xy[:, 27:29] / trunk
    out: list[Swung] = []
    for low in np.flatnonzero(hands < LOW).tolist():
        before, after = np.flatnonzero(hands[:low] > HIGH), np.flatnonzero(hands[low:] > HIGH)
        if not before.size or not after.size:
            continue
        top, follow = int(before[-1]), low + int(after[0])
        if times[follow] - times[top] > pace * THROUGH_S:
            continue
        hung = np.flatnonzero(hands[:top] < LOW)
        away = float(times[int(hung[-1])] if hung.size else times[0])
        again = bool(out) and away < out[-1].struck_s + AGAIN_S
        if again or _strays(feet[top : follow + 1]) > STAYS:
            continue
        lowest = top + int(np.argmin(hands[top : follow + 1]))
        (left_x, left_y), (right_x, right_y) = np.median(xy[top : follow + 1, 27:29], axis=0).tolist()
        stands = ((left_x, left_y), (right_x, right_y))
        out.append(Swung(away, float(times[lowest]), float(times[top]), stands, trunk, pace))
    return out
