"""Windows from good swings: what nine in ten of such swings lie inside, each student counting as one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
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

LEAST_LESSONS = 3
"""Of so many lessons the swings of one student are: those of one day lie closer than the golfer's do."""


@dataclass(frozen=True)
class GoodSwing:
    """A swing that somebody calls good: its golfer's name, where its lesson's clips lie, its numbers."""

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
    told = [single for one in swings for single in _scaled(one, measure, at)]
    people: dict[str, list[SwingNumber]] = {}
    lessons: dict[str, list[SwingNumber]] = {}
    for single in told:
        people.setdefault(single.member.golfer, []).append(single)
        lessons.setdefault(single.member.lesson, []).append(single)
    if len(people) >= LEAST:
        groups, own = _groups(list(people.values()))
        return Proposed(at, interval(groups, own=own), len(told), len(people))
    if len(people) == 1 and len(told) >= LEAST:
        if len(lessons) < LEAST_LESSONS:
            return Failed("Swings of one student must be of three lessons: one day's lie closer.", "few")
        groups, own = _groups(list(lessons.values()))
        return Proposed(at, interval(groups, own=own), len(told), 1, swings[0].golfer or "no name")
    return Failed(
        f"Eight students are needed, or eight swings of one; these are {len(told)} of {len(people)}.", "few"
    )


def _groups(told: Sequence[Sequence[SwingNumber]]) -> tuple[list[Group], float | None]:
    """Each student, or lesson of one student, as one, and what a single swing errs by itself, where that
    shows in their scatter.

    An error that others have too, as of a camera that stood, is the same in their means: it is no part of how
    far these lie apart, and is not taken out of it.
    """
    scattered = any(len(rows) > 1 for rows in told)
    moves = [shared_moves(rows) for rows in told]
    held = Counter(key for one in moves for key in one)
    groups = []
    for rows, shared in zip(told, moves, strict=True):
        values = [one.single.value for one in rows]
        mean = sum(values) / len(values)
        variance = sum(moved**2 for key, moved in shared.items() if held[key] == 1)
        if not scattered:
            variance += rows[0].own
        scatter = sum((value - mean) ** 2 for value in values)
        groups.append(Group(mean, variance**0.5, len(rows), scatter))
    single = [one.own for rows in told for one in rows]
    return groups, (sum(single) / len(single)) ** 0.5 if scattered else None


def _scaled(swing: GoodSwing, measure: str, at: str) -> list[SwingNumber]:
    """What a swing tells, as of a body of 1.75 m; nothing where it does not tell it."""
    golfer = swing.golfer.strip().casefold()
    member = Member(_Scaled(swing.numbers), f"{swing.lesson} {golfer}", swing.lesson, golfer)
    found = told_by([member], measure, at)
    return [] if isinstance(found, Failed) else found


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
