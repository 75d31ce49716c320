"""When the hands reverse at the top: slowest, at rest, or, seen badly, somewhere between two turns."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.signal import Path

FloatArray = NDArray[np.float64]

REVERSAL_S = 0.05
"""Half the stretch over which a speed is told."""

TURN_S, BENDS = 0.12, (5, 6)
"""Half the stretch over which the reversal is fitted, and the degrees of the polynomials."""

COARSE_TURN_S, LEAST_REACH = 0.165, 5
"""At 30 frames a second and fewer so much longer a stretch, of no more than so many frames to either side."""

PAUSE_SHARE, PAUSE_S = 0.05, 0.12
"""Hands slower than this share of their greatest speed for so long at the top rest there."""

BACK_S, SLOW_SIGMAS = 0.03, 2.0
"""Hands turn where they come back the way they went within so long, no faster than so many errors of their
speed."""


def reversal(hands: Path, error: Middle, low: int) -> Moment:
    """Refine the top: when the hands are slowest, by a polynomial through their places.

    Hands leave the top faster than they come to it, so that smoothing would draw it earlier.

    >>> from kneel.motion.example import example_hands
    >>> hands, error, _ = example_hands()
    >>> round(reversal(hands, error, hands.index(0.75)).time_s, 1)
    0.8
    """
    step = step_of(hands)
    rest = _pause(hands, low)
    if rest is not None:
        return rest
    reach = max(round(TURN_S / step), min(LEAST_REACH, round(COARSE_TURN_S / step)))
    first, last = max(low - reach, 0), min(low + reach, len(hands.t) - 1)
    if last - first < max(BENDS) + 1:
        return Moment(float(hands.t[low]), step)
    since, places = hands.t[first : last + 1] - hands.t[low], hands.plain[first : last + 1]
    near = max(REVERSAL_S, 2 * step)
    told = [one for bends in BENDS if (one := _slowest(since, places, bends, near)) is not None]
    if not told:
        return Moment(float(hands.t[low]), reach * step / 2)
    # Few frames, or much noise, leave two curves that fit alike: between them, as wide as they are apart.
    shift, quickens = (sum(part) / len(told) for part in zip(*told, strict=True))
    apart = max(abs(one - shift) for one, _ in told)
    noise = error.speed_sigma(float(hands.t[low] + shift), REVERSAL_S) / max(quickens, 1e-9)
    # A reversal is a stretch, not an instant: people place it within about 8 ms (common practice).
    sigma = float(np.sqrt(noise**2 + apart**2 + step**2 / 12 + 0.008**2))
    turns = _turns(hands, error, low)
    if len(turns) > 1:
        # Seen badly, as beside the head, they seem to turn more than once: it was somewhere between.
        sigma = float(np.hypot(sigma, (turns[-1] - turns[0]) / np.sqrt(12)))
        return Moment(float(turns[0] + turns[-1]) / 2, sigma)
    return Moment(float(hands.t[low] + shift), sigma)


def _slowest(since: FloatArray, places: FloatArray, bends: int, near: float) -> tuple[float, float] | None:
    """When a polynomial of a degree through places (K, 2) at times ``since`` (K,) s is slowest, within
    ``near`` s of 0, and how fast it gathers speed there; None where it turns nowhere near.
    """
    fits = [np.polynomial.Polynomial.fit(since, places[:, k], bends) for k in (0, 1)]
    x, y = (fit.deriv() for fit in fits)
    square = x * x + y * y
    turns = square.deriv()
    found = np.asarray(turns.roots(), dtype=complex)
    slowest = [float(r.real) for r in found if abs(r.imag) < 1e-9 and abs(r) <= near]
    slowest = [r for r in slowest if float(np.asarray(turns.deriv()(r))) > 0]
    if not slowest:
        return None
    shift = min(slowest, key=lambda r: float(np.asarray(square(r))))
    return shift, float(np.linalg.norm([float(np.asarray(v.deriv()(shift))) for v in (x, y)]))


def _turns(hands: Path, error: Middle, low: int) -> FloatArray:
    """When about ``low`` the hands come back the way they went, too slow to tell which way they go."""
    step, unsure = step_of(hands), error.speed_sigma(float(hands.t[low]), REVERSAL_S)
    back, reach = max(1, round(BACK_S / step)), max(1, round(TURN_S / step))
    first, last = max(low - reach, back), min(low + reach, len(hands.t) - 1 - back)
    every = np.arange(first, last + 1)
    came, goes = hands.xy[every] - hands.xy[every - back], hands.xy[every + back] - hands.xy[every]
    trembles = SLOW_SIGMAS * hands.speed_noise * back * step
    comes_back = (came * goes).sum(axis=1) < -(trembles**2)
    turning = every[(hands.speed[every] < SLOW_SIGMAS * unsure) & comes_back]
    if not turning.size:
        return np.empty(0)
    runs = np.split(turning, np.flatnonzero(np.diff(turning) > 1) + 1)
    return np.array([hands.t[run[np.argmin(hands.speed[run])]] for run in runs])


def _pause(hands: Path, low: int) -> Moment | None:
    """The middle of a rest at the top, which may have turned anywhere within; None where there is none."""
    calm = hands.speed < PAUSE_SHARE * hands.speed.max()
    if not calm[low]:
        return None
    moving = np.flatnonzero(~calm)
    first = int(moving[moving < low][-1]) + 1 if (moving < low).any() else 0
    last = int(moving[moving > low][0]) - 1 if (moving > low).any() else len(calm) - 1
    lasts = float(hands.t[last] - hands.t[first])
    if lasts < PAUSE_S:
        return None
    return Moment(float(hands.t[first] + lasts / 2), lasts / float(np.sqrt(12)))


def step_of(path: Path) -> float:
    """Seconds from one moment of a path to the next.

    >>> from kneel.motion.example import example_hands
    >>> round(step_of(example_hands()[0]), 2)
    0.02
    """
    return float(path.t[1] - path.t[0])
