"""From a finding and a drill to a plan: the number, its ladder, its days and the day of the check-in."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge import Finding
from kneel.judge.finding import Weighed
from kneel.judge.numbers import Numbers
from kneel.judge.verdict import Limits
from kneel.model import Aim, FileRef, Guard, Plan, Queued, UsageError, View
from kneel.model.plan import Way
from kneel.motion.measures import REGISTRY, Unit
from kneel.motion.quantity import Single
from kneel.practice.drill import Drill
from kneel.practice.ladder import rung_limits
from kneel.practice.schedule import check_in_day


@dataclass(frozen=True)
class PracticeDays:
    """When there is practice: from which day, for how many days, on which days of the week, how long."""

    start: datetime.date
    days: int = 21
    weekdays: tuple[int, ...] = (0, 2, 4, 6)
    minutes: int = 15


def make_plan(
    finding: Finding,
    drill: Drill,
    numbers: Numbers,
    wanted: PracticeDays,
    *,
    school: str = "centred",
    queued: Sequence[Queued] = (),
    before: Sequence[FileRef] = (),
    among: int = 1,
) -> Plan:
    """A plan for one fault with one drill, from the numbers of a swing or a set; ``among`` how many its
    number was chosen by what they came to.

    Raises :class:`UsageError` where the drill is not for the fault, or no number of the fault has a limit
    here.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.judge.numbers import OfSwing
    >>> import datetime
    >>> from kneel.practice.catalogue import known_drills
    >>> from kneel.practice.choice import Wish, choices
    >>> drill = choices("sway", reading, Wish(), known_drills())[0].drill
    >>> days = PracticeDays(datetime.date(2026, 11, 5))
    >>> make_plan(reading.of("sway"), drill, OfSwing(example()), days).fault
    'sway'
    """
    aim = aim_of(finding, drill, numbers)
    return Plan(
        fault=finding.key,
        drill=drill.key,
        aim=aim,
        ladder=rung_limits(aim),
        start=wanted.start,
        days=wanted.days,
        weekdays=tuple(sorted(wanted.weekdays)),
        minutes=wanted.minutes,
        check_in=check_in_day(wanted.start, wanted.days, wanted.weekdays),
        school=school,
        view=numbers.seen_from(aim.measure) or View.FACE_ON,
        club=numbers.club,
        kind=numbers.kind,
        guards=tuple(_guard(watch.measure, watch.at, watch.way, watch.by, numbers) for watch in drill.guards),
        queued=tuple(queued),
        before=tuple(before),
        among=among,
    )


def aim_of(finding: Finding, drill: Drill, numbers: Numbers) -> Aim:
    """The number that decided the fault, and the limit it has to pass. Raises :class:`UsageError`.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.practice.catalogue import known_drills
    >>> from kneel.practice.choice import Wish, choices
    >>> drill = choices("sway", reading, Wish(), known_drills())[0].drill
    >>> aim = aim_of(reading.of("sway"), drill, OfSwing(example()))
    >>> aim.measure, aim.way
    ('pelvis_shift', 'up')
    """
    weighed = _asked(finding)
    if weighed is None or weighed.limits is None:
        raise UsageError(
            f"{finding.fault.title} has no number in this view under this school, so no plan can be held "
            "to one; choose another fault, or film the other view."
        )
    check, told = weighed.check, weighed.told
    cure = drill.cure(finding.key, check.measure)
    if cure is None:
        raise UsageError(f"The drill “{drill.title}” is not one for {finding.fault.title.lower()}.")
    way, limit = edge_of(weighed.limits, check.side, told)
    unit = told.unit if told else _unit(check.measure)
    # A drill speaks of its own number of the fault; of another one its margin is what is worth the name.
    least = (
        _sized(cure.by, check.measure, unit, numbers)
        if cure.measure == check.measure
        else weighed.limits.margin
    )
    start = (told.value, told.sigma) if told else (None, None)
    return Aim(check.measure, weighed.at, unit, way, limit, least, *start)


def _asked(finding: Finding) -> Weighed | None:
    """What decided the fault; else the first check that has a limit here."""
    if finding.decided is not None:
        return finding.decided
    return next((w for w in finding.weighed if w.limits is not None and w.limits.asks(w.check.side)), None)


def edge_of(limits: Limits, side: str, told: Single | None) -> tuple[Way, float]:
    """Where the number has to go, and the limit on that side.

    >>> edge_of(Limits(-1.5, 4.0, 2.0), "below", None), edge_of(Limits(None, 4.0, 2.0), "above", None)
    (('up', -1.5), ('down', 4.0))
    """
    low, high = limits.counted(side)
    if low is not None and high is not None:
        # Of a window with two sides it is the one that is nearer to being broken.
        below = told is None or low - told.value >= told.value - high
        return ("up", low) if below else ("down", high)
    return ("up", low) if low is not None else ("down", float(high or 0.0))


def _guard(measure: str, at: str, way: Way, by: float, numbers: Numbers) -> Guard:
    told = numbers.tell(measure, at) if numbers.seen_from(measure) else None
    unit = told.unit if isinstance(told, Single) else _unit(measure)
    start = (told.value, told.sigma) if isinstance(told, Single) else (None, None)
    return Guard(measure, at, unit, way, _sized(by, measure, unit, numbers), *start)


def _unit(measure: str) -> str:
    unit = REGISTRY[measure].unit
    return "cm" if unit is Unit.LENGTH else unit.value


def _sized(by: float, measure: str, unit: str, numbers: Numbers) -> float:
    """An amount that is written down in cm of a body of 1.75 m, for this body and in this unit."""
    return by * numbers.size / numbers.cm(unit)[0] if REGISTRY[measure].unit is Unit.LENGTH else by
