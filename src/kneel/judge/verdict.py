"""One value against one window: probability, verdict, severity."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from kneel.judge.knowledge import Window

FAULT_AT = 0.90
WATCH_AT = 0.50
SURELY_IN = 0.10
WORST_SEVERITY = 5.0

NOMINAL_WIDTH = {"length": 6.0, "deg": 15.0, "ratio": 0.5, "%": 10.0, "s": 0.1, "ms": 100.0}
"""Width taken for a window open on the counting side's far end, by unit (cm for lengths)."""


class Verdict(StrEnum):
    FAULT = "fault"
    WATCH = "watch"
    CLEAR = "clear"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Judged:
    """A verdict with the probability that the true value is past the limit."""

    verdict: Verdict
    probability: float
    severity: float
    past: float


def judge_value(value: float, sigma: float, window: Window, *, side: str, margin: float, unit: str) -> Judged:
    """Judge ``value`` +- ``sigma`` (normal error) against a window, all in one unit.

    ``side`` is ``below``, ``above`` or ``outside``: the side of the window
    that counts. ``past`` is the distance beyond the limit, negative inside.

    >>> window = Window("pelvis_shift", "top", -1.5, 4.0)
    >>> judged = judge_value(-6.0, 0.7, window, side="below", margin=2.0, unit="length")
    >>> judged.verdict.value, round(judged.severity, 2)
    ('fault', 2.25)
    """
    lo = window.lo if side in ("below", "outside") else None
    hi = window.hi if side in ("above", "outside") else None
    probability = _tail(lo, value, sigma) + _tail(value, hi, sigma)
    past = max(
        -math.inf if lo is None else lo - value,
        -math.inf if hi is None else value - hi,
    )
    severity = min(max(past, 0.0) / margin, WORST_SEVERITY)
    open_ended = window.lo is None or window.hi is None
    width = NOMINAL_WIDTH[unit] if open_ended else float(window.hi) - float(window.lo)  # type: ignore[arg-type]
    too_wide = sigma > (width + margin) / 3
    if too_wide and SURELY_IN < probability < FAULT_AT:
        verdict = Verdict.UNKNOWN
    elif probability >= FAULT_AT:
        verdict = Verdict.FAULT
    elif probability >= WATCH_AT:
        verdict = Verdict.WATCH
    else:
        verdict = Verdict.CLEAR
    return Judged(verdict, probability, severity, past)


def _tail(upper: float | None, lower: float | None, sigma: float) -> float:
    """Probability that a normal value lies the wrong way: P(true ``lower`` - ``upper`` < 0)."""
    if upper is None or lower is None:
        return 0.0
    gap = upper - lower
    if sigma <= 0:
        return 1.0 if gap > 0 else 0.0
    return 0.5 * math.erfc(-gap / (sigma * math.sqrt(2.0)))
