"""Version 1 of the JSON of ``kneel plan`` and ``kneel changed``; its schema lies in ``docs/schemas``."""

from __future__ import annotations

import datetime
from collections.abc import Mapping, Sequence
from typing import Any, Literal

from kneel.compare.difference import Difference
from kneel.compare.family import Compared
from kneel.contract.result import number
from kneel.contract.v1 import VERSION, Number, Part, schema_of
from kneel.judge import Fault, in_use
from kneel.model import RUNGS, Flag, Guard, Plan
from kneel.practice import Drill, Proposal, drills_in_use, sessions
from kneel.practice.choice import DrillChoice
from kneel.practice.dose import amount
from kneel.practice.schedule import check_ins
from kneel.speech import practice as say


class Session(Part, frozen=True):
    """A day's practice as it goes if each rung holds; ``dose`` in words, and in numbers."""

    date: datetime.date
    rung: Literal["no ball", "half", "three-quarter", "full"]
    dose: str
    sets: int
    repetitions: int
    balls: int
    rehearsals: int
    per_cent: int
    minutes: int


class Step(Part, frozen=True):
    """A rung: the number has to be past ``limit``, by more than its error, before the next one."""

    rung: str
    measure: str
    checkpoint: str
    way: Literal["up", "down"]
    limit: Number
    unit: str
    how: str


class Success(Part, frozen=True):
    """What counts at the check-in: past ``limit``, going ``way``, by more than the number's error."""

    measure: str
    checkpoint: str
    way: Literal["up", "down"]
    limit: Number
    unit: str
    start: Number
    start_sigma: Number
    least_change: Number
    text: str
    if_not: str


class Kept(Part, frozen=True):
    """A number that must not go ``way`` by more than ``by``."""

    measure: str
    checkpoint: str
    way: Literal["up", "down"]
    by: Number
    unit: str
    start: Number
    start_sigma: Number


class Offered(Part, frozen=True):
    """A drill for the root, best first: ``standing`` is fits, warned, lacking, waits or not."""

    drill: str
    title: str
    standing: str
    why: str


class Phase(Part, frozen=True):
    """What comes once the first thing holds."""

    root: str
    drill: str


class Told(Part, frozen=True):
    """The drill in words."""

    key: str
    title: str
    props: tuple[tuple[str, ...], ...]
    steps: tuple[str, ...]
    feel: str
    mistakes: tuple[str, ...]
    before: str
    felt: str
    soreness: str
    pain: str
    cautions: tuple[str, ...]


class PlanResult(Part, frozen=True):
    """The whole plan."""

    kneel: int
    root: str
    drill: str
    sessions: tuple[Session, ...]
    ladder: tuple[Step, ...]
    check_in: datetime.date
    check_ins: tuple[datetime.date, ...]
    success: Success
    guards: tuple[Kept, ...]
    second: tuple[Phase, ...]
    choices: tuple[Offered, ...]
    how: Told
    cautions: tuple[str, ...]


class ChangeTold(Part, frozen=True):
    """A measure on both sides. ``detectable`` is the least change that can be told among all that was asked
    with it, ``detectable_alone`` the least were it asked alone, at 95 %. ``spread_before`` and
    ``spread_after`` are the standard deviations from swing to swing, null with one swing.
    """

    measure: str
    checkpoint: str
    unit: str
    before: Number
    after: Number
    difference: Number
    sigma: Number
    detectable: Number
    detectable_alone: Number
    spread_before: Number
    spread_after: Number
    p: Number
    verdict: str


class ChangedResult(Part, frozen=True):
    """Whether the student changed between two sides of several swings."""

    kneel: int
    view: str
    club: str
    kind: str
    before: int
    after: int
    lessons: Literal["same", "different"]
    camera: Literal["stood", "moved"]
    prescribed: ChangeTold | None
    others: tuple[ChangeTold, ...]
    text: str


def plan_result(plan: Plan, proposal: Proposal, flags: Sequence[Flag] = ()) -> PlanResult:
    """Build the result of a plan that is about to begin."""
    drill, aim = drills_in_use().get(plan.drill), plan.aim
    faults = in_use().faults
    warning = say.warning_words(proposal.chosen) if proposal.chosen else ""
    cautions = say.cautions(drill, faults[plan.fault], warning)
    return PlanResult(
        VERSION,
        plan.fault,
        plan.drill,
        tuple(_sessions(plan, drill, flags)),
        tuple(
            Step(rung.value, aim.measure, aim.at, aim.way, number(limit), aim.unit, drill.on(rung))
            for rung, limit in zip(RUNGS, plan.ladder, strict=True)
        ),
        plan.check_in,
        check_ins(plan),
        Success(
            aim.measure,
            aim.at,
            aim.way,
            number(aim.limit),
            aim.unit,
            number(aim.start),
            number(aim.sigma),
            number(aim.by),
            say.success_sentence(plan),
            say.if_not_sentence(plan),
        ),
        tuple(_kept(guard) for guard in plan.guards),
        tuple(Phase(one.fault, one.drill) for one in plan.queued),
        tuple(_offered(one, faults) for one in proposal.drills),
        _told(drill),
        cautions,
    )


def _sessions(plan: Plan, drill: Drill, flags: Sequence[Flag]) -> list[Session]:
    made = []
    for one in sessions(plan, plan.start):
        much = amount(drill, one.rung, plan.minutes, flags)
        made.append(
            Session(
                one.date,
                one.rung.value,
                say.dose_words(much),
                much.sets,
                much.repetitions,
                much.balls,
                much.rehearsals,
                much.per_cent,
                plan.minutes,
            )
        )
    return made


def _kept(guard: Guard) -> Kept:
    return Kept(
        guard.measure,
        guard.at,
        guard.way,
        number(guard.by),
        guard.unit,
        number(guard.start),
        number(guard.sigma),
    )


def _offered(one: DrillChoice, faults: Mapping[str, Fault]) -> Offered:
    return Offered(one.drill.key, one.drill.title, one.stands.name.lower(), say.standing_words(one, faults))


def _told(drill: Drill) -> Told:
    return Told(
        drill.key,
        drill.title,
        tuple(tuple(prop.value for prop in group) for group in drill.props),
        drill.steps,
        drill.feel,
        drill.mistakes,
        drill.before,
        drill.felt,
        drill.sore,
        drill.pain,
        drill.care,
    )


def changed_result(
    found: Compared, view: str, club: str, kind: str, *, lessons: bool, stood: bool, text: str
) -> ChangedResult:
    """Build the answer to whether something changed."""
    one = found.prescribed
    return ChangedResult(
        VERSION,
        view,
        club,
        kind,
        *found.counts,
        "different" if lessons else "same",
        "stood" if stood else "moved",
        _difference(one) if isinstance(one, Difference) else None,
        tuple(_difference(change) for change in found.others),
        text,
    )


def _difference(change: Difference) -> ChangeTold:
    return ChangeTold(
        change.measure,
        change.at,
        change.unit,
        number(change.before),
        number(change.after),
        number(change.difference),
        number(change.sigma),
        number(change.detectable),
        number(change.detectable_alone),
        number(change.spreads[0]),
        number(change.spreads[1]),
        number(change.p, 6),
        change.verdict.value,
    )


def schema() -> dict[str, Any]:
    """The JSON schema of what ``kneel plan`` and ``kneel changed`` write."""
    return schema_of(PlanResult, ChangedResult)
