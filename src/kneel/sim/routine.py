"""What a golfer does about a swing: walks in, rehearses, steps to the ball, looks at the target, walks off.

A phone films all of that. The swing itself is what :class:`kneel.sim.swing.SwingPlan` says; a routine goes
before and after it, from rest to rest, so that nothing of the swing is another for it. How long people take
for each is common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kneel.model import UsageError

STRIDE_CM, STRIDE_S = 45.0, 0.45
SIDLE_CM, SIDLE_S = 12.0, 0.35
"""Strides of a walk, and the small steps with which somebody comes up to the ball."""

BACK_CM = 24.0
"""So far from the ball somebody rehearses: the club passes inside it."""

LEAVES_STRIDES = 3
TURNS_S, GATHERS_S, HOLDS_S, RELAXES_S, LOOKS_S = 0.7, 0.8, 0.6, 1.1, 1.2


@dataclass(frozen=True)
class Act:
    """One thing done, from ``start_s`` to ``end_s`` after the clip begins or the finish is reached."""

    name: str
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Routine:
    """``walk_cm`` is how far away a walk in begins, 0 none; ``rehearsal`` is the length of a practice swing
    as a share of a full one, 0 none, which takes ``rehearsal_times`` as long; ``looks`` at the target so
    often; ``leaves`` is whether the club is lowered and the golfer walks off. Raises ``UsageError``.

    >>> [act.name for act in Routine(walk_cm=100, looks=0, leaves=True).acts(1.8)]
    ['walk', 'turn', 'gather', 'settle']
    """

    walk_cm: float = 0.0
    rehearsal: float = 0.0
    rehearsal_times: float = 1.2
    looks: int = 0
    settles_s: float = 0.8
    leaves: bool = False

    def __post_init__(self) -> None:
        if self.rehearsal and not 0.3 <= self.rehearsal <= 1:
            raise UsageError(f"A rehearsal is 0.3 to 1 of a full swing, not {self.rehearsal:g}.")

    @property
    def strides(self) -> int:
        """Of the walk in; nobody walks in from less than half of one."""
        return round(self.walk_cm / STRIDE_CM)

    def acts(self, swing_s: float) -> list[Act]:
        """What is done before a swing that lasts so long, one thing after the other from the clip's begin."""
        lasts: list[tuple[str, float]] = []
        if self.strides:
            lasts += [("walk", self.strides * STRIDE_S), ("turn", TURNS_S), ("gather", GATHERS_S)]
        if self.rehearsal:
            lasts += [("rest", 0.5), ("rehearsal", self.rehearsal_times * swing_s), ("hold", HOLDS_S)]
            lasts += [("recover", RELAXES_S), ("sidle", round(BACK_CM / SIDLE_CM) * SIDLE_S)]
        lasts += [("look", LOOKS_S)] * self.looks + [("settle", self.settles_s)]
        return _one_after_the_other(lasts, 0.0)

    def before_s(self, swing_s: float) -> float:
        """How long it goes on before the stillness that the plan has itself."""
        return self.acts(swing_s)[-1].end_s

    def leaves_acts(self, start_s: float) -> list[Act]:
        """What is done from a moment on once a finish has been held."""
        lasts = [("lower", RELAXES_S), ("turn", TURNS_S), ("walk", LEAVES_STRIDES * STRIDE_S)] * self.leaves
        return _one_after_the_other(lasts, start_s)

    @property
    def after_s(self) -> float:
        """How long it goes on after the stillness that follows a finish."""
        return self.leaves_acts(0.0)[-1].end_s if self.leaves else 0.0


def _one_after_the_other(lasts: list[tuple[str, float]], start_s: float) -> list[Act]:
    ends = (start_s + np.cumsum([length for _, length in lasts])).tolist()
    return [Act(name, end - length, end) for (name, length), end in zip(lasts, ends, strict=True)]
