"""A number over lessons: what each lesson's swings tell of it, which of them may be compared, and whether it
changed. Pure functions of rows of the index.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from kneel.book.swings import Indexed
from kneel.judge import Knowledge
from kneel.judge.change import ALONE, FAMILY, Between, Change, compare, judged_alone
from kneel.judge.lesson import pooled_sigma
from kneel.judge.numbers import as_used
from kneel.judge.verdict import Limits
from kneel.model import Plan, Student
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single

Kin = tuple[str, str, str, str, str, str]
"""View, club, kind, school, program and unit: what two points must share to be compared."""

WORDS = ("camera", "club", "kind of swing", "school", "version", "unit")


@dataclass(frozen=True)
class Point:
    """What one lesson's swings of one kin tell: mean with its standard error, and how far single swings lie.

    ``spread`` is the standard deviation from swing to swing, None with one swing. ``other`` says in what it
    differs from the trend's line; a point that differs is hollow and joins no line.
    """

    day: datetime.date
    value: float
    sigma: float
    spread: float | None
    swings: tuple[Indexed, ...]
    other: tuple[str, ...] = ()

    @property
    def hollow(self) -> bool:
        return bool(self.other)

    @property
    def count(self) -> int:
        return len(self.swings)


@dataclass(frozen=True)
class Practised:
    """Weeks of practice with one drill, on the axis of time: ``done`` of ``planned`` sessions."""

    first: datetime.date
    last: datetime.date
    drill: str
    done: int
    check_in: datetime.date


@dataclass(frozen=True)
class Trend:
    """A number over time, oldest point first. ``limits`` is the school's window as used, of the last point.

    ``change`` is what lies between the first and the last point of the line, judged by the rule for changes.
    """

    measure: str
    at: str
    unit: str
    points: tuple[Point, ...]
    practised: tuple[Practised, ...] = ()
    limits: Limits | None = None
    school: str = ""
    change: Change | None = None

    @property
    def line(self) -> tuple[Point, ...]:
        """The points that may be compared."""
        return tuple(point for point in self.points if not point.hollow)


def trend_of(
    rows: Sequence[Indexed],
    measure: str,
    at: str,
    student: Student,
    knowledge: Knowledge,
    program: str,
    *,
    others: int = 0,
) -> Trend | None:
    """The trend of a number from the rows that tell it; None where none does.

    ``others`` is how many other numbers could have been looked at: a plan's own is asked alone, of any other
    a change is claimed only where it would be among so many (Bonferroni).

    The line is of the camera, club, kind, school and unit in which ``program`` told it most often.
    """
    rows = sorted((one for one in rows if one.number(measure, at)), key=lambda one: (_day(one), one.id))
    rows = each_once(rows)
    if not rows:
        return None
    line = _line_of(rows, measure, at, program)
    points = []
    for _, group in groupby(rows, key=lambda one: (_day(one), one.lesson)):
        points += _points(list(group), measure, at, line)
    points.sort(key=lambda point: (point.day, point.hollow))
    solid = [point for point in points if not point.hollow]
    last = solid[-1].swings[-1]
    school = knowledge.schools.get(last.school)
    window = school.find(measure, at, last.club) if school else None
    plans = [plan for plan in student.plans if (plan.aim.measure, plan.aim.at) == (measure, at)]
    worth = plans[-1].aim.by if plans else as_used(window, last, line[5]).margin if window else 0.0  # type: ignore[arg-type]
    return Trend(
        measure,
        at,
        line[5],
        tuple(points),
        practised_of(student.plans),
        as_used(window, last, line[5]) if window else None,  # type: ignore[arg-type]
        school.title if school else "",
        _change(solid, measure, at, worth, ALONE if plans else FAMILY / (others + 1)),
    )


def practised_of(plans: Iterable[Plan]) -> tuple[Practised, ...]:
    """The plans as stretches of time."""
    found = []
    for plan in plans:
        last = plan.start + datetime.timedelta(days=plan.days - 1)
        ended = max((one.date for one in plan.log), default=plan.start) if plan.ended else last
        found.append(Practised(plan.start, min(last, ended), plan.drill, len(plan.log), plan.check_in))
    return tuple(found)


def _points(rows: Sequence[Indexed], measure: str, at: str, line: Kin) -> list[Point]:
    """One lesson's points: one for each kin among its swings."""
    kins: dict[Kin, list[Indexed]] = {}
    for one in rows:
        kins.setdefault(_kin(one, measure, at), []).append(one)
    found = []
    for kin, members in kins.items():
        told = [(one, single) for one in members if isinstance(single := one.tell(measure, at), Single)]
        values = np.array([single.value for _, single in told])
        other = tuple(
            _said(what, mine) for what, mine, its in zip(WORDS, kin, line, strict=True) if mine != its
        )
        found.append(
            Point(
                _day(members[0]),
                float(values.mean()),
                pooled_sigma(told),
                float(values.std(ddof=1)) if len(values) > 1 else None,
                tuple(members),
                other,
            )
        )
    return found


def _said(what: str, mine: str) -> str:
    return "another version" if what == "version" else f"another {what}: {mine}"


def _kin(one: Indexed, measure: str, at: str) -> Kin:
    number = one.number(measure, at)
    unit = number.unit if number else ""
    return (one.view.value, one.club.value, one.kind.value, one.school, one.versions.program, unit)


def _line_of(rows: Sequence[Indexed], measure: str, at: str, program: str) -> Kin:
    """What is compared: of the numbers of this program (of all, where it made none) what was told most often;
    of several told equally often the newest.
    """
    mine = [one for one in rows if one.versions.program == program] or rows
    kins = [_kin(one, measure, at) for one in mine]
    return max(dict.fromkeys(reversed(kins)), key=kins.count)


def each_once(rows: Sequence[Indexed]) -> list[Indexed]:
    """One row a swing: of several documents of one swing of one clip the newest, since they are no two."""
    newest = {(one.content or str(one.clip), one.facts.moments.get("address", 0)): id(one) for one in rows}
    return [one for one in rows if id(one) in newest.values()]


def _change(line: Sequence[Point], measure: str, at: str, worth: float, chance: float) -> Change | None:
    """Whether it changed from the first point of the line to the last; never a claim inside the noise."""
    if len(line) < 2:
        return None
    found = compare(line[0].swings, line[-1].swings, measure, at, Between(lessons=True))
    return None if isinstance(found, Failed) else judged_alone(found, worth, chance)


def _day(one: Indexed) -> datetime.date:
    assert one.day is not None, "a row of the index has its lesson's day"
    return one.day


def named_first(
    told: Sequence[tuple[str, str, int]],
    student: Student,
    roots: Sequence[tuple[str, str]],
    knowledge: Knowledge,
) -> list[tuple[str, str]]:
    """Which number to show first: the running plan's, the last roots', what decides faults, then the rest."""
    plans = [(plan.aim.measure, plan.aim.at) for plan in reversed(student.plans)]
    checks = [
        (check.measure, at)
        for key in knowledge.order
        for check in knowledge.faults[key].check
        for at in check.at
    ]
    there = {(measure, at) for measure, at, _ in told}
    order = dict.fromkeys([*plans, *roots, *checks, *((measure, at) for measure, at, _ in told)])
    return [one for one in order if one in there]
