"""What a measure comes to: a series over frames, or one value, each with its error."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kneel.motion.sample import Key
from kneel.motion.uncertain import Estimate

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
    """One value, its standard error, and the interval that holds the truth 95 times in 100."""

    key: str
    unit: str
    value: float
    sigma: float
    low: float
    high: float
    _from: tuple[Estimate, int, str] | None = field(default=None, compare=False, repr=False)
    _parts: Callable[[], dict[Key, float]] | None = field(default=None, compare=False, repr=False)
    _given: Mapping[Key, float] | None = field(default=None, compare=False, repr=False)

    @property
    def pair(self) -> tuple[float, float]:
        """Value and standard error."""
        return self.value, self.sigma

    @property
    def causes(self) -> dict[Key, float]:
        """How far one standard deviation of each independent cause moves it; one key is one cause."""
        if self._given is not None:
            return dict(self._given)
        if self._parts is not None:
            return self._parts()
        if self._from is None:
            return {(self.key,): self.sigma}
        told, index, checkpoint = self._from
        return {
            ("time", checkpoint) if cause == ("time", "own") else cause: float(moved[index])
            for cause, moved in told.causes.items()
            if moved[index]
        }

    def budget(self, most: int = 3) -> list[tuple[str, float]]:
        """What its error comes from in words, with the share of the variance, largest first."""
        shares: dict[str, float] = {}
        for key, moved in self.causes.items():
            words = cause_words(key)
            shares[words] = shares.get(words, 0.0) + moved**2 / max(self.sigma**2, 1e-30)
        return sorted(shares.items(), key=lambda entry: -entry[1])[:most]

    @staticmethod
    def plain(key: str, unit: str, value: float, sigma: float) -> Single:
        """A value that rests on nothing else here."""
        return Single(key, unit, value, sigma, value - 1.96 * sigma, value + 1.96 * sigma)

    @staticmethod
    def given(key: str, unit: str, value: float, sigma: float, causes: Mapping[Key, float]) -> Single:
        """A value that was told elsewhere, with its causes of error as they were there."""
        low, high = value - 1.96 * sigma, value + 1.96 * sigma
        return Single(key, unit, value, sigma, low, high, _given=causes)

    @staticmethod
    def of(key: str, unit: str, told: Estimate, index: int, checkpoint: str) -> Single:
        """One of the moments at which a measure was told."""
        return Single(
            key,
            unit,
            float(told.values[index]),
            float(told.sigma[index]),
            float(told.low[index]),
            float(told.high[index]),
            (told, index, checkpoint),
        )


_WORDS = {
    "scale": "the scale",
    "roll": "the camera's tilt",
    "yaw": "a camera off square",
    "perspective": "what hangs nearer looking larger",
    "height": "the camera's height",
    "deep": "how deep the {} hangs",
    "deep aside": "how deep the {} hangs",
    "nearer": "how much nearer the {} comes",
    "nearer aside": "how much nearer the {} comes",
    "time": "when the {} is",
    "place": "where the {} is",
    "place edge": "how little of it shows from here",
    "place way": "which way it is turned",
    "pose": "where the {} is",
    "lasts": "where the {} is",
    "definition": "what the measure itself leaves open",
    "unsteady now": "the camera's own motion",
    "unsteady then": "the camera's own motion",
    "paths": "where the points are",
    "whole": "camera, scale and build",
}


def cause_words(key: Key) -> str:
    """A cause as it stands in a sentence.

    >>> cause_words(("place", "lead_hip")), cause_words(("yaw",))
    ('where the lead hip is', 'a camera off square')
    >>> cause_words(("place", "way"))
    'which way it is turned'
    """
    about = key[1].replace("_", " ") if len(key) > 1 else ""
    words = _WORDS.get(" ".join(key)) or _WORDS.get(key[0], key[0].replace("_", " "))
    return words.format(about)
