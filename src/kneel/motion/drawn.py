"""How a measure shows on a picture: the line it rests on, and the gap or angle that is told.

The shapes come from the registry's figures; nothing here knows a measure by name. Places are px.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kneel.motion.failure import Failed
from kneel.motion.measures import Measure, Shape, Way
from kneel.motion.study import Study

Place = tuple[float, float]

BEYOND = 0.12
"""A line through joints runs on by this share of its length at either end."""


@dataclass(frozen=True)
class Shaped:
    """``plumbs`` are verticals through a place, ``firm`` and ``faint`` lines of now and of address; ``gap``
    is the distance itself, ``corner`` an angle with its middle place; ``at`` is where the number belongs.
    """

    at: Place
    plumbs: tuple[Place, ...] = ()
    firm: tuple[tuple[Place, Place], ...] = ()
    faint: tuple[tuple[Place, Place], ...] = ()
    gap: tuple[Place, Place] | None = None
    corner: tuple[Place, Place, Place] | None = None


def shape_of(study: Study, entry: Measure, frame: int, address: int | None) -> Shaped | None:
    """The shape of a measure on a frame, lines of address carried there; None where it has none here.

    >>> from kneel.motion.example import example
    >>> from kneel.motion.measures import REGISTRY
    >>> a, b = shape_of(example(), REGISTRY["pelvis_shift"], 48, 6).gap
    >>> round(a[0] - b[0])
    18
    """
    look = study.way(entry.key)
    if isinstance(look, Failed):
        return None
    geometry = _Geometry(study, look, frame, address)
    names = entry.figure.points
    match entry.figure.shape:
        case Shape.PLUMB:
            return geometry.plumb(names)
        case Shape.SEGMENT:
            return geometry.segment(names)
        case Shape.ANGLE:
            return geometry.angle(names)
        case Shape.GAP:
            return geometry.gap(names)
    return None


def carried(study: Study, xy: Place, start: int, end: int) -> Place:
    """Where a thing that stands still in life and is seen here on one frame is seen on another.

    >>> from kneel.motion.example import example
    >>> carried(example(), (5.0, 9.0), 0, 40)
    (5.0, 9.0)
    """
    if study.camera is None or start == end:
        return xy
    x, y = study.carried(np.array(xy), start, end).tolist()
    return x, y


class _Geometry:
    """Where a measure's points are now and were at address."""

    def __init__(self, study: Study, look: Way, frame: int, address: int | None) -> None:
        self._study, self._look, self._frame, self._address = study, look, frame, address

    def plumb(self, names: Sequence[str]) -> Shaped | None:
        """A vertical where the points were, and how far from it is what moves."""
        moving = [name for name in self._look.needs if name not in names] or list(names)
        foot = self._then(names) if set(names) & set(self._look.then) else self._now(names)
        body = self._now(moving)
        if foot is None or body is None:
            return None
        return Shaped(body, plumbs=(foot,), gap=((foot[0], body[1]), body))

    def segment(self, names: Sequence[str]) -> Shaped | None:
        """A line through the points now, and faintly as it was at address where that counts."""
        now, then = self._each(names), self._each(names, then=True)
        held = set(names) <= set(self._look.then) and not set(names) <= set(self._look.needs)
        if held and then:
            # The line stays where it was; what is measured against it moves.
            body = self._now(self._look.needs)
            ends = longer(then[0], then[-1], 3 * BEYOND)
            return None if body is None else Shaped(body, firm=(ends,), gap=(foot_of(body, *ends), body))
        if not now:
            return None
        faint = (longer(then[0], then[-1], BEYOND),) if then and set(names) & set(self._look.then) else ()
        firm: tuple[tuple[Place, Place], ...] = (longer(now[0], now[-1], BEYOND),)
        if len(now) > 2:
            faint, firm = (*faint, (now[0], now[-1])), tuple(pairwise(now))
        return Shaped(_middle(now), firm=firm, faint=faint)

    def angle(self, names: Sequence[str]) -> Shaped | None:
        """Two limbs that meet, or the line between two middles against the vertical."""
        if len(names) == 3:
            now = self._each(names)
            if not now:
                return None
            a, b, c = now
            return Shaped(b, firm=((a, b), (b, c)), corner=(a, b, c))
        if len(names) < 4:
            return None
        low, high = self._now(names[: len(names) // 2]), self._now(names[len(names) // 2 :])
        if low is None or high is None:
            return None
        upright = low[0], low[1] - float(np.hypot(high[0] - low[0], high[1] - low[1]))
        firm, faint = (longer(low, high, BEYOND),), ((low, upright),)
        return Shaped(high, firm=firm, faint=faint, corner=(upright, low, high))

    def gap(self, names: Sequence[str]) -> Shaped | None:
        """From the first point to the others, or from where they were to where they are."""
        moved = set(names) <= set(self._look.then) and set(names) <= set(self._look.needs)
        if moved or len(names) == 1:
            start, end = self._then(names), self._now(names)
            if start is None or end is None:
                return None
            half = 0.18 * self._study.px_per_m
            level = ((end[0] - half, start[1]), (end[0] + half, start[1]))
            return Shaped(end, faint=(level,), gap=((end[0], start[1]), end))
        first = self._now(names[:1])
        rest = self._then(names[1:]) if set(names[1:]) & set(self._look.then) else self._now(names[1:])
        if first is None or rest is None:
            return None
        return Shaped(first, plumbs=(rest,), gap=((rest[0], first[1]), first))

    def _each(self, names: Sequence[str], *, then: bool = False) -> list[Place]:
        places = [(self._then if then else self._now)([name]) for name in names]
        return [p for p in places if p is not None] if all(p is not None for p in places) else []

    def _now(self, names: Sequence[str]) -> Place | None:
        return self._mean(names, self._frame)

    def _then(self, names: Sequence[str]) -> Place | None:
        if self._address is None:
            return None
        mean = self._mean(names, self._address)
        return None if mean is None else carried(self._study, mean, self._address, self._frame)

    def _mean(self, names: Sequence[str], frame: int) -> Place | None:
        tracks = [self._study.track(name) for name in names]
        if not tracks or any(track is None for track in tracks):
            return None
        x, y = np.mean([track.xy[frame] for track in tracks if track is not None], axis=0).tolist()
        return x, y


def longer(a: Place, b: Place, share: float) -> tuple[Place, Place]:
    """A line with a share of its length more at either end.

    >>> longer((0.0, 0.0), (10.0, 20.0), 0.1)
    ((-1.0, -2.0), (11.0, 22.0))
    """
    dx, dy = share * (b[0] - a[0]), share * (b[1] - a[1])
    return (a[0] - dx, a[1] - dy), (b[0] + dx, b[1] + dy)


def foot_of(p: Place, a: Place, b: Place) -> Place:
    """The place of a line nearest to a place.

    >>> foot_of((3.0, 4.0), (0.0, 0.0), (10.0, 0.0))
    (3.0, 0.0)
    """
    along = np.subtract(b, a)
    share = float(np.dot(np.subtract(p, a), along) / max(float(np.dot(along, along)), 1e-9))
    return a[0] + share * float(along[0]), a[1] + share * float(along[1])


def _middle(places: Sequence[Place]) -> Place:
    return (places[0][0] + places[-1][0]) / 2, (places[0][1] + places[-1][1]) / 2
