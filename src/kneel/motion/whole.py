"""Quantities of a whole swing with their errors: the same function on draws of all it rests on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints import Checkpoint
from kneel.motion.clock import Slowed
from kneel.motion.draws import DRAWS, SEED, PointDraws, drawn_points, drawn_signs, on_draws
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Measure, Unit, Way
from kneel.motion.measures.registry import Course
from kneel.motion.places import Places
from kneel.motion.quantity import Single
from kneel.motion.sample import EACH_CLIP, ByPoint, Key, Sample
from kneel.motion.scale import Scale
from kneel.motion.setup import Setup
from kneel.motion.uncertain import valued

FloatArray = NDArray[np.float64]

MOST_FRAMES = 120
"""Series are thinned to about so many frames between address and finish."""

LEAST_DRAWS = 0.6
"""Where fewer draws give a value there may be none in truth."""


class WholeSwing(Protocol):
    """What a quantity of the whole swing asks of a study."""

    @property
    def setup(self) -> Setup: ...
    @property
    def times_s(self) -> FloatArray: ...
    @property
    def checkpoints(self) -> Mapping[str, Checkpoint]: ...
    @property
    def slowed(self) -> Slowed | None: ...
    @property
    def scale(self) -> Scale | Failed: ...
    @property
    def places(self) -> Places | Failed: ...
    @property
    def closed(self) -> dict[str, FloatArray]: ...

    def way(self, key: str) -> Way | Failed:
        """How a measure of frames is told."""

    def followed(self, look: Way) -> bool:
        """Whether all its points are followed well enough."""

    def guessed(self, look: Way) -> bool:
        """Whether the program found any of them."""

    def unit(self, key: str) -> str:
        """The unit in which a measure is told."""

    def paths(self, ends: tuple[str, ...]) -> Paths:
        """Whole paths as found and drawn."""


def told_once(study: WholeSwing, entry: Measure) -> Single | Failed:
    """Evaluate a quantity of the whole swing on what was found, and on draws for its error.

    >>> from kneel.motion.example import example
    >>> from kneel.motion.measures import REGISTRY
    >>> round(told_once(example(), REGISTRY["tempo"]).value, 1)
    2.8
    """
    course = entry.course
    assert course is not None
    if study.setup.view not in course.views:
        return Failed(f"{entry.title} cannot be seen {study.setup.view.value}.", "view")
    lacking = [name for name in course.at if name not in study.checkpoints]
    if lacking:
        words = " and ".join(name.replace("_", " ") for name in lacking)
        return Failed(f"{entry.title} needs {words}, which is not found in this swing.", "no checkpoint")
    if study.slowed is not None and entry.unit in (Unit.SECONDS, Unit.MILLISECONDS):
        seems = "slowed down" if study.slowed.rates else "too quick"
        reason = f"the clip looks {seems}, and nobody has said its true rate."
        return Failed(f"{entry.title} cannot be told: {reason}", "rate")
    looks = {key: study.way(key) for key in course.series}
    for look in looks.values():
        if isinstance(look, Failed):
            return look
        if not study.followed(look):
            return too_rough(entry)
        if course.marked and study.guessed(look):
            return Failed(f"{entry.title} needs marks: what the body model sees wavers too much.", "rough")
    found = _on_draws(study, course)
    value, draws = float(found[0]), found[1:]
    known = draws[np.isfinite(draws)]
    if not np.isfinite(value) or len(known) < LEAST_DRAWS * len(draws):
        return Failed(f"{entry.title} cannot be told. {course.none}".strip(), "none")
    if entry.unit is Unit.LENGTH and isinstance(study.scale, Scale):
        value, known = value / study.scale.cm_per_unit, known / study.scale.cm_per_unit
    sigma = float(np.sqrt(np.mean((known - value) ** 2) + course.own**2))
    if sigma > course.most:
        return Failed(f"{entry.title} cannot be told: it is too unsure.", "unsure")
    low, high = np.percentile(known, [2.5, 97.5]) + np.array([-2, 2]) * course.own
    return Single(
        entry.key,
        study.unit(entry.key),
        value,
        sigma,
        float(low),
        float(high),
        _parts=partial(told_parts, study, entry.key, value, sigma),
    )


def told_parts(study: WholeSwing, key: str, value: float, sigma: float) -> dict[Key, float]:
    """What of the error of a quantity of the whole swing is the clip's own (``paths``), and what its lesson's
    other clips share (``whole``): on draws of the first alone.

    >>> from kneel.motion.example import example
    >>> told = example().once("pelvis_peak_time")
    >>> parts = told_parts(example(), "pelvis_peak_time", told.value, told.sigma)
    >>> round(sum(part**2 for part in parts.values()) / told.sigma**2, 3)
    1.0
    """
    entry = REGISTRY[key]
    assert entry.course is not None
    found = _on_draws(study, entry.course, own=True)[1:]
    if entry.unit is Unit.LENGTH and isinstance(study.scale, Scale):
        found = found / study.scale.cm_per_unit
    known = found[np.isfinite(found)]
    own = min(float(np.sqrt(np.mean((known - value) ** 2))), sigma) if len(known) else sigma
    return {("paths", key): own, ("whole", key): float(np.sqrt(sigma**2 - own**2))}


def _on_draws(study: WholeSwing, course: Course, *, own: bool = False) -> FloatArray:
    """A quantity as found and on draws, (1 + DRAWS,); ``own``: from what is the clip's own alone."""
    looks = {key: look for key in course.series if isinstance(look := study.way(key), Way)}
    moments = _moments(study, course.at)
    paths = study.paths(course.at if course.fine else ("address", "finish")) if looks else None
    series = {key: _series(study, paths, key, look, own=own) for key, look in looks.items()}
    frames = np.arange(len(study.times_s)) if paths is None else paths.frames
    return np.asarray(course.compute(series, study.times_s[frames], moments))


def _moments(study: WholeSwing, names: tuple[str, ...]) -> dict[str, FloatArray]:
    """Times of checkpoints: as found, and drawn, (1 + DRAWS,) s."""
    out = {}
    for k, name in enumerate(names):
        point = study.checkpoints[name]
        lots = np.random.default_rng([SEED, 1, k]).standard_normal(DRAWS)
        out[name] = point.time_s + point.sigma_s * np.concatenate([[0.0], lots])
    return out


def _series(study: WholeSwing, paths: Paths | None, key: str, look: Way, *, own: bool) -> FloatArray:
    """A series as found and drawn, (1 + DRAWS, K), lengths in cm."""
    places = study.places
    assert isinstance(places, Places) and paths is not None
    found = valued(look, paths.sample)
    points = paths.own if own else paths.drawn
    drawn = np.broadcast_to(on_draws(look, points, drawn_signs(paths.sample.closed)), (DRAWS, len(found)))
    per = places.scale.cm_per_unit if REGISTRY[key].unit is Unit.LENGTH else 1.0
    return np.asarray(per * np.concatenate([found[None], drawn])[:, 1:])


@dataclass(frozen=True)
class Paths:
    """Whole paths of points at K ``frames``, as found and drawn; ``sample`` has address before them. ``own``
    is drawn from what is the clip's own alone.
    """

    frames: NDArray[np.int64]
    sample: Sample
    drawn: PointDraws
    own: PointDraws


def draw_paths(study: WholeSwing, names: tuple[str, ...]) -> Paths:
    """What quantities of a whole swing rest on, between the first and the last of some checkpoints.

    >>> from kneel.motion.example import example
    >>> len(draw_paths(example(), ("address", "finish")).frames) > 40
    True
    """
    places = study.places
    assert isinstance(places, Places)
    ends = [study.checkpoints[name].shown for name in names if name in study.checkpoints]
    first, last = (min(ends), max(ends)) if len(ends) > 1 else (0, len(study.times_s) - 1)
    frames = np.arange(first, last + 1, max(1, -(-(last - first) // MOST_FRAMES)))
    # Address goes first, in case no frame of the thinned ones is it.
    every = np.concatenate([[study.checkpoints["address"].shown], frames])
    sample = places.frames(every, study.closed)
    errors = ByPoint(lambda point: places.draws(point, DRAWS, every))
    wanders = ByPoint(lambda point: places.draws(point, DRAWS, every, lasting=False))
    own = drawn_points(sample, wanders, counts=lambda key: key[0] in EACH_CLIP)
    return Paths(frames, sample, drawn_points(sample, errors), own)


def too_rough(entry: Measure) -> Failed:
    """Why a measure is not told from what is followed.

    >>> from kneel.motion.measures import REGISTRY
    >>> too_rough(REGISTRY["tempo"]).code
    'rough'
    """
    return Failed(
        f"{entry.title} needs the hands and clubhead marked by hand: followed, they are too far off.", "rough"
    )
