"""What a measure comes to: a series over frames, or one value, each with its error."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kneel.motion.sample import Key
from kneel.motion.uncertain import Told

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Series:
    """A measure over all frames: ``values`` and ``sigma`` are (T,), in ``unit``."""

    key: str
    unit: str
    values: FloatArray
    sigma: FloatArray
    times_s: FloatArray


@dataclass(frozen=True)
class Single:
    """One value, its standard error, and the interval that holds the truth 95 times in 100.

    ``causes`` says how far one standard deviation of each independent cause moves it.
    """

    key: str
    unit: str
    value: float
    sigma: float
    low: float
    high: float
    causes: Mapping[Key, float] = field(default_factory=dict)

    @property
    def pair(self) -> tuple[float, float]:
        """Value and standard error."""
        return self.value, self.sigma

    @staticmethod
    def plain(key: str, unit: str, value: float, sigma: float) -> Single:
        """A value that rests on nothing else here."""
        return Single(key, unit, value, sigma, value - 1.96 * sigma, value + 1.96 * sigma)

    @staticmethod
    def of(key: str, unit: str, told: Told, index: int, checkpoint: str) -> Single:
        """One of the moments at which a measure was told."""
        causes = {
            ("time", checkpoint) if cause == ("time", "own") else cause: float(moved[index])
            for cause, moved in told.causes.items()
            if moved[index]
        }
        return Single(
            key,
            unit,
            float(told.values[index]),
            float(told.sigma[index]),
            float(told.low[index]),
            float(told.high[index]),
            causes,
        )
