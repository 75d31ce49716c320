"""Cues: words before a swing, the number after it, and which of them worked for this student."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from kneel.model import Cue

CLEARLY = 1.96
"""So many standard errors of the difference are more than the error of two swings makes."""


@dataclass(frozen=True)
class Tried:
    """A cue over all the times it was said: how often the number went its way, and by how much on the mean.

    ``moved`` is in the unit of the number, + where it should go; ``clearly`` counts the times it moved by
    more than the error of both swings. ``felt`` is what the student last said it felt like, and
    ``real`` how far the number went then.
    """

    words: str
    fault: str
    times: int
    clearly: int
    moved: float
    unit: str
    felt: str = ""
    real: float = 0.0

    @property
    def worked(self) -> bool:
        return 2 * self.clearly > self.times


def moved(cue: Cue) -> tuple[float, float]:
    """How far the number went the way it should, and the standard error of that.

    >>> import datetime
    >>> number = ("sway", "pelvis_shift", "top", "cm", "up")
    >>> cue = Cue("Turn", datetime.date(2026, 11, 3), *number, -6.0, 0.5, -3.0, 0.5)
    >>> moved(cue)
    (3.0, 0.7071067811865476)
    """
    sign = 1.0 if cue.way == "up" else -1.0
    sigma = math.hypot(cue.before_sigma, cue.after_sigma) if cue.sigma is None else cue.sigma
    return sign * (cue.after - cue.before), sigma


def clearly_moved(cue: Cue) -> bool:
    """Whether the number went its way by more than the error of both swings makes.

    >>> import datetime
    >>> number = ("sway", "pelvis_shift", "top", "cm", "up")
    >>> cue = Cue("Turn", datetime.date(2026, 11, 3), *number, -6.0, 0.5, -3.0, 0.5)
    >>> clearly_moved(cue)
    True
    """
    way, sigma = moved(cue)
    return way > CLEARLY * sigma


def tried(cues: Iterable[Cue], fault: str = "") -> tuple[Tried, ...]:
    """All cues, or those for a fault: what worked stands first, then what was tried most.

    >>> import datetime
    >>> number = ("sway", "pelvis_shift", "top", "cm", "up")
    >>> cue = Cue("Turn", datetime.date(2026, 11, 3), *number, -6.0, 0.5, -3.0, 0.5)
    >>> [(one.words, one.times, one.worked) for one in tried([cue, cue])]
    [('Turn', 2, True)]
    """
    groups: dict[tuple[str, str, str, str], list[Cue]] = {}
    for cue in cues:
        if fault in ("", cue.fault):
            groups.setdefault((_plain(cue.words), cue.fault, cue.measure, cue.unit), []).append(cue)
    found = [_over(group) for group in groups.values()]
    return tuple(
        sorted(found, key=lambda one: (not one.worked, -one.clearly / one.times, -one.times, -one.moved))
    )


def _over(group: list[Cue]) -> Tried:
    moves = [moved(cue) for cue in group]
    clearly = sum(clearly_moved(cue) for cue in group)
    last = group[-1]
    felt = next((cue for cue in reversed(group) if cue.felt), None)
    return Tried(
        last.words.strip(),
        last.fault,
        len(group),
        clearly,
        sum(way for way, _ in moves) / len(moves),
        last.unit,
        felt.felt if felt is not None else "",
        moved(felt)[0] if felt is not None else 0.0,
    )


def _plain(words: str) -> str:
    """Words as they are told alike."""
    return " ".join(words.lower().split()).rstrip(".!")
