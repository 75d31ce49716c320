"""The days of a plan as a calendar to tick off, Monday first."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

from kneel.model import Plan
from kneel.practice import sessions
from kneel.practice.schedule import DAY, WEEK, Session, State, check_ins
from kneel.speech import practice as say

MOST_WEEKS = 5


@dataclass(frozen=True)
class DayCell:
    """A day of the calendar: how it is called, and what is done on it; ``film`` where a clip is due."""

    day: str
    words: str = ""
    film: bool = False
    done: bool = False


def weeks_of(plan: Plan, today: datetime.date) -> tuple[tuple[DayCell, ...], ...]:
    """The plan's days from this week on, Monday first; what was before is past."""
    filmed = set(check_ins(plan))
    days = {one.date: one for one in sessions(plan, today) if one.state is not State.MISSED}
    last = max([*days, *filmed])
    start = max(plan.start, min(today, last))
    monday = start - start.weekday() * DAY
    rows: list[tuple[DayCell, ...]] = []
    while monday <= last and len(rows) < MOST_WEEKS:
        rows.append(tuple(_cell(monday + k * DAY, days, filmed, plan) for k in range(WEEK)))
        monday += WEEK * DAY
    return tuple(rows)


def _cell(
    day: datetime.date, days: dict[datetime.date, Session], filmed: set[datetime.date], plan: Plan
) -> DayCell:
    called = f"{say.WEEKDAYS[day.weekday()][:2]} {day.day}"
    if day in filmed:
        return DayCell(called, "film it", film=True)
    if day not in days:
        return DayCell(called)
    return DayCell(called, f"{plan.minutes} min", done=days[day].state is State.DONE)
