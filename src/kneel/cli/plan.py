"""``kneel plan SWING``: one thing to work on, its drill, some weeks of it, and when to look again."""

from __future__ import annotations

import argparse
import datetime
from collections.abc import Sequence

from kneel.cli.outputs import Output, demand_outputs
from kneel.cli.parts import write_json
from kneel.cli.several import load_all, read_all
from kneel.contract.plan import PlanResult, plan_result
from kneel.contract.v1 import as_content
from kneel.disk import write_bytes
from kneel.model import Flag, Plan, Prop, Shot, UsageError, Where
from kneel.model.plan import LEAST_MINUTES, LONGEST_DAYS, MOST_MINUTES, SHORTEST_DAYS
from kneel.practice import Drill, PracticeDays, Wish, known_drills, plan_of, propose
from kneel.practice.schedule import WEEK, spread_over_week
from kneel.speech import practice as say
from kneel.speech.questions import short


def run(asked: argparse.Namespace) -> int:
    """Make a plan from one swing, or from several of one view, club and kind taken together."""
    outputs = [*Output.of(asked.json, "--json"), *Output.of(asked.ics, "--ics")]
    wanted = _wanted(asked)
    many = read_all(load_all(asked, outputs))
    demand_outputs(outputs, [])
    wish = Wish(
        tuple(Flag(flag) for flag in asked.flag),
        tuple(Where(place) for place in asked.place) or None,
        tuple(Prop(prop) for prop in asked.prop) if asked.prop is not None else None,
        Shot(asked.shot) if asked.shot else None,
        many.numbers.club,
    )
    proposal = propose(many.reading, wish, known_drills(), fault=asked.fault or "", drill=asked.drill or "")
    if proposal is None and many.reading.question:
        raise UsageError(
            f"{short(many.reading.question)} Until that is said (--view, --handed, --mirrored) nothing is "
            "sure enough to plan weeks for."
        )
    if proposal is None:
        raise UsageError(
            "Nothing in this swing is sure enough to plan weeks for; --fault NAME plans for one all the same."
        )
    plan = plan_of(proposal, many.numbers, wanted, school=many.reading.school.key)
    told = plan_result(plan, proposal, wish.flags)
    for output in outputs:
        if output.option == "--json":
            write_json(as_content(told), output)
        else:
            from kneel.contract.calendar import calendar_of

            with output.writing() as path:
                write_bytes(path, calendar_of(plan, plan.start, wish.flags), private=True, lasting=False)
    if not any(output.to_stdout for output in outputs):
        _print(plan, known_drills().get(plan.drill), told)
    return 0


def _wanted(asked: argparse.Namespace) -> PracticeDays:
    """When there is practice, as the options say. Raises :class:`UsageError`."""
    days = asked.weeks * WEEK
    if not SHORTEST_DAYS <= days <= LONGEST_DAYS:
        raise UsageError(f"--weeks takes 1 to {LONGEST_DAYS // WEEK}, not {asked.weeks}.")
    if not LEAST_MINUTES <= asked.minutes <= MOST_MINUTES:
        raise UsageError(f"--minutes takes {LEAST_MINUTES} to {MOST_MINUTES}, not {asked.minutes}.")
    return PracticeDays(_start(asked.start), days, _weekdays(asked.days), asked.minutes)


def _start(text: str | None) -> datetime.date:
    if text is None:
        return datetime.date.today()
    try:
        day = datetime.date.fromisoformat(text)
    except ValueError:
        raise UsageError(f"--start takes a date as 2026-11-24, not {text}.") from None
    if not 1990 <= day.year <= 2200:
        raise UsageError(f"--start takes a date of these times, not {text}.")
    return day


def _weekdays(text: str) -> tuple[int, ...]:
    """How many days a week, or which."""
    names = [name.lower() for name in say.WEEKDAYS]
    parts = [part.strip().lower() for part in text.split(",")]
    if len(parts) == 1 and parts[0].isdecimal() and len(parts[0]) <= 4 and 1 <= int(parts[0]) <= WEEK:
        return spread_over_week(int(parts[0]))
    if all(part in names for part in parts) and len(set(parts)) == len(parts):
        return tuple(sorted(names.index(part) for part in parts))
    raise UsageError(f"--days takes 1 to 7, or days as {','.join(names[:3])}, not {text}.")


def _print(plan: Plan, drill: Drill, told: PlanResult) -> None:
    print(f"Work on one thing: {drill.title}, with {say.props_words(drill)}.")
    for line in (say.aim_sentence(plan.aim), *(say.guard_sentence(guard) for guard in plan.guards)):
        print(f"  {line}")
    _list("How", drill.steps)
    for heading, text in say.drill_lines(drill):
        print(f"{heading}: {text}")
    _list(
        "Days, as it goes if each rung holds",
        [f"{s.date:%a} {say.day_words(s.date)}: {s.dose}" for s in told.sessions],
    )
    _list("The ladder", [f"{s.rung}: {say.limit_words(plan.aim, s.limit)}. {s.how}" for s in told.ladder])
    print(f"On {say.day_words(plan.check_in)}: {say.film_sentence(plan)}")
    print(f"  Done when: {say.success_sentence(plan)}")
    print(f"  {say.if_not_sentence(plan)}")
    _list("Care", told.cautions)


def _list(heading: str, lines: Sequence[str]) -> None:
    print(f"{heading}:")
    for line in lines:
        print(f"  {line}")
