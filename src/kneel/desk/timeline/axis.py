"""How the frames of a swing lie along the ribbon, by their real time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


class TimeAxis:
    """Maps frames at ``times_s`` (T,), T of two or more, to places from ``left`` on over ``width`` px.

    ``shown`` is the first and last moment that lie within, s; the whole of them where none is given.

    >>> axis = TimeAxis(np.array([0.0, 1.0, 3.0]), 10.0, 300.0)
    >>> axis.x_of(1), axis.x_of(1.5), float(axis.frame_at(210.0))
    (110.0, 210.0, 1.5)
    """

    def __init__(
        self, times_s: FloatArray, left: float, width: float, shown: tuple[float, float] | None = None
    ) -> None:
        self.times_s, self.left, self.width = times_s, left, width
        self.shown = shown or (float(times_s[0]), float(times_s[-1]))
        self.per_s = width / (self.shown[1] - self.shown[0])
        self.xs = left + (times_s - self.shown[0]) * self.per_s

    def holds(self, x: float) -> bool:
        """Whether a place lies within what is shown."""
        return self.left - 0.5 <= x <= self.left + self.width + 0.5

    def s_at(self, x: float) -> float:
        """The moment at a place."""
        return self.shown[0] + (x - self.left) / self.per_s

    def x_of(self, frame: float) -> float:
        """Where a frame lies, fractions allowed."""
        last = len(self.xs) - 1
        before = min(max(int(frame), 0), last)
        after = min(before + 1, last)
        share = min(max(frame - before, 0.0), 1.0)
        return float(self.xs[before] + share * (self.xs[after] - self.xs[before]))

    def xs_of(self, frames: FloatArray) -> FloatArray:
        """The same for many frames, (K,)."""
        return np.interp(frames, np.arange(len(self.xs)), self.xs)

    def frame_at(self, x: float) -> float:
        """The frame at a place, as near as there is one."""
        after = int(np.clip(np.searchsorted(self.xs, x), 1, len(self.xs) - 1))
        step = self.xs[after] - self.xs[after - 1]
        return float(np.clip(after - 1 + (x - self.xs[after - 1]) / step, 0, len(self.xs) - 1))

    def x_at_s(self, time_s: float) -> float:
        """Where a moment lies."""
        return self.left + (time_s - self.shown[0]) * self.per_s
