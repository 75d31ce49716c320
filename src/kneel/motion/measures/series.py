"""What is read off measures' series (B, T) at times (T,) s, for B draws at once: values, extremes, onsets."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.motion.measures.registry import FloatArray

Mask = NDArray[np.bool_]

SMOOTH_S: Final = 0.05
"""Speeds and onsets are read off series smoothed over this long."""


def between(times: FloatArray, start: FloatArray, end: FloatArray) -> Mask:
    """Which of the times (T,) lie between two moments (B,), (B, T).

    >>> between(np.array([0.0, 1.0, 2.0]), np.array([0.5]), np.array([2.0]))
    array([[False,  True,  True]])
    """
    return np.asarray((times >= start[:, None]) & (times <= end[:, None]))


def value_at(series: FloatArray, times: FloatArray, when: FloatArray) -> FloatArray:
    """Series (B, T) at moments (B,), between frames by a straight line.

    >>> value_at(np.array([[0.0, 10.0, 20.0]]), np.array([0.0, 1.0, 2.0]), np.array([1.5]))
    array([15.])
    """
    after = np.clip(np.searchsorted(times, when), 1, len(times) - 1)
    share = np.clip((when - times[after - 1]) / (times[after] - times[after - 1]), 0.0, 1.0)
    rows = np.arange(len(series))
    return np.asarray(series[rows, after - 1] * (1 - share) + series[rows, after] * share)


def smoothed(series: FloatArray, times: FloatArray) -> FloatArray:
    """Series (B, T) averaged over :data:`SMOOTH_S` twice, the ends held.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> bool(np.allclose(smoothed(np.ones((1, 101)), times), 1.0))
    True
    """
    reach = max(round(SMOOTH_S / 2 / max(float(np.median(np.diff(times))), 1e-6)), 0)
    for _ in range(2 if reach else 0):
        wide = np.pad(series, ((0, 0), (reach + 1, reach)), mode="edge")
        total = np.cumsum(wide, axis=1)
        series = (total[:, 2 * reach + 1 :] - total[:, : -2 * reach - 1]) / (2 * reach + 1)
    return series


def extreme(series: FloatArray, times: FloatArray, inside: Mask) -> tuple[FloatArray, FloatArray]:
    """Time and size of the largest value inside (B,), by a parabola through it and its neighbours.

    >>> times = np.linspace(0.0, 1.0, 11)
    >>> when, size = extreme(1.0 - (times[None] - 0.43) ** 2, times, np.ones((1, 11), bool))
    >>> round(float(when[0]), 6), round(float(size[0]), 6)
    (0.43, 1.0)
    """
    masked = np.where(inside, series, -np.inf)
    at = np.clip(masked.argmax(axis=1), 1, len(times) - 2)
    rows = np.arange(len(series))
    a, b, c = (series[rows, at + k] for k in (-1, 0, 1))
    bend = a - 2 * b + c
    share = np.where(bend < 0, np.clip((a - c) / np.where(bend < 0, 2 * bend, 1.0), -0.5, 0.5), 0.0)
    step = (times[at + 1] - times[at - 1]) / 2
    return times[at] + share * step, b - (a - c) * share / 4


def first(times: FloatArray, inside: Mask) -> FloatArray:
    """The first time inside (B,), NaN where there is none.

    >>> first(np.array([0.0, 0.5, 1.0]), np.array([[False, True, True], [False, False, False]]))
    array([0.5, nan])
    """
    return np.where(inside.any(axis=1), times[inside.argmax(axis=1)], np.nan)
