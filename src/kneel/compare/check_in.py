"""The check-in: what two sets of swings, before and after, say to a plan, and what follows from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from kneel.compare.difference import ChangeWord, Difference
from kneel.compare.errors import Member
from kneel.compare.family import AskedNumber, Compared, compare_all
from kneel.model import Guard, Plan
from kneel.practice.ladder import RungHeld, held


class Outcome(StrEnum):
    """What a check-in comes to, and so what to do: see :mod:`kneel.speech.practice`."""

    HOLDS = "holds"
    """Inside the window by more than its error: keep it, go on to what is queued."""
    CLOSER = "closer"
    """It moved the right way and is not inside yet: go on."""
    CANNOT_TELL = "cannot tell"
    """Within what the error alone can make: film more."""
    NOT_MOVED = "not moved"
    """Nothing worth the name: change the drill, not the dose."""
    WORSE = "worse"
    """It moved the wrong way, or a guard did: stop this drill."""
    FEW = "too few"
    """Fewer than three swings a side: these two differ or not, the student is not told."""
    NOT_TOLD = "not told"
    """The number is not to be had from these swings."""


@dataclass(frozen=True)
class Answer:
    """What a check-in says. ``worse`` are the guards that got worse; ``reason`` why nothing is told."""

    outcome: Outcome
    found: Compared
    worse: tuple[Difference, ...] = ()
    reason: str = ""

    @property
    def change(self) -> Difference | None:
        return self.found.prescribed if isinstance(self.found.prescribed, Difference) else None


def answered(
    plan: Plan, before: Sequence[Member], after: Sequence[Member], asked: Sequence[AskedNumber]
) -> Answer:
    """Hold swings before and after a plan's weeks against its number, its guards and all else ``asked``.

    >>> from datetime import date
    >>> from kneel.compare.difference import two_sides
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.model import Aim
    >>> from kneel.motion.example import example
    >>> sides = two_sides([OfSwing(example())], [OfSwing(example(0.0))])
    >>> aim = Aim("pelvis_shift", "top", "cm", "up", -2.0, 1.0)
    >>> plan = Plan("sway", "d", aim, (0.0,) * 4, date(2026, 9, 1), 14, (0,), 20, date(2026, 9, 14))
    >>> answered(plan, *sides, []).outcome.value
    'too few'
    """
    aim = plan.aim
    wanted = AskedNumber(aim.measure, aim.at, aim.by)
    guards = [AskedNumber(g.measure, g.at, g.by) for g in plan.guards]
    found = compare_all(before, after, [*asked, *guards], prescribed=wanted, among=plan.among)
    change = found.prescribed
    worse = tuple(c for g in plan.guards for c in found.others if _worse(g, c))
    if not isinstance(change, Difference):
        reason = "The number was not told." if change is None else change.reason
        return Answer(Outcome.NOT_TOLD, found, worse, reason)
    return Answer(_outcome(plan, change, worse), found, worse)


def _outcome(plan: Plan, change: Difference, worse: Sequence[Difference]) -> Outcome:
    way = change.difference if plan.aim.way == "up" else -change.difference
    if worse or (change.verdict is ChangeWord.CHANGED and way < 0):
        return Outcome.WORSE
    if not change.of_student:
        return Outcome.FEW
    if held(plan.aim, change.after, change.after_sigma) is RungHeld.HELD:
        return Outcome.HOLDS
    if change.verdict is ChangeWord.CHANGED:
        return Outcome.CLOSER
    return Outcome.NOT_MOVED if change.verdict is ChangeWord.UNCHANGED else Outcome.CANNOT_TELL


def _worse(guard: Guard, change: Difference) -> bool:
    """Whether a guard has moved its bad way by more than it may, beyond error."""
    if (guard.measure, guard.at) != (change.measure, change.at) or change.verdict is not ChangeWord.CHANGED:
        return False
    way = change.difference if guard.way == "up" else -change.difference
    return way > guard.by
