"""What of the errors of several swings belongs to each alone, and what all of a side have alike."""

from __future__ import annotations

from collections.abc import Sequence

from kneel.judge.numbers import Side
from kneel.motion.quantity import Single
from kneel.motion.sample import Key

Told = Sequence[tuple[Side, Single]]
"""Swings of one side, each with what it tells of one measure."""

OWN = ("place", "time", "unsteady now", "unsteady then")
"""Causes of error that every clip has by itself; all others the clips of one lesson share."""


def is_own(one: Side, single: Single, cause: Key) -> bool:
    """Whether a cause of error is a swing's own.

    What nobody marked lies off by clothes and build, alike in all clips, so that it is shared.
    """
    return cause[0] == single.key or (cause[0] in OWN and not (one.blind and cause[0] == "place"))


def own_variance(one: Side, single: Single) -> float:
    """The variance that a swing brings by itself."""
    return float(sum(moved**2 for cause, moved in single.causes.items() if is_own(one, single, cause)))


def shared_moves(told: Told) -> dict[Key, float]:
    """How far one deviation of each cause that is no swing's own moves the mean of a side."""
    total: dict[Key, float] = {}
    for one, single in told:
        for cause, moved in single.causes.items():
            if not is_own(one, single, cause):
                total[cause] = total.get(cause, 0.0) + moved / len(told)
    return total
