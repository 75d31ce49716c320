"""One number on two sides: their means, what lies between, its error, and what can be said of it.

The error of a difference of means is made of what the sides do not share of scale, camera, clothes and build;
of the swings' spread, each side by its own; and, where it is the student who is spoken of, of how far days
lie apart:

    sigma² = what is not shared + v₁/n₁ + v₂/n₂ + days

The limit is Student's t at the effective degrees of freedom of that sum (B. L. Welch, Biometrika 34, 1947;
GUM, JCGM 100:2008, G.4.2): a side's variance is known to n − 1, what is stated beforehand to infinitely many,
but for what the body model sees: an error that is itself known to a share r has ½ r⁻² (equation G.3). For one
swing a side and nothing but a known error of measurement it is 1.96 √2 SEM.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from kneel.compare.errors import Member, Side, shared_moves, told_by, variance_apart
from kneel.compare.spread import Days, Swings, days_apart
from kneel.motion.failure import Failed

LEAST_SWINGS = 3
"""So many swings a side tell a spread that can be relied on."""

SEEN_RIGHT_TO = 0.2
"""The errors of what the body model sees are right to about so much, by body and clothes (accuracy.md)."""

ALONE = 0.05
"""Chance of a false claim about a number that is asked alone."""


class ChangeWord(StrEnum):
    """What can be said. ``DIFFER`` and ``ALIKE`` speak of these swings and not of the student."""

    CHANGED = "changed"
    CANNOT_TELL = "cannot tell"
    UNCHANGED = "unchanged"
    DIFFER = "these differ"
    ALIKE = "these do not differ"


@dataclass(frozen=True)
class Difference:
    """One measure on both sides: means, their difference with its standard error, and what can be said of it.

    ``detectable`` is the least difference that can be told among all that was asked together, the limit of
    Holm's first step; ``detectable_alone`` the least that could be were it asked alone, at 95 %. ``spreads``
    are the standard deviations from swing to swing, ``freedom`` the effective degrees of freedom, ``p`` is
    two-sided. ``after_sigma`` is the whole standard error of the mean after, nothing cancelled. All in
    ``unit``.
    """

    measure: str
    at: str
    unit: str
    before: float
    after: float
    after_sigma: float
    sigma: float
    freedom: float
    spreads: tuple[float | None, float | None]
    counts: tuple[int, int]
    p: float
    detectable_alone: float
    detectable: float
    verdict: ChangeWord = ChangeWord.CANNOT_TELL

    @property
    def difference(self) -> float:
        return self.after - self.before

    @property
    def of_student(self) -> bool:
        """Whether it speaks of the student, and not of these swings alone."""
        return min(self.counts) >= LEAST_SWINGS

    @property
    def claimed(self) -> bool:
        """Whether it is said to have changed, or to differ."""
        return self.verdict in (ChangeWord.CHANGED, ChangeWord.DIFFER)

    def limit(self, chance: float) -> float:
        """The least difference that can be told with that chance of a false claim."""
        return detectable(self.sigma, self.freedom, chance)

    def judged(self, worth: float, limit: float, *, claimed: bool) -> Difference:
        """With its verdict, by whether it is ``claimed`` and the ``limit`` of the family it was asked in;
        ``worth`` is the least that would matter.
        """
        if not self.of_student:
            verdict = ChangeWord.DIFFER if claimed else ChangeWord.ALIKE
        else:
            # Nothing worth the name has happened where its whole interval says so.
            nothing = abs(self.difference) + self.detectable_alone <= worth
            verdict = (
                ChangeWord.CHANGED if claimed else ChangeWord.UNCHANGED if nothing else ChangeWord.CANNOT_TELL
            )
        return replace(self, detectable=limit, verdict=verdict)


def difference(
    before: Sequence[Member], after: Sequence[Member], measure: str, at: str, days: Days | None = None
) -> Difference | Failed:
    """One measure at a checkpoint on both sides; :class:`Failed` where one side does not tell it.

    ``days`` is what the student's own lessons tell of how far days lie apart. ``verdict`` is not settled
    here: see :mod:`kneel.compare.family`.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> sides = two_sides([OfSwing(example())], [OfSwing(example(-12.0))])
    >>> round(difference(*sides, "pelvis_shift", "top").difference, 1)
    -6.0
    """
    sides = [told_by(side, measure, at) for side in (before, after)]
    for side in sides:
        if isinstance(side, Failed):
            return side
    first, second = (side for side in sides if not isinstance(side, Failed))
    unit = first[0].single.unit
    if unit != second[0].single.unit:
        return Failed("The two sides are told in different units; give both a scale.", "unit")
    swings = Swings.of(first), Swings.of(second)
    moves = shared_moves(first), shared_moves(second)
    student = min(len(first), len(second)) >= LEAST_SWINGS and days_apart(*swings) > 0
    alone = [(side.variance / side.count, side.freedom) for side in swings]
    random = (days or Days()).parts(*swings) if student else alone
    days_add = sum(v for v, _ in random) - sum(v for v, _ in alone)
    parts = [(variance_apart(*moves), float("inf")), *random]
    sigma = float(np.sqrt(sum(variance for variance, _ in parts)))
    seen = any(one.seen for side in (first, second) for one in side)
    freedom = _freedom(parts, SEEN_RIGHT_TO if seen else 0.0, capped=student)
    between = swings[1].mean - swings[0].mean
    least = detectable(sigma, freedom)
    # Of what days add to the difference half is of the side after.
    now = alone[1][0] + days_add / 2 + sum(moved**2 for moved in moves[1].values())
    return Difference(
        measure,
        at,
        unit,
        swings[0].mean,
        swings[1].mean,
        float(np.sqrt(now)),
        sigma,
        freedom,
        (swings[0].spread, swings[1].spread),
        (swings[0].count, swings[1].count),
        2 * _beyond(freedom, abs(between) / max(sigma, 1e-12)),
        least,
        least,
    )


def detectable(sigma: float, freedom: float, chance: float = ALONE) -> float:
    """The least change that can be told with that chance of error, for a difference of that standard error.

    >>> round(detectable(2**0.5 * 1.0097, float("inf")), 3)
    2.799
    """
    # Loaded where something is compared: it takes longer than all of an analysis of one swing.
    from scipy.special import stdtrit

    return float(stdtrit(min(freedom, 1e9), 1 - chance / 2)) * sigma


def effective_freedom(parts: Sequence[tuple[float, float]]) -> float:
    """Effective degrees of freedom of a sum of variances, each (variance, degrees of freedom) (GUM G.4.2).

    >>> effective_freedom([(1.0, 4.0), (1.0, 4.0)]), effective_freedom([(4.0, 2.0), (1.0, 100.0)])
    (8.0, 3.121...)
    """
    total = sum(variance for variance, _ in parts)
    weighed = sum(variance**2 / freedom for variance, freedom in parts if 0 < freedom < float("inf"))
    return float(total**2 / weighed) if weighed > 0 else float("inf")


def _freedom(parts: Sequence[tuple[float, float]], right_to: float, *, capped: bool) -> float:
    """Effective degrees of freedom of a difference.

    All that was stated beforehand is one part, right to a share: it errs alike. With days in it what swings
    tell is ``capped``: where the side of fewer happens to lie close together it would pass for well known;
    twice its own degrees of freedom is what two such sides have.
    """
    stated = sum(variance for variance, freedom in parts if freedom == float("inf"))
    told = [part for part in parts if 0 < part[1] < float("inf") and part[0] > 0]
    known = right_to**-2 / 2 if right_to else float("inf")
    if not told:
        return known
    least = 2 * min(freedom for _, freedom in told)
    among = min(effective_freedom(told), least) if capped else effective_freedom(told)
    return effective_freedom([(stated, known), (sum(variance for variance, _ in told), among)])


def two_sides(
    before: Sequence[Side],
    after: Sequence[Side],
    *,
    lessons: bool = True,
    stood: bool = False,
    golfers: bool = False,
) -> tuple[list[Member], list[Member]]:
    """Swings as the members of two sides: of two ``lessons`` or one, by a camera that ``stood`` or not, of
    two ``golfers`` or one.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> before, after = two_sides([OfSwing(example())], [OfSwing(example())], lessons=False)
    >>> before[0].lesson == after[0].lesson, before[0].camera == after[0].camera
    (True, False)
    """
    later, moved = "after" if lessons else "before", "before" if stood else "after"
    other = "after" if golfers else ""
    return (
        [Member(one, "before", "before") for one in before],
        [Member(one, later, moved, other) for one in after],
    )


def _beyond(freedom: float, t: float) -> float:
    from scipy.special import stdtr

    return float(stdtr(min(freedom, 1e9), -t))
