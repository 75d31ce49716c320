"""How much is done in a session: from its minutes, the rung and the drill, within bounds.

Slow first, 10 to 15 repetitions, two rehearsals to each ball, at most about half a bucket; three-quarter
swings at no more than 80 % (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from kneel.model import Flag, Rung
from kneel.practice.drill import Drill

WARM_UP_MIN = 3
"""Minutes of a session in which nothing is counted."""

SET_MIN = 3.0
"""A set of slow repetitions with the pause after it."""

BALL_MIN = {Rung.HALF: 0.7, Rung.THREE_QUARTER: 0.9, Rung.FULL: 1.1}
"""A ball with two rehearsals."""

MOST_SETS, MOST_BALLS, LEAST_BALLS = 3, 25, 5
GENTLE_SETS, GENTLE_BALLS = 2, 15
REHEARSALS = 2
MOST_PER_CENT = {Rung.NO_BALL: 30, Rung.HALF: 60, Rung.THREE_QUARTER: 80, Rung.FULL: 100}
"""How fast a swing on that rung is at most, of one's own full speed."""

GENTLE = (Flag.JUNIOR, Flag.SENIOR, Flag.BACK, Flag.HIP, Flag.KNEE, Flag.ANKLE, Flag.MOBILITY)
"""Who does less of it."""


@dataclass(frozen=True)
class Amount:
    """Either ``sets`` of ``repetitions`` without a ball, or ``balls`` with two rehearsals each."""

    rung: Rung
    sets: int
    repetitions: int
    balls: int

    @property
    def rehearsals(self) -> int:
        """Before each ball."""
        return REHEARSALS if self.balls else 0

    @property
    def per_cent(self) -> int:
        return MOST_PER_CENT[self.rung]

    @property
    def total(self) -> int:
        return self.balls or self.sets * self.repetitions


def amount(drill: Drill, rung: Rung, minutes: int, flags: Collection[Flag] = ()) -> Amount:
    """What a session of so many minutes holds on a rung.

    >>> from kneel.practice import drills_in_use
    >>> drill = drills_in_use().get("turn_inside_the_gate")
    >>> amount(drill, Rung.NO_BALL, 15).total, amount(drill, Rung.FULL, 15).balls
    (24, 10)
    """
    gentle = bool(set(flags) & set(GENTLE))
    left = max(minutes - WARM_UP_MIN, 1)
    if rung is Rung.NO_BALL:
        most = min(drill.dose.sets, GENTLE_SETS if gentle else MOST_SETS)
        sets = min(max(int(left / SET_MIN), 1), most)
        return Amount(rung, sets, drill.dose.low if gentle or left < 2 * SET_MIN else drill.dose.high, 0)
    most = GENTLE_BALLS if gentle else MOST_BALLS
    return Amount(rung, 0, 0, min(max(int(left / BALL_MIN[rung]), LEAST_BALLS), most))
