"""When something that lies still sets off, and when what moves comes to rest.

A reach that starts from rest without a jerk goes as the cube of time (the
minimum-jerk law of arm movements, J. Neurosci. 5, 1985, 1688), long before
anybody can see it move. So the path is fitted as a place that holds until an
onset and a polynomial from the cube on after it; the onset is the one that
leaves least, and backward in time it tells when a motion ends. Errors of a
path wander: taken for noise that each frame has anew, a wander of two pixels
was an onset 0.15 s before anything moved (generalised least squares; A. Aitken,
Proc. R. Soc. Edinburgh 55, 1936, 42).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints.moment import Moment

FloatArray = NDArray[np.float64]

BEFORE_S = 0.30
"""The path is fitted from so long before a rough guess."""

REACH_S, STEP_S = 0.25, 0.004
"""Onsets are tried so far to either side of the guess, in such steps."""

GUESS_SIGMA_S = 0.08
"""How far off the rough guess is (simulated swings)."""

GOES_M = 0.05
"""What goes no farther than this within the fitted part tells nothing."""

WANDERS_S, JITTER_SHARE = 0.15, 0.08
"""How long errors of a path hang together, and what share of their variance each frame has of its own; twice
or half as long tells much the same (simulated swings)."""

MODEL_SIGMA_S = 0.015
"""People do not start quite like that (common practice, no source)."""


def set_off(
    times_s: FloatArray, xy: FloatArray, sigma_px: float, *, rough_s: float, begins_s: float, px_per_m: float
) -> Moment | None:
    """When a path (T, 2) px sets off, about ``rough_s``; ``sigma_px`` is its error from frame to frame.

    ``begins_s`` is how long its beginning lasts, over which it is fitted. The moment is the mean over all
    onsets by how likely each is, its error their spread. None where too little of it shows, or it does not
    move.

    >>> times = np.arange(200) / 100
    >>> path = np.stack([3000 * np.maximum(times - 1.0, 0) ** 3, 0 * times], axis=1)
    >>> moment = set_off(times, path, 0.2, rough_s=1.05, begins_s=0.4, px_per_m=200.0)
    >>> abs(moment.time_s - 1.0) < 0.02
    True
    """
    part = (times_s >= rough_s - BEFORE_S) & (times_s <= rough_s + begins_s)
    t, places = times_s[part] - rough_s, xy[part]
    if part.sum() < 12 or np.linalg.norm(np.ptp(places, axis=0)) < GOES_M * px_per_m:
        return None
    tried = np.arange(max(-REACH_S, float(t[0]) + 0.02), min(begins_s - 0.04, REACH_S), STEP_S)
    if len(tried) < 5:
        return None
    together = (1 - JITTER_SHARE) * np.exp(-np.abs(t[:, None] - t) / WANDERS_S)
    whiten = np.linalg.inv(np.linalg.cholesky(together + JITTER_SHARE * np.eye(len(t))))
    u = np.maximum(t - tried[:, None], 0.0) / begins_s
    design = np.stack([np.ones_like(u), u**3, u**4, u**5], axis=2)
    design, places = whiten @ design, whiten @ places
    across = design.transpose(0, 2, 1)
    fit = np.linalg.solve(across @ design + 1e-9 * np.eye(4), across @ places)
    left = ((design @ fit - places) ** 2).sum(axis=(1, 2))
    best = int(left.argmin())
    if not 0 < best < len(tried) - 1:
        return None
    variance = max(float(left[best]) / (2 * len(t) - 9), (0.5 * sigma_px) ** 2)
    # Few frames leave two onsets that fit about alike: the mean of what is likely, as wide as they are apart.
    cost = (left - left[best]) / variance + (tried / GUESS_SIGMA_S) ** 2
    likely = np.exp(-(cost - cost.min()) / 2)
    likely /= likely.sum()
    mean = float(likely @ tried)
    unsure = max(float(np.sqrt(likely @ (tried - mean) ** 2)), STEP_S / 2)
    return Moment(rough_s + mean, float(np.hypot(unsure, MODEL_SIGMA_S)))


def comes_to_rest(
    times_s: FloatArray, xy: FloatArray, sigma_px: float, *, rough_s: float, begins_s: float, px_per_m: float
) -> Moment | None:
    """When a path (T, 2) px comes to rest, about ``rough_s``: the same backward in time.

    >>> times = np.arange(200) / 100
    >>> path = np.stack([3000 * np.maximum(1.0 - times, 0) ** 3, 0 * times], axis=1)
    >>> moment = comes_to_rest(times, path, 0.2, rough_s=0.95, begins_s=0.4, px_per_m=200.0)
    >>> abs(moment.time_s - 1.0) < 0.02
    True
    """
    found = set_off(
        -times_s[::-1], xy[::-1], sigma_px, rough_s=-rough_s, begins_s=begins_s, px_per_m=px_per_m
    )
    return None if found is None else Moment(-found.time_s, found.sigma_s)
