"""A number over lessons: what each lesson's swings tell of it, which of them may be compared, and whether it
changed. Pure functions of rows of an index.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Generic, Protocol, TypeVar

from kneel.compare.difference import ALONE, Difference, difference
from kneel.compare.errors import Member, Side, told_by
from kneel.compare.family import FAMILY, judged_alone
from kneel.compare.sets import mean_sigma
from kneel.compare.spread import Swings, days_of
from kneel.judge import Knowledge
from kneel.judge.kinds import laid
from kneel.judge.numbers import Sized, as_used
from kneel.judge.verdict import Limits
from kneel.model import Club, Kind, Plan, Student, View
from kneel.motion.failure import Failed


class Dated(Protocol):
    """What is known of a swing besides its numbers: the frames of its checkpoints."""

    @property
    def moments(self) -> Mapping[str, int]: ...


class Versioned(Protocol):
    """By which program a row was measured."""

    @property
    def program(self) -> str: ...


class Row(Side, Sized, Protocol):
    """A swing of an index. ``content`` tells the content of its clip, ``lesson`` and ``day`` when it was
    filmed.
    """

    @property
    def id(self) -> int: ...
    @property
    def clip(self) -> object: ...
    @property
    def content(self) -> str: ...
    @property
    def view(self) -> View: ...
    @property
    def club(self) -> Club: ...
    @property
    def kind(self) -> Kind: ...
    @property
    def school(self) -> str: ...
    @property
    def versions(self) -> Versioned: ...
    @property
    def facts(self) -> Dated: ...
    @property
    def day(self) -> datetime.date | None: ...
    @property
    def lesson(self) -> str: ...


R = TypeVar("R", bound=Row)

Kin = tuple[str, str, str, str, str, str]
"""View, club, kind, school, program and unit: what two points must share to be compared."""

WORDS = ("camera", "club", "kind of swing", "school", "version", "unit")


@dataclass(frozen=True)
class Point(Generic[R]):
    """What one lesson's swings of one kin tell: mean with its standard error, and how far single swings lie.

    ``spread`` is the standard deviation from swing to swing, None with one swing. ``other`` says in what it
    differs from the trend's line; a point that differs is hollow and joins no line.
    """

    day: datetime.date
    value: float
    sigma: float
    spread: float | None
    swings: tuple[R, ...]
    other: tuple[str, ...] = ()

    @property
    def hollow(self) -> bool:
        return bool(self.other)

    @property
    def count(self) -> int:
        return len(self.swings)

    @property
    def lesson(self) -> str:
        return self.swings[0].lesson


@dataclass(frozen=True)
class PracticeSpan:
    """Weeks of practice with one drill, on the axis of time: ``done`` of ``planned`` sessions."""

    first: datetime.date
    last: datetime.date
    drill: str
    done: int
    check_in: datetime.date


@dataclass(frozen=True)
class Trend(Generic[R]):
    """A number over time, oldest point first. ``limits`` is the school's window as used, of the last point.

    ``against`` is what lies between the reference, the first point of the line or that of a chosen lesson,
    and each point of the line, judged by the rule; None of the reference itself. ``way`` is where the number
    should go, ``up`` or ``down``, where a plan says so.
    """

    measure: str
    at: str
    unit: str
    points: tuple[Point[R], ...]
    practised: tuple[PracticeSpan, ...] = ()
    limits: Limits | None = None
    school: str = ""
    against: tuple[Difference | None, ...] = ()
    way: str = ""

    @property
    def line(self) -> tuple[Point[R], ...]:
        """The points that may be compared."""
        return tuple(point for point in self.points if not point.hollow)

    @property
    def reference(self) -> Point[R] | None:
        """What the points of the line are held against; None where there is nothing to hold it against."""
        told = zip(self.line, self.against, strict=True) if any(self.against) else ()
        return next((point for point, one in told if one is None), None)

    @property
    def band(self) -> list[tuple[Point[R], Difference | None]]:
        """The points of the line that can be held against the reference, it among them, and what lies
        between.
        """
        if not any(self.against):
            return []
        told = zip(self.line, self.against, strict=True)
        return [(point, one) for point, one in told if one is not None or point is self.reference]

    @property
    def change(self) -> Difference | None:
        """What lies between the reference and the last point of the line."""
        return self.against[-1] if self.against else None

    @property
    def better(self) -> bool | None:
        """Whether the last point lies better than the reference, wherever error leaves it; None where neither
        a plan nor the window says what is better.
        """
        change = self.change
        if change is None:
            return None
        if self.way:
            return (change.difference > 0) == (self.way == "up")
        if self.limits is None:
            return None
        was, now = (self.limits.outside(value) for value in (change.before, change.after))
        return None if was == now else now < was


def trend_of(
    rows: Sequence[R],
    measure: str,
    at: str,
    student: Student,
    knowledge: Knowledge,
    program: str,
    *,
    others: int = 0,
    since: str = "",
) -> Trend[R] | None:
    """The trend of a number from the rows that tell it; None where none does.

    ``others`` is how many other numbers could have been looked at: a plan's own is asked among those it was
    chosen from, of any other a change is claimed only where it would be among so many (Bonferroni). ``since``
    is a lesson that all others are held against; which one was chosen counts as well.

    The line is of the camera, club, kind, school and unit in which ``program`` told it most often.
    """
    rows = sorted((one for one in rows if _unit(one, measure, at)), key=lambda one: (_day(one), one.id))
    rows = each_once(rows)
    if not rows:
        return None
    line = _line_of(rows, measure, at, program)
    points: list[Point[R]] = []
    for _, group in groupby(rows, key=lambda one: (_day(one), one.lesson)):
        points += _points(list(group), measure, at, line)
    points.sort(key=lambda point: (point.day, point.hollow))
    solid = [point for point in points if not point.hollow]
    last = solid[-1].swings[-1]
    school = knowledge.schools.get(last.school)
    window = laid(school, measure, at, last.club, last.kind) if school else None
    limits = as_used(window, last, line[5]) if window else None
    plans = [plan for plan in student.plans if (plan.aim.measure, plan.aim.at) == (measure, at)]
    worth = plans[-1].aim.by if plans else limits.margin if limits else 0.0
    chance, among = (ALONE, plans[-1].among) if plans else (FAMILY, others + 1)
    first = next((k for k, point in enumerate(solid[:-1]) if since and point.lesson == since), None)
    if first is not None:
        among *= len(solid) - 1
    return Trend(
        measure,
        at,
        line[5],
        tuple(points),
        practised_of(student.plans),
        limits,
        school.title if school else "",
        _against(
            solid, first or 0, measure, at, lambda one: judged_alone(one, worth, among=among, chance=chance)
        ),
        plans[-1].aim.way if plans else "",
    )


def practised_of(plans: Iterable[Plan]) -> tuple[PracticeSpan, ...]:
    """The plans as stretches of time.

    >>> practised_of([])
    ()
    """
    found = []
    for plan in plans:
        last = plan.start + datetime.timedelta(days=plan.days - 1)
        ended = max((one.date for one in plan.log), default=plan.start) if plan.ended else last
        found.append(PracticeSpan(plan.start, min(last, ended), plan.drill, len(plan.log), plan.check_in))
    return tuple(found)


def _points(rows: Sequence[R], measure: str, at: str, line: Kin) -> list[Point[R]]:
    """One lesson's points: one for each kin among its swings."""
    kins: dict[Kin, list[R]] = {}
    for one in rows:
        kins.setdefault(_kin(one, measure, at), []).append(one)
    found = []
    for kin, members in kins.items():
        told = told_by(_members(members), measure, at)
        assert not isinstance(told, Failed), "rows of a trend tell its number"
        swings = Swings.of(told)
        other = tuple(
            _said(what, mine) for what, mine, its in zip(WORDS, kin, line, strict=True) if mine != its
        )
        sigma = mean_sigma(told, swings)
        found.append(Point(_day(members[0]), swings.mean, sigma, swings.spread, tuple(members), other))
    return found


def _members(rows: Sequence[Row]) -> list[Member]:
    """Rows as members of a side: what lesson they are of is known, and nothing of a camera from one to
    another.
    """
    return [Member(row, row.lesson, row.lesson) for row in rows]


def _said(what: str, mine: str) -> str:
    return "another version" if what == "version" else f"another {what}: {mine}"


def _unit(one: Row, measure: str, at: str) -> str:
    """In which unit a row tells a number; empty where it does not."""
    found = one.tell(measure, at)
    return "" if isinstance(found, Failed) else found.unit


def _kin(one: Row, measure: str, at: str) -> Kin:
    return (
        one.view.value,
        one.club.value,
        one.kind.value,
        one.school,
        one.versions.program,
        _unit(one, measure, at),
    )


def _line_of(rows: Sequence[Row], measure: str, at: str, program: str) -> Kin:
    """What is compared: of the numbers of this program (of all, where it made none) what was told most often;
    of several told equally often the newest.
    """
    mine = [one for one in rows if one.versions.program == program] or rows
    kins = [_kin(one, measure, at) for one in mine]
    return max(dict.fromkeys(reversed(kins)), key=kins.count)


def each_once(rows: Sequence[R]) -> list[R]:
    """One row a swing: of several documents of one swing of one clip the newest, since they are no two.

    >>> from types import SimpleNamespace as Row
    >>> facts = Row(moments={})
    >>> rows = [Row(id=number, content=clip, facts=facts) for number, clip in ((1, "a"), (2, "b"), (3, "a"))]
    >>> [one.id for one in each_once(rows)]
    [2, 3]
    """
    kept: list[R] = []
    for one in reversed(rows):
        if not any(same_swing(one, other) for other in kept):
            kept.append(one)
    return kept[::-1]


def same_swing(one: Row, other: Row) -> bool:
    """Whether two rows are of one swing: of one clip, and mostly of the same of its frames.

    >>> from types import SimpleNamespace as Row
    >>> spans = ({"address": 1, "finish": 20}, {"address": 3, "finish": 21}, {"address": 40, "finish": 60})
    >>> first, again, later = (Row(content="a", facts=Row(moments=span)) for span in spans)
    >>> same_swing(first, again), same_swing(first, later)
    (True, False)
    """
    if (one.content or str(one.clip)) != (other.content or str(other.clip)):
        return False
    spans = [sorted(row.facts.moments.values()) for row in (one, other)]
    if not all(spans):
        return True
    (a, *_, b), (c, *_, d) = ([*span, span[-1]] for span in spans)
    return min(b, d) - max(a, c) >= min(b - a, d - c) / 2


def _against(
    line: Sequence[Point[R]], first: int, measure: str, at: str, judged: Callable[[Difference], Difference]
) -> tuple[Difference | None, ...]:
    """What lies between one point of a line and each other, never a claim inside the noise."""
    if len(line) < 2:
        return ()
    swings = [_swings(point, measure, at) for point in line]
    found: list[Difference | None] = []
    for k, point in enumerate(line):
        days = days_of(swings, (swings[first], swings[k]))
        sides = _members(line[first].swings), _members(point.swings)
        one = None if k == first else difference(*sides, measure, at, days)
        found.append(judged(one) if isinstance(one, Difference) else None)
    return tuple(found)


def _swings(point: Point[R], measure: str, at: str) -> Swings:
    told = told_by(_members(point.swings), measure, at)
    assert not isinstance(told, Failed), "rows of a trend tell its number"
    return Swings.of(told)


def _day(one: Row) -> datetime.date:
    assert one.day is not None, "a row of the index has its lesson's day"
    return one.day


def named_first(
    told: Sequence[tuple[str, str, int]],
    student: Student,
    roots: Sequence[tuple[str, str]],
    knowledge: Knowledge,
) -> list[tuple[str, str]]:
    """Which number to show first: the running plan's, the last roots', what decides faults, then the rest.

    >>> from kneel.judge.knowledge import shipped
    >>> told = [("pelvis_shift", "top", 3), ("head_lift", "impact", 3)]
    >>> named_first(told, Student("Lorcan"), [("head_lift", "impact")], shipped())[0]
    ('head_lift', 'impact')
    """
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
