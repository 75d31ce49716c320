"""Which drill for this fault of this student: what fits, what waits, what needs a warning or is not given.

Everything comes as data; the sentences are made by :mod:`kneel.speech.practice`.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from kneel.judge import Reading, Verdict
from kneel.model import ALWAYS, Club, Flag, Prop, Shot, Student, Where
from kneel.practice.catalogue import Drills
from kneel.practice.drill import Drill

AGAINST = {Shot.DRAW: Shot.FADE, Shot.FADE: Shot.DRAW, Shot.HIGH: Shot.LOW, Shot.LOW: Shot.HIGH}

FRAIL = {Flag.MOBILITY: (Flag.BACK, Flag.HIP)}
"""Flags that ask for the same care as some parts do: who is stiff is not turned by force."""


class Stands(IntEnum):
    """How a drill stands to this student, best first."""

    FITS = 0
    WARNED = 1
    LACKING = 2
    WAITS = 3
    NOT = 4


class Cause(StrEnum):
    """Why it does not simply fit."""

    LOADS = "loads"
    MAY_BE_WRONG = "may be wrong"
    PROP = "prop"
    PLACE = "place"
    FIRST = "first"
    WRONG = "wrong"
    FORBIDDEN = "forbidden"


@dataclass(frozen=True)
class Reason:
    """One reason, and what it is about: flags, props, places or faults."""

    cause: Cause
    about: tuple[str, ...]


STANDS = {
    Cause.LOADS: Stands.WARNED,
    Cause.MAY_BE_WRONG: Stands.WARNED,
    Cause.PROP: Stands.LACKING,
    Cause.PLACE: Stands.LACKING,
    Cause.FIRST: Stands.WAITS,
    Cause.WRONG: Stands.NOT,
    Cause.FORBIDDEN: Stands.NOT,
}


@dataclass(frozen=True)
class Wish:
    """What a choice is made for: flags, what is at hand (None: nobody has said), club, and the wanted shot.

    ``worked`` counts for drills how often a plan with them held, minus how often it did not.
    """

    flags: tuple[Flag, ...] = ()
    places: tuple[Where, ...] | None = None
    props: tuple[Prop, ...] | None = None
    shot: Shot | None = None
    club: Club = Club.IRON
    worked: Mapping[str, int] | None = None

    @staticmethod
    def of(student: Student, club: Club = Club.IRON) -> Wish:
        """What is known of a student, the outcome of earlier plans with it."""
        worked: dict[str, int] = {}
        for plan in student.plans:
            if plan.ended:
                worked[plan.drill] = worked.get(plan.drill, 0) + (1 if plan.ended == HELD else -1)
        return Wish(student.flags, student.places, student.props, student.shot, club, worked)


HELD = "held"
"""How a plan ends whose number came inside its window."""


@dataclass(frozen=True)
class DrillChoice:
    """A drill for a fault, how it stands, and why."""

    drill: Drill
    fault: str
    stands: Stands
    reasons: tuple[Reason, ...]

    @property
    def usable(self) -> bool:
        """Whether it may be begun now, if need be with a warning."""
        return self.stands <= Stands.WARNED

    @property
    def forbidden(self) -> bool:
        """Whether it is not for this student at all."""
        return any(reason.cause is Cause.FORBIDDEN for reason in self.reasons)


def choices(
    fault: str, reading: Reading, wish: Wish, drills: Drills, *, measure: str = ""
) -> tuple[DrillChoice, ...]:
    """All drills for a fault, best first. ``measure`` is the number that the fault was decided by.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.practice.catalogue import known_drills
    >>> found = choices("sway", reading, Wish(), known_drills())
    >>> len(found) > 1
    True
    """
    found = [_choice(drill, fault, reading, wish) for drill in drills.curing(fault)]
    return tuple(sorted(found, key=lambda one: (one.stands, _less(one.drill, fault, measure, wish))))


def first_choice(found: Collection[DrillChoice]) -> DrillChoice | None:
    """The drill to begin with; None where none may be begun.

    >>> first_choice([]) is None
    True
    """
    return next((one for one in found if one.usable), None)


def _choice(drill: Drill, fault: str, reading: Reading, wish: Wish) -> DrillChoice:
    reasons = tuple(_reasons(drill, reading, wish))
    stands = max((STANDS[one.cause] for one in reasons), default=Stands.FITS)
    return DrillChoice(drill, fault, stands, reasons)


def _reasons(drill: Drill, reading: Reading, wish: Wish) -> list[Reason]:
    flags = {*wish.flags, *(part for flag in wish.flags for part in FRAIL.get(flag, ()))}
    surely = {finding.key for finding in reading.findings if finding.verdict is Verdict.FAULT}
    perhaps = {finding.key for finding in reading.findings if finding.verdict is Verdict.WATCH}
    reasons = [
        Reason(Cause.FORBIDDEN, _kept(drill.not_for, wish.flags)),
        Reason(Cause.WRONG, _kept(drill.wrong_for, surely)),
        Reason(Cause.FIRST, _kept(drill.first, surely)),
        Reason(Cause.LOADS, _kept(drill.loads, flags)),
        Reason(Cause.MAY_BE_WRONG, _kept(drill.wrong_for, perhaps)),
    ]
    if wish.places is not None and not set(drill.places) & set(wish.places):
        reasons.append(Reason(Cause.PLACE, tuple(drill.places)))
    if wish.props is not None:
        at_hand = {*wish.props, *ALWAYS}
        lacking = [group for group in drill.props if not set(group) & at_hand]
        reasons.extend(Reason(Cause.PROP, tuple(group)) for group in lacking)
    return [one for one in reasons if one.about]


def _kept(named: Collection[str], there: Collection[str]) -> tuple[str, ...]:
    return tuple(one for one in named if one in there)


def _less(drill: Drill, fault: str, measure: str, wish: Wish) -> tuple[float, ...]:
    """What speaks against a drill among those that stand alike: the lower the better."""
    worked = (wish.worked or {}).get(drill.key, 0)
    shot = 0
    if wish.shot is not None:
        shot = (AGAINST[wish.shot] in drill.shots) - (wish.shot in drill.shots)
    cure = drill.cure(fault, measure)
    other_number = bool(measure) and (cure is None or cure.measure != measure)
    needs = len([group for group in drill.props if not set(group) & set(ALWAYS)])
    order = [c.fault for c in drill.cures].index(fault)
    return -worked, shot, other_number, wish.club not in drill.clubs, order, needs
