"""How measures show on the picture: the line each rests on, and the gap or angle that is written.

The shapes come from the registry's figures; nothing here knows a measure by name.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from kneel.desk.stage.facts import Place, address_frame, carried
from kneel.desk.swing import OpenSwing
from kneel.desk.words import tr
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Look, Measure, Shape
from kneel.motion.measures.lines import measure_of_line, words_at
from kneel.motion.quantity import Series, Single
from kneel.motion.study import Study
from kneel.speech.words import number, with_unit

BEYOND = 0.12
"""A line through joints runs on by this share of its length at either end."""


@dataclass(frozen=True)
class Drawn:
    """A measure on the picture at the cursor, places in px of the picture.

    ``plumbs`` are verticals through a place; ``firm`` and ``faint`` are lines of now and of address;
    ``gap`` is the distance itself; ``at`` is where it is written; ``points`` are those that it rests on.
    """

    key: str
    value: str
    error: str
    words: str
    at: Place
    main: bool
    past: bool
    plumbs: tuple[Place, ...] = ()
    firm: tuple[tuple[Place, Place], ...] = ()
    faint: tuple[tuple[Place, Place], ...] = ()
    gap: tuple[Place, Place] | None = None
    corner: tuple[Place, Place, Place] | None = None
    points: tuple[str, ...] = field(default=(), compare=False)


def figures_at(opened: OpenSwing) -> list[Drawn]:
    """What is measured on the picture now: the chosen finding's measure first, then the lines asked for."""
    analysis = opened.analysis
    if analysis is None:
        return []
    chosen = opened.selection.measure
    keys = [chosen] if chosen else []
    for line in opened.sight.lines:
        entry = measure_of_line(line, analysis.setup.view)
        if entry is not None and entry.key not in keys:
            keys.append(entry.key)
    made = [_drawn(opened, analysis, REGISTRY[key], main=key == chosen) for key in keys]
    return [one for one in made if one is not None]


def _drawn(opened: OpenSwing, analysis: Study, entry: Measure, *, main: bool) -> Drawn | None:
    series, look = analysis.measure(entry.key), analysis.way(entry.key)
    if isinstance(series, Failed) or isinstance(look, Failed):
        return None
    geometry = _Geometry(opened, analysis, look)
    shaped = geometry.shape(entry)
    if shaped is None:
        return None
    frame = opened.cursor.frame
    value, sigma = float(series.values[frame]), float(series.sigma[frame])
    return Drawn(
        entry.key,
        with_unit(number(value, series.unit), series.unit),
        f"± {number(sigma, series.unit, signed=False)}",
        tr(words_at(entry, analysis.setup.view, value)),
        main=main,
        past=main and _past(opened, series, value),
        points=tuple(dict.fromkeys((*entry.figure.points, *look.points))),
        **shaped,
    )


class _Geometry:
    """Where a measure's points are now and were at address, in the picture at the cursor."""

    def __init__(self, opened: OpenSwing, analysis: Study, look: Look) -> None:
        self._analysis, self._look = analysis, look
        self._frame = opened.cursor.frame
        self._address = address_frame(opened)

    def shape(self, entry: Measure) -> dict[str, object] | None:
        names = entry.figure.points
        if entry.figure.shape is Shape.PLUMB:
            return self._plumb(names)
        if entry.figure.shape is Shape.SEGMENT:
            return self._segment(names)
        if entry.figure.shape is Shape.ANGLE:
            return self._angle(names)
        if entry.figure.shape is Shape.GAP:
            return self._gap(names)
        return None

    def _plumb(self, names: Sequence[str]) -> dict[str, object] | None:
        """A vertical where the points were, and how far from it is what moves."""
        moving = [name for name in self._look.needs if name not in names] or list(names)
        foot = self._then(names) if set(names) & set(self._look.then) else self._now(names)
        body = self._now(moving)
        if foot is None or body is None:
            return None
        return {"plumbs": (foot,), "gap": ((foot[0], body[1]), body), "at": body}

    def _segment(self, names: Sequence[str]) -> dict[str, object] | None:
        """A line through the points now, and faintly as it was at address where that counts."""
        now, then = self._each(names), self._each(names, then=True)
        held = set(names) <= set(self._look.then) and not set(names) <= set(self._look.needs)
        if held and then:
            # The line stays where it was; what is measured against it moves.
            body = self._now(self._look.needs)
            ends = _longer(then[0], then[-1], 3 * BEYOND)
            if body is None:
                return None
            return {"firm": (ends,), "gap": (_foot_of(body, *ends), body), "at": body}
        if not now:
            return None
        faint = (_longer(then[0], then[-1], BEYOND),) if then and set(names) & set(self._look.then) else ()
        if len(now) > 2:
            faint = (*faint, (now[0], now[-1]))
            firm = tuple(pairwise(now))
        else:
            firm = (_longer(now[0], now[-1], BEYOND),)
        return {"firm": firm, "faint": faint, "at": _middle(now)}

    def _angle(self, names: Sequence[str]) -> dict[str, object] | None:
        """Two limbs that meet, or the line between two middles against the vertical."""
        if len(names) == 3:
            now = self._each(names)
            if not now:
                return None
            return {
                "firm": ((now[0], now[1]), (now[1], now[2])),
                "corner": (now[0], now[1], now[2]),
                "at": now[1],
            }
        if len(names) < 4:
            return None
        low, high = self._now(names[: len(names) // 2]), self._now(names[len(names) // 2 :])
        if low is None or high is None:
            return None
        upright = low[0], low[1] - float(np.hypot(high[0] - low[0], high[1] - low[1]))
        return {
            "firm": (_longer(low, high, BEYOND),),
            "faint": ((low, upright),),
            "corner": (upright, low, high),
            "at": high,
        }

    def _gap(self, names: Sequence[str]) -> dict[str, object] | None:
        """From the first point to the others, or from where they were to where they are."""
        moved = set(names) <= set(self._look.then) and set(names) <= set(self._look.needs)
        if moved or len(names) == 1:
            start, end = self._then(names), self._now(names)
            if start is None or end is None:
                return None
            half = 0.18 * self._analysis.px_per_m
            level = ((end[0] - half, start[1]), (end[0] + half, start[1]))
            return {"faint": (level,), "gap": ((end[0], start[1]), end), "at": end}
        first = self._now(names[:1])
        rest = self._then(names[1:]) if set(names[1:]) & set(self._look.then) else self._now(names[1:])
        if first is None or rest is None:
            return None
        return {"plumbs": (rest,), "gap": ((rest[0], first[1]), first), "at": first}

    def _each(self, names: Sequence[str], *, then: bool = False) -> list[Place]:
        places = [(self._then if then else self._now)([name]) for name in names]
        return [p for p in places if p is not None] if all(p is not None for p in places) else []

    def _now(self, names: Sequence[str]) -> Place | None:
        return self._mean(names, self._frame)

    def _then(self, names: Sequence[str]) -> Place | None:
        if self._address is None:
            return None
        mean = self._mean(names, self._address)
        return None if mean is None else carried(self._analysis, mean, self._address, self._frame)

    def _mean(self, names: Sequence[str], frame: int) -> Place | None:
        tracks = [self._analysis.track(name) for name in names]
        if not tracks or any(track is None for track in tracks):
            return None
        x, y = np.mean([track.xy[frame] for track in tracks if track is not None], axis=0).tolist()
        return x, y


def _past(opened: OpenSwing, series: Series, value: float) -> bool:
    """Whether the chosen finding is at work and the body is on its faulty side now."""
    finding, analysis = opened.selection.finding, opened.analysis
    if finding is None or analysis is None or not finding.verdict.at_work:
        return False
    if series.key not in finding.fault.measures or finding.checkpoint not in analysis.checkpoints:
        return False
    judged = analysis.at(series.key, finding.checkpoint)
    return isinstance(judged, Single) and judged.value * value > 0


def _longer(a: Place, b: Place, share: float) -> tuple[Place, Place]:
    dx, dy = share * (b[0] - a[0]), share * (b[1] - a[1])
    return (a[0] - dx, a[1] - dy), (b[0] + dx, b[1] + dy)


def _foot_of(p: Place, a: Place, b: Place) -> Place:
    """The place of a line nearest to a place."""
    along = np.subtract(b, a)
    share = float(np.dot(np.subtract(p, a), along) / max(float(np.dot(along, along)), 1e-9))
    return a[0] + share * float(along[0]), a[1] + share * float(along[1])


def _middle(places: Sequence[Place]) -> Place:
    return (places[0][0] + places[-1][0]) / 2, (places[0][1] + places[-1][1]) / 2
