"""How much worse than usual the network tells each landmark in each frame.

Four things tell it: how visible the network itself takes a joint to be
(behind another leg it guesses, and goes on guessing alike), how far hips and
shoulders are turned from the camera (their two ends then fall on one another),
how fast a joint moves (it blurs, and the network lags), and whether it was
taken for that of the other side then or about then (the network sees another
pose, and comes to it by degrees). Each was held
against the truth of simulated swings of six styles and of two filmed cameras;
docs/accuracy.md has the tables.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

FloatArray = NDArray[np.float64]
Curve = tuple[tuple[float, ...], tuple[float, ...]]

BY_VISIBILITY: Final[Curve] = ((0.4, 0.65, 0.8, 0.95), (4.0, 3.0, 1.6, 1.0))
BY_HIPS: Final[Curve] = ((0.06, 0.08, 0.10), (2.6, 1.9, 1.0))
BY_SHOULDERS: Final[Curve] = ((0.10, 0.15, 0.20), (3.0, 2.2, 1.0))
"""By the distance of the two joints in the picture, as a share of the body's height."""

BY_SPEED: Final[Curve] = ((0.2, 0.5, 1.0, 1.5), (1.0, 1.4, 2.2, 2.8))
"""By how fast the joint moves, in body heights a second."""

EXCHANGED, EXCHANGED_S = 2.0, 0.05
"""How much worse a joint is told while it is exchanged for the other side's, and so long before and after."""

SPEED_SMOOTH_S = 0.02
MOST = 6.0

PAIRS: Final = {"shoulder": (11, 12), "hip": (23, 24)}
MIDDLE_BY_SPEED: Final[Curve] = ((0.1, 0.2, 0.5, 1.5), (1.0, 1.4, 1.8, 2.4))
"""The same of the middle of two joints, which is hardly worse for being fast."""

_GIRDLE: Final = {
    **dict.fromkeys((23, 24, 25, 26), (23, 24, BY_HIPS)),
    **dict.fromkeys((11, 12), (11, 12, BY_SHOULDERS)),
}
_FAST: Final = (*range(11, 15), *range(23, 33))
"""Hands are fast in every swing; their own errors are told without this."""


def doubts_of(
    xy: FloatArray,
    visible: FloatArray,
    frames: NDArray[np.int64],
    times_s: FloatArray,
    exchanged: NDArray[np.bool_] | None = None,
) -> FloatArray:
    """How many times larger than usual each landmark's error is, (N, 39), 1 to :data:`MOST`.

    ``xy`` (N, 39, 2) are landmarks in body heights, NaN where unseen, at
    ``frames`` (N,) of the clip's ``times_s`` (T,); ``visible`` (N, 39);
    ``exchanged`` (N, 39) is which were taken for the other side's.
    """
    out = np.interp(visible, *BY_VISIBILITY)
    for mark, (left, right, curve) in _GIRDLE.items():
        out[:, mark] *= np.interp(np.linalg.norm(xy[:, left] - xy[:, right], axis=1), *curve)
    if exchanged is not None and exchanged.any():
        at = times_s[frames]
        about = np.abs(at[:, None] - at[None]) <= EXCHANGED_S
        out[about @ exchanged] *= EXCHANGED
    speed = _speeds(xy[:, _FAST], times_s[frames])
    out[:, _FAST] *= np.interp(speed, *BY_SPEED)
    return np.clip(np.nan_to_num(out, nan=MOST), 1.0, MOST)


def doubts_together(
    xy: FloatArray, visible: FloatArray, frames: NDArray[np.int64], times_s: FloatArray, joint: str
) -> FloatArray:
    """How many times larger than usual what both hips, or shoulders, are off by together is, (N,).

    Where two ends fall on one another, or are taken for each other, it is what lies between them that is told
    badly; their middle is as good as ever as long as one of them is seen, and a little worse while it moves
    (46 drawn clips, docs/accuracy.md). Arguments as for :func:`doubts_of`.
    """
    ends = PAIRS[joint]
    speed = _speeds(xy[:, ends].mean(axis=1, keepdims=True), times_s[frames])[:, 0]
    seen = np.interp(visible[:, ends].max(axis=1), *BY_VISIBILITY)
    return np.clip(np.nan_to_num(seen * np.interp(speed, *MIDDLE_BY_SPEED), nan=MOST), 1.0, MOST)


def _speeds(xy: FloatArray, times_s: FloatArray) -> FloatArray:
    """Speeds (N, K) of landmarks (N, K, 2), per second; 0 where unseen."""
    seen = np.flatnonzero(np.isfinite(xy[:, 0, 0]))
    out = np.zeros(xy.shape[:2])
    if seen.size < 3:
        return out
    # Looks lie dense where hands are quick and apart elsewhere: smoothed on an even clock.
    at = times_s[seen]
    step = float(np.diff(at).min())
    even = np.arange(at[0], at[-1] + step, step)
    flat = xy[seen].reshape(len(seen), -1)
    path = np.stack([np.interp(even, at, column) for column in flat.T], axis=1)
    smooth = gaussian_filter1d(path, max(SPEED_SMOOTH_S / step, 0.3), axis=0)
    moved = np.gradient(smooth, step, axis=0)
    found = np.stack([np.interp(at, even, column) for column in moved.T], axis=1)
    out[seen] = np.linalg.norm(found.reshape(len(seen), *xy.shape[1:]), axis=2)
    return out
