"""What a plan says as a page to print: the one thing, how, the days to tick, the ladder, and care."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge import in_use
from kneel.model import RUNGS, Flag, Hand, Plan
from kneel.practice import Drill, sessions
from kneel.practice.dose import amount
from kneel.practice.schedule import State, check_ins
from kneel.speech import practice as say
from kneel.speech.plain import sided

FILM = "Film three swings: did it change?"


@dataclass(frozen=True)
class DayLine:
    """A day to tick: which, what is done on it, and whether it was."""

    day: str
    words: str
    done: bool = False


@dataclass(frozen=True)
class RungLine:
    """A rung of the ladder: its name, its number, and the drill on it."""

    title: str
    words: str
    drill: str


@dataclass(frozen=True)
class PlanPage:
    """All words of the page, left and right instead of lead and trail."""

    name: str
    day: str
    title: str
    why: str
    steps: tuple[str, ...]
    feel: str
    avoid: str
    felt: str
    days: tuple[DayLine, ...]
    ladder: tuple[RungLine, ...]
    film_day: str
    film: str
    care: str


def plan_page(
    plan: Plan,
    drill: Drill,
    hand: Hand,
    name: str,
    today: datetime.date,
    flags: Sequence[Flag] = (),
    warning: str = "",
) -> PlanPage:
    """The page of a plan for ``name``, who may be called like a side and stays so."""
    fault = in_use().faults.get(plan.fault)

    def told(words: str) -> str:
        return sided(words, hand)

    return PlanPage(
        name,
        f"{say.day_words(plan.start)} {plan.start.year}",
        told(drill.title),
        told(fault.why if fault else ""),
        tuple(told(step) for step in drill.steps),
        told(drill.feel),
        told(" ".join(drill.mistakes)),
        told(f"{drill.felt} {drill.sore} {drill.pain}"),
        _days(plan, drill, hand, today, flags),
        tuple(
            RungLine(say.RUNG_TITLES[rung], told(say.rung_words(plan, rung)), told(drill.on(rung)))
            for rung in RUNGS
        ),
        say.day_words(plan.check_in),
        told(f"{say.film_sentence(plan)} Done when: {say.success_sentence(plan)}"),
        told(" ".join(say.cautions(drill, fault, warning))),
    )


def _days(
    plan: Plan, drill: Drill, hand: Hand, today: datetime.date, flags: Sequence[Flag]
) -> tuple[DayLine, ...]:
    filmed = set(check_ins(plan))
    days = {one.date: one for one in sessions(plan, today) if one.state is not State.MISSED}
    lines = []
    for day in sorted({*days, *filmed}):
        called = f"{say.WEEKDAYS[day.weekday()]} {day.day} {say.MONTHS[day.month - 1][:3]}"
        done = day in days and days[day].state is State.DONE
        words = FILM
        if day not in filmed:
            words = sided(say.dose_words(amount(drill, days[day].rung, plan.minutes, flags)), hand)
        lines.append(DayLine(called, words, done))
    return tuple(lines)
