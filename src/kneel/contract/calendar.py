"""A plan as iCalendar (RFC 5545), for any calendar program: whole days, one entry a session or check-in."""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Sequence

from icalendar import Calendar, Event

from kneel.model import Flag, Plan
from kneel.practice import drills_in_use, sessions
from kneel.practice.dose import amount
from kneel.practice.drill import CARE
from kneel.practice.schedule import State, check_ins
from kneel.speech import practice as say


def calendar_of(plan: Plan, today: datetime.date, flags: Sequence[Flag] = ()) -> bytes:
    """The calendar of what lies ahead of a plan, from ``today`` on."""
    drill = drills_in_use().get(plan.drill)
    calendar = Calendar()
    calendar.add("prodid", "-//Kneel//Practice//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    for one in sessions(plan, today):
        if one.state in (State.TODAY, State.AHEAD):
            much = amount(drill, one.rung, plan.minutes, flags)
            body = "\n\n".join(
                [
                    say.dose_sentence(much),
                    drill.on(one.rung),
                    " ".join(drill.steps),
                    say.rung_words(plan, one.rung),
                    " ".join((*drill.care, CARE)),
                ]
            )
            title = f"{drill.title}: {say.dose_words(much)} ({plan.minutes} min)"
            calendar.add_component(_entry(plan, one.date, "session", title, body))
    for day in check_ins(plan):
        if day >= today:
            body = "\n\n".join(
                [say.film_sentence(plan), say.success_sentence(plan), say.if_not_sentence(plan)]
            )
            calendar.add_component(_entry(plan, day, "check-in", "Film it: did it change?", body))
    return bytes(calendar.to_ical())


def _entry(plan: Plan, day: datetime.date, what: str, title: str, body: str) -> Event:
    """A whole day that takes up no time; its id stays the same when the plan is given out again."""
    event = Event()
    stands_for = f"{plan.fault} {plan.drill} {plan.start} {what} {day}"
    event.add("uid", f"{hashlib.sha256(stands_for.encode()).hexdigest()[:24]}@kneel")
    event.add("dtstamp", datetime.datetime.combine(plan.start, datetime.time(), datetime.UTC))
    event.add("dtstart", day)
    event.add("dtend", day + datetime.timedelta(days=1))
    event.add("summary", title)
    event.add("description", body)
    event.add("transp", "TRANSPARENT")
    return event
