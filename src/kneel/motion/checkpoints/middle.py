"""The middle of several tracks with its error: what the time of a checkpoint is as sure as."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.motion.track import Track

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Middle:
    """The mean of some tracks, whose errors are independent of each other's."""

    tracks: Sequence[Track]

    def index(self, time_s: float) -> int:
        """The frame nearest to a time."""
        times = self.tracks[0].times_s
        after = int(np.clip(np.searchsorted(times, time_s), 1, max(len(times) - 1, 1)))
        before = after - 1
        return before if len(times) < 2 or time_s - times[before] <= times[after] - time_s else after

    def sigma(self, time_s: float) -> float:
        """Standard error of a coordinate at a time, px."""
        at = self.index(time_s)
        return float(np.sqrt(sum(float(t.sigma[at]) ** 2 for t in self.tracks)) / len(self.tracks))

    def moved_sigma(self, start_s: float, end_s: float) -> float:
        """Standard error of how far a coordinate moves from one time to another, px."""
        a, b = self.index(start_s), self.index(end_s)
        total = 0.0
        for track in self.tracks:
            together = float(track.covariance_with(a)[b])
            total += max(float(track.sigma[a]) ** 2 + float(track.sigma[b]) ** 2 - 2 * together, 0.0)
        return float(np.sqrt(total) / len(self.tracks))

    def speed_sigma(self, time_s: float, reach_s: float) -> float:
        """Standard error of the mean speed along a coordinate within ``reach_s`` of a time, px/s."""
        times = self.tracks[0].times_s
        start, end = self.index(time_s - reach_s), self.index(time_s + reach_s)
        if start == end:
            start, end = max(start - 1, 0), min(end + 1, len(times) - 1)
        lasts = float(times[end] - times[start])
        return self.moved_sigma(float(times[start]), float(times[end])) / lasts if lasts > 0 else 0.0
