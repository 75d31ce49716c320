"""The ladder: on which rung somebody stands, by what the sessions came to.

A number that was filmed decides at once where it is past its rung's limit, one way or the other, by more
than its standard error; between, it tells nothing. Where nobody filmed, what the student says has to come
twice running.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from kneel.model import RUNGS, Aim, Plan, Practised, Rung
from kneel.motion.measures import REGISTRY, Domain

SHARES = (0.4, 0.6, 0.8, 1.0)
"""How much of the way to the limit each rung asks for (common practice, no source)."""

ENOUGH = 2
"""So much speaks for going up or down a rung: one number that was filmed, or two reports in a row."""

FILMED, TOLD = 2, 1


class RungHeld(StrEnum):
    """Whether a number held on its rung."""

    HELD = "held"
    NOT_HELD = "not held"
    CANNOT_TELL = "cannot tell"


@dataclass(frozen=True)
class Standing:
    """``rung`` is the one practised now; ``done`` is whether the last one has been climbed.

    ``last`` is the last filmed number on it with its error.
    """

    rung: Rung
    done: bool
    last: tuple[float, float] | None

    @property
    def number(self) -> int:
        return RUNGS.index(self.rung)


def rung_limits(aim: Aim) -> tuple[float, ...]:
    """The limit of each rung, from no ball to full.

    On smaller swings the number is a step on the way and no verdict. What is set up before the swing, or
    could not be told at the start, has the one limit on all rungs; so has what starts inside.

    >>> rung_limits(Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5, -6.5, 0.7))
    (-4.5, -3.5, -2.5, -1.5)
    """
    setup = REGISTRY[aim.measure].domain is Domain.SETUP or aim.at == "address"
    if aim.start is None or setup or aim.inside(aim.start) >= 0:
        return (aim.limit,) * len(RUNGS)
    return tuple(aim.start + share * (aim.limit - aim.start) for share in SHARES)


def held(aim: Aim, value: float, sigma: float, limit: float | None = None) -> RungHeld:
    """Whether a number is past its limit by more than its error, inside or outside.

    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5)
    >>> held(aim, -0.5, 0.7).value, held(aim, -1.2, 0.7).value, held(aim, -3.0, 0.7).value
    ('held', 'cannot tell', 'not held')
    """
    inside = aim.inside(value, limit)
    if inside > sigma:
        return RungHeld.HELD
    return RungHeld.NOT_HELD if inside < -sigma else RungHeld.CANNOT_TELL


def standing(plan: Plan) -> Standing:
    """Where the sessions of a plan have led; one of another rung than the one stood on tells nothing.

    >>> import datetime
    >>> from kneel.model import Aim
    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5)
    >>> start, ask = datetime.date(2026, 11, 3), datetime.date(2026, 11, 16)
    >>> plan = Plan("sway", "turn_inside_the_gate", aim, (-4.5, -3.5, -2.5, -1.5), start, 21, (0, 2), 15, ask)
    >>> standing(plan).rung.value
    'no ball'
    """
    at, speaks, done = 0, 0, False
    last: tuple[float, float] | None = None
    for one in sorted(plan.log, key=lambda one: one.date):
        if one.rung is not RUNGS[at]:
            continue
        if one.value is not None and one.sigma is not None:
            last = one.value, one.sigma
        told = _speaks(plan, one)
        speaks = speaks + told if speaks * told >= 0 else told
        if abs(speaks) >= ENOUGH:
            up = speaks > 0
            done = up and at == len(RUNGS) - 1
            before, at = at, min(max(at + (1 if up else -1), 0), len(RUNGS) - 1)
            speaks = 0
            last = last if at == before else None
    return Standing(RUNGS[at], done, last)


def _speaks(plan: Plan, one: Practised) -> int:
    """How much a session speaks for going up, or down where negative."""
    if one.value is not None and one.sigma is not None:
        limit = plan.ladder[RUNGS.index(one.rung)]
        said = held(plan.aim, one.value, one.sigma, limit)
        return {RungHeld.HELD: FILMED, RungHeld.NOT_HELD: -FILMED, RungHeld.CANNOT_TELL: 0}[said]
    return 0 if one.held is None else TOLD if one.held else -TOLD
