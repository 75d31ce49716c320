"""One propagation of errors for every measure, after the GUM (JCGM 100:2008, 5.1.2, 5.2.2).

A measure is a pure function of points. Its slopes against every coordinate,
now and at address, are taken by central differences through that same
function; what else can be wrong (:mod:`kneel.motion.sample`) moves points, and so
reaches the measure by the chain rule. Where the function bends or picks, so
that slopes lie (JCGM 101:2008), it is evaluated on draws from all causes instead.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from kneel.motion.draws import DRAWS, drawn_points, edge, of_those, on_draws
from kneel.motion.measurable import Measurable
from kneel.motion.sample import APART, Alike, FloatArray, Key, Sample

MOST_SHARE: Final = 2.0
"""Up to so many times of what first order tells the causes keep their shares of an error from draws."""

EDGE: Final = ("place", "edge")
"""What is left of such an error."""

WAY: Final = ("place", "way")
"""The error of a turn of which it is not sure which way it is."""

STEP: Final = 1e-3
"""Half the width of a central difference, as a share of the measured places' unit a metre."""

MOST_DRAWN: Final = 60
"""Over more frames than this only some are drawn; between them an error hardly changes."""


@dataclass(frozen=True)
class Slopes:
    """How a measure answers to places: by point (K, 2), now and then, in its unit per unit of place."""

    now: dict[str, FloatArray]
    then: dict[str, FloatArray]


@dataclass(frozen=True)
class Estimate:
    """A measure at K frames: ``values``, ``sigma`` and, where it bends, the 95 % interval (K,) each.

    ``causes`` maps each independent cause to how far one standard deviation of it moves the measure, (K,);
    ``slopes`` are those against the points; ``bent`` (K,) is how many times
    larger the error is than they tell.
    """

    values: FloatArray
    sigma: FloatArray
    low: FloatArray
    high: FloatArray
    causes: Mapping[Key, FloatArray]
    slopes: Slopes
    bent: FloatArray


def tell(measure: Measurable, sample: Sample, *, own: float = 0.0) -> Estimate:
    """Evaluate a measure with its whole error; ``own`` is what its definition leaves open.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> told = tell(study.way("pelvis_shift"), study._moments)
    >>> told.values[2].round(1).item(), bool(told.sigma[2] > 0.3)
    (-6.1, True)
    """
    values, slopes = differentiated(measure, sample)
    causes = {**_seen(slopes, sample), **chained(slopes, sample)}
    if own:
        causes[("definition",)] = np.full(len(values), own)
    sigma = np.sqrt(sum((c**2 for c in causes.values()), np.zeros(len(values))))
    if measure.bends:
        return _bent(measure, sample, values, causes, slopes, own)
    return Estimate(
        values, sigma, values - 1.96 * sigma, values + 1.96 * sigma, causes, slopes, np.ones(len(values))
    )


def _bent(
    measure: Measurable,
    sample: Sample,
    values: FloatArray,
    causes: Mapping[Key, FloatArray],
    slopes: Slopes,
    own: float,
) -> Estimate:
    """The error from draws about the value; causes keep their shares of it."""
    few = sample.thinned(MOST_DRAWN)
    drawn = few.sample.drawn(drawn_points)
    likelier = replace(
        few.sample, closed={j: np.where(c < 0, -1.0, 1.0) for j, c in few.sample.closed.items()}
    )
    found = on_draws(measure, drawn, likelier.closed)
    here = valued(measure, likelier)
    off = np.broadcast_to(found - here, (DRAWS, len(few.frames)))
    every = np.arange(len(values))
    square, ends = (off**2).mean(axis=0), np.percentile(off, [2.5, 97.5], axis=0)
    # Beside an edge, as at no turn at all, draws lie to one side: two sigma have to reach their far end.
    spread = np.maximum(np.sqrt(square), np.abs(ends).max(axis=0) / 2)
    if measure.cosines:
        can_be, least = edge(measure, drawn)
        of_these, far = of_those(off, can_be)
        spread = np.max([spread, np.sqrt(of_these), least], axis=0)
        lower, upper = np.minimum(ends[0], far[0]), np.maximum(ends[1], far[1])
        ends = np.stack([np.minimum(lower, -2 * least), np.maximum(upper, 2 * least)])
    way = _either_way(measure, few.sample, likelier, here)
    low, high = ends[0] - 2 * own, ends[1] + 2 * own
    low, high = low - (np.hypot(low, 2 * way) - np.abs(low)), high + np.hypot(high, 2 * way) - np.abs(high)
    sigma, way, low, high = (
        np.interp(every, few.frames, part) for part in (np.hypot(spread, own), way, low, high)
    )
    first_order = np.sqrt(sum((c**2 for c in causes.values()), np.zeros(len(values))))
    share = sigma / np.maximum(first_order, 1e-12)
    # Where slopes vanish, as at no turn at all, first order does not tell which cause the error is of:
    # what it cannot explain is the clip's own, or two clips would be taken to err alike.
    told = np.minimum(share, MOST_SHARE)
    scaled = {key: cause * told for key, cause in causes.items()}
    scaled[EDGE] = np.sqrt(np.maximum(sigma**2 - (told * first_order) ** 2, 0.0))
    if measure.turns:
        scaled[WAY] = way
    sigma = np.hypot(sigma, way)
    return Estimate(
        values, sigma, values + low, values + high, scaled, slopes, sigma / np.maximum(first_order, 1e-12)
    )


def _either_way(measure: Measurable, sample: Sample, likelier: Sample, here: FloatArray) -> FloatArray:
    """The error of a turn of which it is not sure which way it is, (K,); ``here`` it is by ``likelier``.

    Of what is turned as likely either way the mean is none, the error all of the turn. Half of that: what is
    square within its error looks turned, and the draws' spread has that in it.
    """
    square = np.zeros(len(here))
    for joint in measure.turns:
        closed = {**likelier.closed, joint: -likelier.closed[joint]}
        turned = (here - valued(measure, replace(likelier, closed=closed))) / 2
        square += (1 - sample.closed[joint] ** 2) * (turned / 2) ** 2
    return np.sqrt(square)


def valued(measure: Measurable, sample: Sample) -> FloatArray:
    """A measure as found, (K,).

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> valued(study.way("pelvis_shift"), study._moments).round(1)[2].item()
    -6.1
    """
    now, rest, signs = _looked_at(measure, sample)
    return np.asarray(measure.compute({**now, **signs}, rest))


def _looked_at(
    measure: Measurable, sample: Sample
) -> tuple[dict[str, FloatArray], dict[str, FloatArray], dict[str, FloatArray]]:
    """Places now (K, 2) and then (1, 2), and the signs of turns."""
    return (
        {p: sample.now[p] for p in measure.needs},
        {p: sample.then[p][None] for p in measure.then},
        {f"closed_{joint}": sample.closed[joint] for joint in measure.turns},
    )


def differentiated(measure: Measurable, sample: Sample) -> tuple[FloatArray, Slopes]:
    """Values (K,) and slopes, each coordinate moved to either side in turn.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> values, slopes = differentiated(study.way("pelvis_shift"), study._moments)
    >>> len(values) == len(study.checkpoints)
    True
    """
    now, rest, signs = _looked_at(measure, sample)
    compute = measure.compute
    values = np.asarray(compute({**now, **signs}, rest))
    step = STEP * sample.lens.per_m
    sides = step * np.array([[1.0, 0.0], [-1.0, 0.0], [0.0, 1.0], [0.0, -1.0]])[:, None]

    def slope(found: FloatArray) -> FloatArray:
        pairs = np.broadcast_to(found, (4, len(values)))
        return np.stack([pairs[0] - pairs[1], pairs[2] - pairs[3]], axis=1) / (2 * step)

    by_now = {p: slope(compute({**now, **signs, p: now[p] + sides}, rest)) for p in measure.needs}
    by_then = {p: slope(compute({**now, **signs}, {**rest, p: rest[p] + sides})) for p in measure.then}
    return values, Slopes(by_now, by_then)


def chained(slopes: Slopes, sample: Sample) -> dict[Key, FloatArray]:
    """How far one standard deviation of each cause moves the measure, (K,), by the chain rule.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> _, slopes = differentiated(study.way("pelvis_shift"), study._moments)
    >>> ("scale",) in chained(slopes, study._moments)
    True
    """
    total: dict[Key, FloatArray] = {}
    for point in {**slopes.now, **slopes.then}:
        causes = sample.causes[point]
        moved = np.zeros((len(causes.keys), len(sample.swings)))
        if point in slopes.now:
            moved = np.einsum("lkd,kd->lk", causes.now, slopes.now[point])
        if point in slopes.then:
            moved = moved + causes.then @ slopes.then[point].T
        for key, row in zip(causes.keys, moved, strict=True):
            total[key] = total[key] + row if key in total else row
    return total


def _seen(slopes: Slopes, sample: Sample) -> dict[Key, FloatArray]:
    """What each point's own place adds; what two points share goes to both.

    What lasts through the clip is told apart (``lasts``), by point, axis and source: the clips of one lesson
    have it alike. Of the rest a share comes again with the pose (``pose``), what is left (``place``) is the
    clip's own.
    """
    causes: dict[Key, FloatArray] = {}
    for point in {**slopes.now, **slopes.then}:
        variance = _cross(slopes, sample, point, point, sample.own(point)).sum(axis=1)
        causes[("place", point)] = np.sqrt(np.maximum(variance, 0.0))
    known = {*slopes.now, *slopes.then}
    for (a, b), alike in sample.alike.items():
        if a != b and {a, b} <= known:
            _share(causes, a, b, 2 * _cross(slopes, sample, a, b, alike).sum(axis=1))
    for point in {**slopes.now, **slopes.then}:
        causes.update(_lasting(slopes, sample, point, causes))
    return causes


def _lasting(
    slopes: Slopes, sample: Sample, point: str, causes: Mapping[Key, FloatArray]
) -> dict[Key, FloatArray]:
    """What lasts of a point's error, by axis and source, and what is left of its place, (K,) each."""
    moved = np.zeros((*sample.lasts[point].shape, 2))
    if point in slopes.now:
        moved = sample.lasts[point][:, :, None] * slopes.now[point][:, None]
    if point in slopes.then:
        moved = moved + sample.lasts_then[point][:, None] * slopes.then[point][:, None]
    lasting = (moved**2).sum(axis=(1, 2))
    # What two points share took from, or added to, all of a point's error alike; rounding leaves no more of
    # it.
    whole = _cross(slopes, sample, point, point, sample.own(point)).sum(axis=1)
    shared = causes["place", point] ** 2
    part = np.minimum(lasting / np.maximum(whole, 1e-30), 1.0)
    moved *= np.sqrt(part * shared / np.maximum(lasting, 1e-30))[:, None, None]
    told: dict[Key, FloatArray] = {
        ("lasts", point, axis, str(source)): moved[:, source, k]
        for source in range(moved.shape[1])
        for k, axis in enumerate("xy")
    }
    left, again = np.sqrt(np.maximum(shared * (1 - part), 0.0)), _again(slopes, sample, point)
    told["place", point] = left * np.sqrt(1 - again)
    if point in sample.repeats:
        told["pose", point] = left * np.sqrt(again)
    return told


def _again(slopes: Slopes, sample: Sample, point: str) -> FloatArray:
    """Which share of what a point adds comes again with the pose, (K,): as the measure asks for the middle of
    a pair, or for how far the two lie apart.
    """
    count = len(sample.swings)
    alone, apart = sample.repeats.get(point, (0.0, 0.0))
    side, _, joint = point.rpartition("_")
    if joint not in APART:
        return np.full(count, alone)
    other = f"{'trail' if side == 'lead' else 'lead'}_{joint}"
    one, two = (slopes.now.get(p, np.zeros((count, 2))) for p in (point, other))
    together = ((one + two) ** 2).sum(axis=1) / np.maximum(2 * (one**2 + two**2).sum(axis=1), 1e-30)
    return np.asarray(together * alone + (1 - together) * apart)


def _share(causes: dict[Key, FloatArray], a: str, b: str, extra: FloatArray) -> None:
    """Put what two points' common error adds, or takes off, to both."""
    total = causes["place", a] ** 2 + causes["place", b] ** 2
    grown = np.sqrt(np.maximum(1 + extra / np.maximum(total, 1e-30), 0.0))
    for point in (a, b):
        causes["place", point] = causes["place", point] * grown


def _cross(slopes: Slopes, sample: Sample, a: str, b: str, alike: Alike) -> FloatArray:
    """Covariance of what two points do to the measure, by axis, (K, 2)."""
    zero = np.zeros((1, 2))
    now_a, now_b = slopes.now.get(a, zero), slopes.now.get(b, zero)
    then_a, then_b = slopes.then.get(a, zero), slopes.then.get(b, zero)
    return np.asarray(
        now_a * now_b * alike.now * (sample.sigma[a] * sample.sigma[b])[:, None]
        + then_a * then_b * alike.then * (sample.sigma_then[a] * sample.sigma_then[b])
        + (now_a * then_b + now_b * then_a) * alike.across
    )
