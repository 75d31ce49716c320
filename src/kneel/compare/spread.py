"""How far the swings of one golfer lie apart: from swing to swing within a lesson, and from lesson to lesson.

The first is told by the swings themselves, each side by its own. The second is what a claim about the student
needs besides: three swings of one day tell that day, however well. It follows from the student's own lessons
where there are enough of them, else from a prior.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kneel.compare.errors import SwingNumber

DAYS_RATIO = 1.1
"""A golfer's lessons lie about as far apart as the swings of one lesson do (common practice, no source), with
a tenth for what few swings hide of that."""

PRIOR_FREEDOM = 4.0
"""So many lessons' worth the prior counts beside what the student's own lessons tell."""

LEAST_STEPS = 3
"""So many steps from one lesson to the next tell something of their spread."""


@dataclass(frozen=True)
class Swings:
    """The swings of one side: ``mean`` in their unit, ``variance`` of a single swing about it with its
    degrees of ``freedom``; ``spread`` is the standard deviation seen, None with one swing; ``lessons`` the
    share of each.
    """

    mean: float
    variance: float
    freedom: float
    spread: float | None
    count: int
    lessons: dict[str, float]

    @staticmethod
    def of(told: Sequence[SwingNumber]) -> Swings:
        """What some swings tell. Their variance is never taken smaller than their own errors make: three that
        happen to agree, or one that is given thrice, are not surer than what each is told by.
        """
        values = np.array([one.single.value for one in told])
        by_lesson: dict[str, list[float]] = {}
        for one in told:
            by_lesson.setdefault(one.member.lesson, []).append(one.single.value)
        own = float(np.mean([one.own for one in told]))
        groups = [np.array(group) for group in by_lesson.values()]
        freedom = len(values) - len(groups)
        if freedom < 1 and len(values) > 1:
            # A swing a lesson: what lies between them holds both spreads.
            groups, freedom = [values], len(values) - 1
        spread = None
        variance, known = own, float("inf")
        if freedom > 0:
            squares = sum(float(((group - group.mean()) ** 2).sum()) for group in groups)
            spread = float(np.sqrt(squares / freedom))
            if spread**2 > own:
                variance, known = spread**2, float(freedom)
        shares = {lesson: len(group) / len(values) for lesson, group in by_lesson.items()}
        return Swings(float(values.mean()), variance, known, spread, len(values), shares)


@dataclass(frozen=True)
class Days:
    """What the student's own lessons tell of how far days lie apart: a variance with its degrees of freedom,
    none where there are too few.
    """

    variance: float = 0.0
    freedom: float = 0.0

    @property
    def prior_share(self) -> float:
        return PRIOR_FREEDOM / (PRIOR_FREEDOM + self.freedom)

    def parts(self, first: Swings, second: Swings) -> list[tuple[float, float]]:
        """What swings and days bring to the variance of the difference of two sides, each part with its
        degrees of freedom.

        The prior holds days of a side to lie as far apart as its swings do: with their variance it is one
        part, since it is known no better.
        """
        weight = days_apart(first, second)
        prior = DAYS_RATIO**2 * self.prior_share * weight / 2
        swings = [((1 / side.count + prior) * side.variance, side.freedom) for side in (first, second)]
        return [*swings, ((1 - self.prior_share) * weight * self.variance, self.freedom)]


def days_apart(first: Swings, second: Swings) -> float:
    """How much of the days' variance is in a difference of two sides: 2 of two lessons, 0 of one. A lesson on
    both goes out of it; of several on one side each counts by its share.

    >>> one = Swings(0.0, 1.0, 2.0, 1.0, 3, {"4 Aug": 1.0})
    >>> other = Swings(1.0, 1.0, 2.0, 1.0, 3, {"1 Sep": 1.0})
    >>> days_apart(one, other), days_apart(one, one)
    (2.0, 0.0)
    """
    keys = first.lessons.keys() | second.lessons.keys()
    return sum((second.lessons.get(key, 0.0) - first.lessons.get(key, 0.0)) ** 2 for key in keys)


def days_of(lessons: Sequence[Swings], sides: tuple[Swings, Swings] | None = None) -> Days:
    """How far a student's lessons, in their order, lie apart; a step from one of the ``sides`` to the other,
    which is what is asked, does not count.

    From the squares of steps to the next lesson, so that a slow change over many of them does not count as
    spread (J. von Neumann and others, The mean square successive difference, Ann. Math. Statist. 12, 1941,
    from memory).

    >>> means = (0.0, 1.0, 0.0, 1.0, 0.0)
    >>> lessons = [Swings(mean, 0.1, 2.0, 0.3, 3, {str(k): 1.0}) for k, mean in enumerate(means)]
    >>> days = days_of(lessons)
    >>> round(days.variance, 3), round(days.freedom, 2)
    (0.467, 2.91)
    """
    asked = [set(side.lessons) for side in sides or ()]

    def joins(a: Swings, b: Swings) -> bool:
        if len(asked) < 2:
            return False
        return any(set(a.lessons) & one and set(b.lessons) & other for one, other in (asked, asked[::-1]))

    steps = [(a, b) for a, b in pairwise(lessons) if not joins(a, b)]
    if len(steps) < LEAST_STEPS:
        return Days()
    squares = float(np.mean([(b.mean - a.mean) ** 2 / 2 for a, b in steps]))
    swings = float(np.mean([(a.variance / a.count + b.variance / b.count) / 2 for a, b in steps]))
    count = len(steps)
    return Days(max(squares - swings, 0.0), 2 * count**2 / (3 * count - 1))
