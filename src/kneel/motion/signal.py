"""Small tools on sampled paths: even grids, smoothing, crossings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


LEAST_JITTER_PX = 0.1


@dataclass(frozen=True)
class Path:
    """A path on an even grid of times ``t`` (N,): ``xy`` (N, 2) px smoothed lightly, ``plain`` as it was."""

    t: FloatArray
    xy: FloatArray
    velocity: FloatArray
    speed: FloatArray
    speed_noise: float
    plain: FloatArray

    def at(self, time_s: float) -> FloatArray:
        """Position at a time, (2,)."""
        return np.array([np.interp(time_s, self.t, self.xy[:, k]) for k in (0, 1)])

    def index(self, time_s: float) -> int:
        return int(np.clip(np.searchsorted(self.t, time_s), 0, len(self.t) - 1))


def even_path(times_s: FloatArray, xy: FloatArray, *, smooth_s: float) -> Path:
    """Resample a path evenly and smooth it by a Gaussian of ``smooth_s`` seconds.

    ``speed_noise`` is what the path's own jitter leaves in the speed; an error
    that lasts leaves nothing there.

    >>> times = np.array([0.0, 0.1, 0.25, 0.3, 0.4])
    >>> path = even_path(times, np.stack([100 * times, 0 * times], axis=1), smooth_s=0.02)
    >>> len(path.t), path.speed[2].round().item()
    (5, 100.0)
    """
    step = float(np.median(np.diff(times_s)))
    t = np.arange(times_s[0], times_s[-1] + step / 2, step)
    even = np.stack([np.interp(t, times_s, xy[:, k]) for k in (0, 1)], axis=1)
    width = max(smooth_s / step, 0.5)
    smooth = np.stack([_blurred(even[:, k], width) for k in (0, 1)], axis=1)
    velocity = np.gradient(smooth, step, axis=0)
    # Derivative of a Gaussian of s samples leaves sigma / (2 pi^(1/4) s^1.5) of white noise;
    # a coarse bound is enough for a threshold.
    white = white_sigma(even)
    jitter = max(white if np.isfinite(white) else 1.0, LEAST_JITTER_PX)
    noise = jitter / (2 * np.pi**0.25 * width**1.5 * step) * np.sqrt(2)
    return Path(t, smooth, velocity, np.hypot(velocity[:, 0], velocity[:, 1]), noise, even)


def white_sigma(xy: FloatArray) -> float:
    """Frame-to-frame noise of a path (px per coordinate), from its third differences.

    ``xy`` is (T, 2) with NaN gaps. A smooth motion leaves almost nothing in
    third differences; white noise of sigma leaves sigma * sqrt(20). The median
    of absolute values keeps fast moments from counting. NaN where fewer than
    eight differences exist.

    >>> rng = np.random.default_rng(1)
    >>> bool(abs(white_sigma(rng.normal(0, 2, (4000, 2))) - 2) < 0.1)
    True
    """
    third = np.diff(xy, n=3, axis=0)
    third = third[np.isfinite(third)]
    if third.size < 16:
        return float("nan")
    return float(np.median(np.abs(third)) * 1.4826 / np.sqrt(20.0))


def _blurred(values: FloatArray, width: float) -> FloatArray:
    """Convolve (N,) with a Gaussian of ``width`` samples, the ends held.

    Written out, since importing a filter package takes longer than a whole analysis.
    """
    reach = int(np.ceil(4 * width))
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / width) ** 2)
    return np.convolve(np.pad(values, reach, mode="edge"), kernel / kernel.sum(), mode="valid")


def first_crossing(t: FloatArray, values: FloatArray, *, rising: bool) -> float | None:
    """Time at which ``values`` first crosses zero in the asked direction, or None.

    >>> first_crossing(np.array([0.0, 1.0, 2.0]), np.array([-1.0, 1.0, 3.0]), rising=True)
    0.5
    """
    signed = values if rising else -values
    where = np.flatnonzero((signed[:-1] < 0) & (signed[1:] >= 0))
    if where.size == 0:
        return None
    i = int(where[0])
    share = signed[i] / (signed[i] - signed[i + 1])
    return float(t[i] + share * (t[i + 1] - t[i]))
