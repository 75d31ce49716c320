"""How the frames of a swing lie along the ribbon, by their real time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

CLOSEST_S = 0.12


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


class Zoom:
    """Which part of the time is shown, and the axis for it: one object as long as nothing of it changes.

    >>> zoom, times = Zoom(), np.linspace(0.0, 2.0, 201)
    >>> zoom.by(zoom.axis(times, 0.0, 100.0), 4.0, 1.0)
    >>> zoom.axis(times, 0.0, 100.0).shown
    (0.75, 1.25)
    """

    def __init__(self) -> None:
        self._span: tuple[float, float] | None = None
        self._axis: TimeAxis | None = None

    def axis(self, times_s: FloatArray, left: float, width: float) -> TimeAxis | None:
        """How frames at ``times_s`` (T,) lie; None of fewer than two."""
        if len(times_s) < 2:
            return None
        known = self._axis
        shown = self._span or (float(times_s[0]), float(times_s[-1]))
        lies = (left, width, shown)
        if known is None or known.times_s is not times_s or (known.left, known.width, known.shown) != lies:
            known = self._axis = TimeAxis(times_s, left, width, shown)
        return known

    def whole(self) -> None:
        """Show all."""
        self._span = None

    def by(self, axis: TimeAxis, factor: float, about_s: float) -> None:
        """Show ``factor`` times less, with a moment where it was."""
        first, last = axis.shown
        length = max((last - first) / factor, CLOSEST_S)
        share = (about_s - first) / max(last - first, 1e-9)
        self.show(axis, about_s - share * length, length)

    def show(self, axis: TimeAxis, first_s: float, length_s: float) -> None:
        """Show so much from a moment on, within what there is."""
        start, end = float(axis.times_s[0]), float(axis.times_s[-1])
        if length_s >= end - start:
            self._span = None
        else:
            first_s = min(max(first_s, start), end - length_s)
            self._span = (first_s, first_s + length_s)

    def follow(self, axis: TimeAxis, frame: int) -> None:
        """Bring a frame that lies outside what is shown into its middle."""
        if self._span is not None and not axis.holds(axis.x_of(frame)):
            length = self._span[1] - self._span[0]
            self.show(axis, float(axis.times_s[frame]) - length / 2, length)
