"""Did it change? Two sides of several swings each, and what of their errors the two share.

Two swings tell only whether these two differ. Whether the student changed needs the spread from swing to
swing, from at least three a side. The error of a difference of means is

    sigma² = what the sides do not share of scale, camera and marks + s²/n₁ + s²/n₂

and what the swings of one side share is not divided by n. The limit is Student's t at the effective degrees
of freedom of that sum (Welch and Satterthwaite; GUM, JCGM 100:2008, G.4.2): what each side brings is known to
infinitely many, s² to n₁ + n₂ − 2. The least change that can be told at 95 % is that limit times sigma; for
one swing a side and nothing but a known error of measurement it is 1.96 √2 SEM.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from scipy.special import stdtr, stdtrit

from kneel.judge.numbers import Side
from kneel.judge.sharing import Told, own_variance, shared_moves
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.motion.sample import Key

LEAST_SWINGS = 3
"""So many swings a side tell a spread that can be relied on."""

ALONE, FAMILY = 0.05, 0.02
"""Chance of a false claim: of the number that a plan prescribed, and of all others together (Holm)."""

CAMERA = ("roll", "yaw", "perspective", "height", "deep aside", "nearer aside", "nearer")
"""Causes that hang on where the camera stands."""

BODY = ("deep", "definition")
"""Causes that lie in the golfer's own build: alike on both sides."""


class Changed(StrEnum):
    """What can be said. ``DIFFER`` and ``ALIKE`` speak of these swings and not of the student."""

    CHANGED = "changed"
    CANNOT_TELL = "cannot tell"
    UNCHANGED = "unchanged"
    DIFFER = "these differ"
    ALIKE = "these do not differ"


@dataclass(frozen=True)
class Between:
    """What lies between the sides: another lesson, and whether the background shows that the camera stood.

    Within one lesson clothes, and so what they hide, are the same.
    """

    lessons: bool = True
    stood: bool = False


@dataclass(frozen=True)
class Change:
    """One measure on both sides: means, their difference with its standard error, and what can be said of it.

    ``detectable`` is the least change that can be told at 95 %, ``spread`` the standard deviation from swing
    to swing, ``freedom`` the effective degrees of freedom; ``p`` is two-sided. ``after_sigma`` is the whole
    standard error of the mean after, nothing cancelled. All in ``unit``.
    """

    measure: str
    at: str
    unit: str
    before: float
    after: float
    after_sigma: float
    sigma: float
    freedom: float
    detectable: float
    spread: float | None
    counts: tuple[int, int]
    p: float
    verdict: Changed = Changed.CANNOT_TELL

    @property
    def difference(self) -> float:
        return self.after - self.before


def detectable(sigma: float, freedom: float, chance: float = ALONE) -> float:
    """The least change that can be told with that chance of error, for a difference of that standard error.

    >>> round(detectable(2**0.5 * 1.0097, float("inf")), 3)
    2.799
    """
    return float(_limit(freedom, chance) * sigma)


def effective_freedom(parts: Sequence[tuple[float, float]]) -> float:
    """Effective degrees of freedom of a sum of variances, each (variance, degrees of freedom) (GUM G.4.2)."""
    total = sum(variance for variance, _ in parts)
    weighed = sum(variance**2 / freedom for variance, freedom in parts if np.isfinite(freedom))
    return float(total**2 / weighed) if weighed > 0 else float("inf")


def compare(
    before: Sequence[Side], after: Sequence[Side], measure: str, at: str, between: Between
) -> Change | Failed:
    """One measure at a checkpoint on both sides; :class:`Failed` where one side does not tell it.

    ``verdict`` is not settled here: see :func:`judged_alone` and :func:`judged_together`.
    """
    sides = [_told(side, measure, at) for side in (before, after)]
    for side in sides:
        if isinstance(side, Failed):
            return side
    first, second = (side for side in sides if not isinstance(side, Failed))
    if first[0][1].unit != second[0][1].unit:
        return Failed("The two sides are told in different units; give both a scale.", "unit")
    values = [np.array([single.value for _, single in side]) for side in (first, second)]
    n1, n2 = len(values[0]), len(values[1])
    each, freedom, spread = _random(first, second, values)
    random, shared = each / n1 + each / n2, _unshared(first, second, between)
    variance = shared + random
    sigma = float(np.sqrt(variance))
    degrees = effective_freedom([(shared, float("inf")), (random, freedom)])
    before_mean, after_mean = float(values[0].mean()), float(values[1].mean())
    t = abs(after_mean - before_mean) / max(sigma, 1e-12)
    p = 2 * float(_beyond(degrees, t))
    return Change(
        measure=measure,
        at=at,
        unit=first[0][1].unit,
        before=before_mean,
        after=after_mean,
        after_sigma=float(np.sqrt(each / n2 + sum(moved**2 for moved in shared_moves(second).values()))),
        sigma=sigma,
        freedom=degrees,
        detectable=detectable(sigma, degrees),
        spread=spread,
        counts=(n1, n2),
        p=p,
    )


def judged_alone(change: Change, worth: float, chance: float = ALONE) -> Change:
    """The change with its verdict, asked alone; ``worth`` is the least change that would matter."""
    return _judged(change, worth, change.p <= chance)


def judged_together(
    changes: Sequence[Change], worth: Sequence[float], chance: float = FAMILY
) -> list[Change]:
    """Several changes asked together: together they are wrong with at most that chance.

    Step down by Holm (S. Holm, A simple sequentially rejective multiple test procedure, Scand. J. Statist. 6,
    1979): the k-th smallest p of m counts where it and all before it are at most chance / (m − k + 1).
    """
    order = sorted(range(len(changes)), key=lambda k: changes[k].p)
    claimed: set[int] = set()
    for step, k in enumerate(order):
        if changes[k].p > chance / (len(changes) - step):
            break
        claimed.add(k)
    return [
        _judged(change, least, k in claimed)
        for k, (change, least) in enumerate(zip(changes, worth, strict=True))
    ]


def _judged(change: Change, worth: float, claimed: bool) -> Change:
    few = min(change.counts) < LEAST_SWINGS
    if few:
        return replace(change, verdict=Changed.DIFFER if claimed else Changed.ALIKE)
    # Nothing worth the name has happened where its whole interval says so.
    nothing = abs(change.difference) + change.detectable <= worth
    verdict = Changed.CHANGED if claimed else Changed.UNCHANGED if nothing else Changed.CANNOT_TELL
    return replace(change, verdict=verdict)


def _told(side: Sequence[Side], measure: str, at: str) -> list[tuple[Side, Single]] | Failed:
    """The swings of a side that tell a measure."""
    every = [(one, one.tell(measure, at)) for one in side]
    told = [(one, single) for one, single in every if isinstance(single, Single)]
    units = {single.unit for _, single in told}
    if len(units) > 1:
        return Failed("The swings of one side are told in different units.", "unit")
    if not told:
        return next((f for _, f in every if isinstance(f, Failed)), Failed("There is no swing.", "none"))
    return told


def _random(first: Told, second: Told, values: Sequence[np.ndarray]) -> tuple[float, float, float | None]:
    """What each swing brings by itself: its variance, with what freedom that is known, and the spread.

    The spread of both sides together, but not less than the swings' own errors make: three that happen to
    agree, or one that is given thrice, are not surer than what each is told by.
    """
    own = [own_variance(one, single) for one, single in (*first, *second)]
    floor = float(np.mean(own))
    freedom = len(own) - 2
    if freedom < 1:
        return floor, float("inf"), None
    squares = sum(float(((side - side.mean()) ** 2).sum()) for side in values)
    spread = squares / freedom
    return max(spread, floor), float(freedom), float(np.sqrt(spread))


def _unshared(first: Told, second: Told, between: Between) -> float:
    """Variance of the difference from what the swings of a side share and the other side does not."""
    mine, theirs = shared_moves(first), shared_moves(second)
    variance = 0.0
    for cause in mine.keys() | theirs.keys():
        a, b = mine.get(cause, 0.0), theirs.get(cause, 0.0)
        variance += (a - b) ** 2 if _cancels(cause, first, second, between) else a**2 + b**2
    return variance


def _cancels(cause: Key, first: Told, second: Told, between: Between) -> bool:
    """Whether both sides have this error alike, so that it goes out of their difference."""
    name = cause[0]
    if name == "scale":
        return _one_scale(first, second)
    if name == "place":
        return not between.lessons
    if name in CAMERA:
        return between.stood
    return name in BODY


def _one_scale(first: Told, second: Told) -> bool:
    """Whether all swings have their scale from the same thing."""
    sources = {one.source for one, _ in (*first, *second)}
    return len(sources) == 1


def _limit(freedom: float, chance: float) -> float:
    """The quantile of Student's t that both tails leave ``chance`` beyond."""
    return float(stdtrit(min(freedom, 1e9), 1 - chance / 2))


def _beyond(freedom: float, t: float) -> float:
    return float(stdtr(min(freedom, 1e9), -t))
