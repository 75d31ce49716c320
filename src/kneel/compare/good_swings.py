"""Windows from good swings: what nine in ten of such swings lie inside, each student counting as one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from kneel.compare.errors import Member, SwingNumber, shared_moves, told_by
from kneel.compare.tolerance import CONFIDENCE, CONTENT, Group, Tolerance, interval
from kneel.judge.numbers import OfSwing, as_used
from kneel.judge.records import Window
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Unit
from kneel.motion.quantity import Single

LEAST = 8
"""So many students, or swings of the one there is, are needed (common practice, no source): of fewer an
interval that is as sure is mostly width."""


@dataclass(frozen=True)
class GoodSwing:
    """A swing that somebody calls good: its golfer's name, its lesson, its numbers."""

    golfer: str
    lesson: str
    numbers: OfSwing


@dataclass(frozen=True)
class Proposed:
    """A window in its own unit (centimetres of a body of 1.75 m): the interval, of how many swings of how
    many students; ``own`` is the one student whose window it is, empty where it is of several.
    """

    at: str
    interval: Tolerance
    swings: int
    students: int
    own: str = ""

    @property
    def standing(self) -> str:
        """Where such a window comes from, as it stands in a school."""
        whose = f"{self.swings} good swings of one student" if self.own else ""
        whose = whose or f"{self.swings} good swings of {self.students} students"
        return f"your own: {whose}, {CONTENT:.0%} of such lie inside, {CONFIDENCE:.0%} sure"


def proposed(swings: Sequence[GoodSwing], measure: str, at: str) -> Proposed | Failed:
    """The window of a measure at a checkpoint from good swings; :class:`Failed` where there are too few.

    Errors that a student's swings have in common and those of each by itself are taken out by what is known
    of their causes; what the swings of a student differ by stays in: a window is laid on single swings.

    >>> proposed([], "pelvis_shift", "top").reason
    'Eight students are needed, or eight swings of one; these are 0 of 0.'
    """
    people: dict[str, list[GoodSwing]] = {}
    for one in swings:
        people.setdefault(one.golfer.strip().casefold(), []).append(one)
    told = {name: _scaled(theirs, measure, at) for name, theirs in people.items()}
    told = {name: rows for name, rows in told.items() if rows}
    count = sum(len(rows) for rows in told.values())
    if len(told) >= LEAST:
        groups, own = _over_students(told)
        return Proposed(at, interval(groups, own=own), count, len(told))
    if len(told) == 1 and count >= LEAST:
        ((name, rows),) = told.items()
        groups = [Group(one.single.value, one.own**0.5) for one in rows]
        return Proposed(at, interval(groups), count, 1, people[name][0].golfer or "no name")
    return Failed(
        f"Eight students are needed, or eight swings of one; these are {count} of {len(told)}.", "few"
    )


def _over_students(told: Mapping[str, Sequence[SwingNumber]]) -> tuple[list[Group], float | None]:
    """Each student as one, and what a single swing errs by itself, where that shows in their scatter."""
    scattered = any(len(rows) > 1 for rows in told.values())
    single = [one.own for rows in told.values() for one in rows]
    groups = []
    for rows in told.values():
        values = [one.single.value for one in rows]
        mean = sum(values) / len(values)
        variance = sum(moved**2 for moved in shared_moves(rows).values())
        if not scattered:
            variance += rows[0].own
        scatter = sum((value - mean) ** 2 for value in values)
        groups.append(Group(mean, variance**0.5, len(rows), scatter))
    return groups, (sum(single) / len(single)) ** 0.5 if scattered else None


def _scaled(swings: Sequence[GoodSwing], measure: str, at: str) -> list[SwingNumber]:
    """What a student's swings tell, as of a body of 1.75 m."""
    side = [Member(_Scaled(one.numbers), one.lesson, one.lesson, one.golfer) for one in swings]
    told = [told_by([member], measure, at) for member in side]
    return [one for found in told if not isinstance(found, Failed) for one in found]


@dataclass(frozen=True)
class _Scaled:
    """Numbers in the unit of windows."""

    numbers: OfSwing

    @property
    def source(self) -> tuple[str, float]:
        return self.numbers.source

    def tell(self, measure: str, at: str) -> Single | Failed:
        found = self.numbers.tell(measure, at)
        if isinstance(found, Failed):
            return found
        if REGISTRY[measure].unit is not Unit.LENGTH:
            return found
        per = as_used(Window(measure, (at,), 1.0, 1.0), self.numbers, found.unit).lo or 1.0
        causes = {key: moved / per for key, moved in found.causes.items()}
        return Single.given(found.key, "cm", found.value / per, found.sigma / per, causes)
