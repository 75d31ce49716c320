"""One value against one window: verdict, probability, severity. Rule and reasons: docs/architecture.md."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

FAULT_Z = 3.3
"""So many standard errors past the limit are a fault: fit for about 70 deciding checks in a view."""

WATCH_Z = 0.84
"""As many are worth watching: four of five of a normal error lie below."""

CLEAR_Z = 1.28
"""A fault worth a margin is ruled out where nine of ten of the error lie inside."""

HALF = 0.5
"""A share of a margin that is not worth a word."""

WORST_SEVERITY = 5.0


class Verdict(StrEnum):
    FAULT = "fault"
    WATCH = "watch"
    CLEAR = "clear"
    UNKNOWN = "unknown"

    @property
    def at_work(self) -> bool:
        """Whether something is seen: a fault, or what may be one."""
        return self in (Verdict.FAULT, Verdict.WATCH)


ANY = (Verdict.FAULT, Verdict.WATCH, Verdict.UNKNOWN, Verdict.CLEAR)
"""Where one check is enough: the first of these that occurs."""

ALL = (Verdict.CLEAR, Verdict.UNKNOWN, Verdict.WATCH)
"""Where every check is needed: the first of these that occurs, else a fault."""


@dataclass(frozen=True)
class Judged:
    """A verdict with the probability that the true value is past the limit, and how far it is past."""

    verdict: Verdict
    probability: float
    severity: float
    past: float


@dataclass(frozen=True)
class Limits:
    """A window as used: scaled to the body, in the unit of the value; None is open."""

    lo: float | None
    hi: float | None
    margin: float

    def outside(self, value: float) -> float:
        """How far a value lies outside the window, 0 inside."""
        below = 0.0 if self.lo is None else self.lo - value
        above = 0.0 if self.hi is None else value - self.hi
        return max(below, above, 0.0)

    def asks(self, side: str) -> bool:
        """Whether there is a limit on the side that counts."""
        return self.counted(side) != (None, None)

    def counted(self, side: str) -> tuple[float | None, float | None]:
        """The limits on the side that counts."""
        return None if side == "above" else self.lo, None if side == "below" else self.hi

    def past(self, value: float, side: str) -> float:
        """How far a value is past the limit that counts; negative inside."""
        low, high = self.counted(side)
        below = -math.inf if low is None else low - value
        above = -math.inf if high is None else value - high
        return max(below, above)


def judge_value(value: float, sigma: float, limits: Limits, side: str) -> Judged:
    """Judge ``value`` ± ``sigma`` (normal error) against a window, all in one unit.

    ``side`` is ``below``, ``above`` or ``outside``: the side of the window that counts; it must have a
    limit there.

    >>> judged = judge_value(-6.0, 0.7, Limits(-1.5, 4.0, 2.0), "below")
    >>> judged.verdict.value, round(judged.severity, 2)
    ('fault', 2.25)
    """
    past, margin = limits.past(value, side), limits.margin
    sigma = max(sigma, 1e-9)
    z = past / sigma
    if past >= HALF * margin and z >= FAULT_Z:
        verdict = Verdict.FAULT
    elif past >= HALF * margin and z >= WATCH_Z:
        verdict = Verdict.WATCH
    elif past < HALF * margin and past + CLEAR_Z * sigma <= margin:
        verdict = Verdict.CLEAR
    else:
        verdict = Verdict.UNKNOWN
    severity = min(max(past, 0.0) / margin, WORST_SEVERITY)
    return Judged(verdict, normal(z), severity, past)


def normal(z: float) -> float:
    """The share of a normal distribution below ``z``.

    >>> round(normal(1.6449), 4)
    0.95
    """
    return 0.5 * math.erfc(-z / math.sqrt(2.0))


def together(verdicts: Iterable[Verdict], need: Literal["any", "all"]) -> Verdict:
    """One verdict from several checks, where ``any`` is enough or ``all`` are needed.

    >>> together([Verdict.CLEAR, Verdict.UNKNOWN], "any"), together([Verdict.WATCH, Verdict.FAULT], "all")
    (<Verdict.UNKNOWN: 'unknown'>, <Verdict.FAULT: 'fault'>)
    """
    known = set(verdicts)
    if need == "any":
        return next((one for one in ANY if one in known), Verdict.UNKNOWN)
    if not known:
        return Verdict.UNKNOWN
    return next((one for one in ALL[:2] if one in known), Verdict.FAULT if Verdict.FAULT in known else ALL[2])
