"""The calendar of a plan: which day holds which session, what has been missed, when the check-ins are.

Sessions stand on given days of the week only. One that is missed moves on to the next of them, and those
after it with it; the check-in does not move. What lies ahead is how it goes if each rung holds.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from msgspec.structs import replace

from kneel.model import RUNGS, Plan, Practised, Rung
from kneel.model.plan import LONGEST_DAYS
from kneel.practice.ladder import ENOUGH, standing

WEEK, FORTNIGHT = 7, 14
DAY = datetime.timedelta(days=1)


class State(StrEnum):
    DONE = "done"
    MISSED = "missed"
    TODAY = "today"
    AHEAD = "ahead"


@dataclass(frozen=True)
class Session:
    """A session on the calendar; ``log`` is what it came to, ``moved`` the day to which a missed one went."""

    date: datetime.date
    rung: Rung
    state: State
    log: Practised | None = None
    moved: datetime.date | None = None


def spread_over_week(count: int) -> tuple[int, ...]:
    """So many days of the week, as far apart as they can be, counted from Monday, 0.

    >>> spread_over_week(4), spread_over_week(1)
    ((0, 1, 3, 5), (0,))
    """
    return tuple(k * WEEK // count for k in range(count))


def given_days(
    first: datetime.date, last: datetime.date, weekdays: tuple[int, ...]
) -> Iterator[datetime.date]:
    """The given days of the week from the first to the last day, both included.

    >>> days = given_days(datetime.date(2026, 11, 3), datetime.date(2026, 11, 10), (0, 2))
    >>> [day.day for day in days]
    [4, 9]
    """
    day = first
    while day <= last:
        if day.weekday() in weekdays:
            yield day
        day += DAY


def check_in_day(start: datetime.date, days: int, weekdays: tuple[int, ...]) -> datetime.date:
    """The day of the first check-in: the last given one of the second week, earlier in a shorter plan.

    >>> check_in_day(datetime.date(2026, 11, 3), 21, (2, 3, 5, 6))
    datetime.date(2026, 11, 15)
    """
    found = list(given_days(start + WEEK * DAY, start + FORTNIGHT * DAY, weekdays))
    return next((day for day in reversed(found) if (day - start).days <= days), found[0])


def check_ins(plan: Plan) -> tuple[datetime.date, ...]:
    """All days on which a clip is asked for: the first, and one in each week or two after it to the end.

    >>> import datetime
    >>> from kneel.model import Aim
    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5)
    >>> start, ask = datetime.date(2026, 11, 3), datetime.date(2026, 11, 16)
    >>> plan = Plan("sway", "turn_inside_the_gate", aim, (-4.5, -3.5, -2.5, -1.5), start, 21, (0, 2), 15, ask)
    >>> [day.day for day in check_ins(plan)]
    [16, 25]
    """
    found = [plan.check_in]
    end = plan.start + plan.days * DAY
    while (end - found[-1]).days >= WEEK:
        last = found[-1]
        days = list(given_days(last + WEEK * DAY, last + FORTNIGHT * DAY, plan.weekdays))
        found.append(next((day for day in days if day >= end), days[-1]))
    return tuple(found)


def planned_days(plan: Plan) -> tuple[datetime.date, ...]:
    """The days of sessions as they were planned; a check-in takes its day.

    >>> import datetime
    >>> from kneel.model import Aim
    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5)
    >>> start, ask = datetime.date(2026, 11, 3), datetime.date(2026, 11, 16)
    >>> plan = Plan("sway", "turn_inside_the_gate", aim, (-4.5, -3.5, -2.5, -1.5), start, 21, (0, 2), 15, ask)
    >>> [day.day for day in planned_days(plan)]
    [4, 9, 11, 18, 23]
    """
    last = plan.start + (plan.days - 1) * DAY
    filmed = check_ins(plan)
    return tuple(day for day in given_days(plan.start, last, plan.weekdays) if day not in filmed)


def sessions(plan: Plan, today: datetime.date) -> tuple[Session, ...]:
    """All sessions: done, missed and ahead, by date. Those that are missed take a later given day.

    No session lies later than 30 days after the start; what no longer fits falls away.

    >>> import datetime
    >>> from kneel.model import Aim
    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5)
    >>> start, ask = datetime.date(2026, 11, 3), datetime.date(2026, 11, 16)
    >>> plan = Plan("sway", "turn_inside_the_gate", aim, (-4.5, -3.5, -2.5, -1.5), start, 21, (0, 2), 15, ask)
    >>> [one.date.day for one in sessions(plan, datetime.date(2026, 11, 6))]
    [4, 9, 11, 18, 23, 30]
    """
    logged = {one.date: one for one in plan.log}
    past = [Session(day, one.rung, State.DONE, one) for day, one in logged.items()]
    planned = planned_days(plan)
    missed = [day for day in planned if day < today and day not in logged]
    left = max(len(planned) - len(logged), 0)
    free = _free_days(plan, today, set(logged))[:left]
    rungs = _forecast(plan, len(free))
    ahead = [
        Session(day, rung, State.TODAY if day == today else State.AHEAD)
        for day, rung in zip(free, rungs, strict=True)
    ]
    # Each that is missed goes to the next day on which there is one.
    gone = [
        Session(day, _stood_on(plan, day), State.MISSED, None, next((s.date for s in ahead), None))
        for day in missed
    ]
    return tuple(sorted([*past, *gone, *ahead], key=lambda one: one.date))


def _free_days(plan: Plan, today: datetime.date, taken: set[datetime.date]) -> list[datetime.date]:
    last = plan.start + (LONGEST_DAYS - 1) * DAY
    filmed = check_ins(plan)
    first = max(plan.start, today)
    return [day for day in given_days(first, last, plan.weekdays) if day not in taken and day not in filmed]


def _stood_on(plan: Plan, day: datetime.date) -> Rung:
    """The rung that was stood on on a day of the past."""
    return standing(replace(plan, log=tuple(one for one in plan.log if one.date < day))).rung


def _forecast(plan: Plan, count: int) -> list[Rung]:
    """The rungs of the coming sessions if each holds: evenly, none in less than it takes to climb."""
    at = standing(plan)
    rest = list(RUNGS[at.number :])
    while len(rest) > 1 and count < ENOUGH * len(rest):
        rest.pop()
    each, over = divmod(count, len(rest))
    # What is left over goes to the last ones, where the number has to hold at speed.
    counts = [each + (k >= len(rest) - over) for k in range(len(rest))]
    return [rung for rung, many in zip(rest, counts, strict=True) for _ in range(many)]
