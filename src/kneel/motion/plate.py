"""What a pressure plate recorded beside a swing: another quantity than where the mass hangs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

PLATE_SIGMA = 2.0
"""How far a plate's share is off, % (from memory: makers state 1 to 3)."""


@dataclass(frozen=True)
class Plate:
    """Shares in % over real seconds on the clock of the frames: (N,) each, rising times."""

    times_s: FloatArray
    lead: FloatArray
    toe: FloatArray

    def at(self, what: str, time_s: float, sigma_s: float) -> tuple[float, float] | None:
        """Share and standard error at a moment, its own error of time included; None beyond the trace."""
        if not self.times_s[0] <= time_s <= self.times_s[-1]:
            return None
        share: FloatArray = getattr(self, what)
        value = float(np.interp(time_s, self.times_s, share))
        before, after = np.interp([time_s - sigma_s, time_s + sigma_s], self.times_s, share)
        return value, float(np.hypot(PLATE_SIGMA, (after - before) / 2))

    def series(self, what: str, times_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Shares and errors at many times (T,), the ends held."""
        share: FloatArray = getattr(self, what)
        return np.interp(times_s, self.times_s, share), np.full(len(times_s), PLATE_SIGMA)
