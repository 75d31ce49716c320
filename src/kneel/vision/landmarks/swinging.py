"""Where in a long film somebody swings a club.

Glances ten times a second follow everybody. Whoever walks, tees a ball up or leans on the club moves as much
of the picture as a swing does; but in a swing alone the hands are high, come down past the hips and are high
again within a second and a half, on feet that stay where they are.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.networks import Networks
from kneel.vision.landmarks.people import Glimpse, Person, glance, glimpse_in, people, same_place

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]
Pictures = Callable[[int], Picture]

GLANCE_S = 0.1
"""A downswing lasts about 0.3 s (common practice, no source): hands are seen low in it at least once."""

ANEW_EVERY = 5
"""Who came into the picture is looked for at every so many glances, and wherever nobody is known."""

HIGH, LOW = 0.6, 0.25
"""Hands above the hips, in trunk lengths: half a swing takes them to the shoulders, at the ball and walking
they hang about the hips."""

THROUGH_S = 0.9
"""From hands that are high past the hips to hands that are high again takes no longer: usual swings take a
third of a second."""

PACES = (1.0, 2.0, 4.0, 8.0)
"""So many times slower than life a film may run without saying so: told where nobody swings any faster."""

STAYS = 0.35
"""The foot that stays most moves by less through it, in trunk lengths; a stride is one and more."""

FEWEST = 4
"""Glimpses of somebody who can be said to swing."""


@dataclass(frozen=True)
class Swung:
    """A swing seen: when the hands went away from the ball, and when they came back to it, s."""

    away_s: float
    struck_s: float


def seen_swings(
    open_pictures: Callable[[], Pictures],
    times_s: FloatArray,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
    workers: int = 2,
) -> list[Swung] | None:
    """All swings of one golfer in a film, in order; of several who swing the one seen largest. None where
    nobody is seen.

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
        swinging = [one for one in persons if swings_of(one, times_s, pace)]
        if swinging:
            nearest = max(swinging, key=lambda one: float(np.median([g.region.side for g in one.glimpses])))
            return swings_of(nearest, times_s, pace)
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
    for k, frame in enumerate(frames):
        if stopped():
            break
        shown = picture(frame)
        here = [
            one
            for before in (out[-1] if out else [])
            if (one := glimpse_in(networks, shown, frame, before.region)) is not None
        ]
        if not here or k % ANEW_EVERY == 0:
            new = glance(networks, shown, frame, None)
            here += [g for g in new if not any(same_place(g.region, other.region) for other in here)]
        out.append(here)
        tell(k + 1)
    return out


def swings_of(person: Person, times_s: FloatArray, pace: float = 1.0) -> list[Swung]:
    """The swings of one person, by where hands and feet are at each glimpse, in a film that runs ``pace``
    times slower than life.
    """
    if len(person.glimpses) < FEWEST:
        return []
    times = times_s[[g.frame for g in person.glimpses]]
    xy = np.stack([g.xy for g in person.glimpses])
    hips, shoulders = xy[:, 23:25].mean(axis=1), xy[:, 11:13].mean(axis=1)
    trunk = float(np.percentile(np.linalg.norm(shoulders - hips, axis=1), 80))
    hands = (hips[:, 1] - xy[:, 15:17, 1].mean(axis=1)) / trunk
    out: list[Swung] = []
    for low in np.flatnonzero(hands < LOW).tolist():
        before, after = np.flatnonzero(hands[:low] > HIGH), np.flatnonzero(hands[low:] > HIGH)
        if not before.size or not after.size:
            continue
        top, follow = int(before[-1]), low + int(after[0])
        if times[follow] - times[top] > pace * THROUGH_S:
            continue
        feet = xy[top : follow + 1, 27:29]
        moved = np.linalg.norm(feet - feet[:1], axis=2).max(axis=0).min() / trunk
        if moved > STAYS or (out and times[top] < out[-1].struck_s):
            continue
        lowest = top + int(np.argmin(hands[top : follow + 1]))
        hung = np.flatnonzero(hands[:top] < LOW)
        away = times[int(hung[-1])] if hung.size else times[0]
        out.append(Swung(float(away), float(times[lowest])))
    return out
