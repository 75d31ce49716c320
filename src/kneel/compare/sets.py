"""Several swings of one view, club and kind as one: the mean of what they tell, with its error."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kneel.compare.difference import detectable, effective_freedom
from kneel.compare.errors import Member, Side, SwingNumber, shared_moves, told_by
from kneel.compare.spread import Swings
from kneel.judge.numbers import OfSwing
from kneel.model import Club, Kind, View
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single

ONE_LESSON = "one"
"""The swings of a set are of one lesson and one camera."""


@dataclass(frozen=True)
class Spread:
    """A measure over the swings of a set: mean with its error, and how far single swings lie from it."""

    mean: Single
    spread: float | None
    count: int


@dataclass(frozen=True)
class OfSet:
    """The typical swing of a set: the mean of what its swings tell."""

    members: tuple[OfSwing, ...]

    @property
    def kind(self) -> Kind:
        return self.members[0].kind

    @property
    def club(self) -> Club:
        return self.members[0].club

    @property
    def size(self) -> float:
        return float(np.mean([one.size for one in self.members]))

    def seen_from(self, measure: str) -> View | None:
        return self.members[0].seen_from(measure)

    def cm(self, unit: str) -> tuple[float, float]:
        per, relative = zip(*(one.cm(unit) for one in self.members), strict=True)
        return float(np.mean(per)), float(np.mean(relative))

    def tell(self, measure: str, at: str) -> Single | Failed:
        found = self.over(measure, at)
        return found if isinstance(found, Failed) else found.mean

    def over(self, measure: str, at: str) -> Spread | Failed:
        """The mean of a measure at a checkpoint; told where at least half of the swings tell it."""
        told = told_by(of_one_lesson(self.members), measure, at)
        if isinstance(told, Failed):
            return told
        if 2 * len(told) < len(self.members):
            every = (one.tell(measure, at) for one in self.members)
            return next(failed for failed in every if isinstance(failed, Failed))
        swings = Swings.of(told)
        mean = Single.plain(measure, told[0].single.unit, swings.mean, mean_sigma(told, swings))
        return Spread(mean, swings.spread, swings.count)


def of_one_lesson(swings: Sequence[Side]) -> list[Member]:
    """Swings as the members of one lesson, filmed by one camera.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> len({one.lesson for one in of_one_lesson([OfSwing(example()), OfSwing(example())])})
    1
    """
    return [Member(one, ONE_LESSON, ONE_LESSON) for one in swings]


def mean_sigma(told: Sequence[SwingNumber], swings: Swings) -> float:
    """The standard error of the mean of several swings.

    What each brings by itself, and how far they lie apart, falls with their number; what they share does not.
    A spread of few swings is known badly: the error is as much wider as their t is beyond 1.96 (GUM G.4.2),
    so that two sigma hold what they say.

    With one swing it is that swing's own:

    >>> one = SwingNumber(Member(None, "a", "a"), Single.plain("pelvis_shift", "cm", 1.0, 0.7))
    >>> round(mean_sigma([one], Swings.of([one])), 6)
    0.7
    """
    parts = [
        (sum(moved**2 for moved in shared_moves(told).values()), float("inf")),
        (swings.variance / swings.count, swings.freedom),
    ]
    sigma = float(np.sqrt(sum(variance for variance, _ in parts)))
    return sigma * detectable(1.0, effective_freedom(parts)) / detectable(1.0, float("inf"))
