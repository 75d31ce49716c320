"""Sightings: where a point was seen, by whom, and how well."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int64]


@dataclass(frozen=True)
class Sighting:
    """One point as seen by one source over the frames of a clip.

    ``xy`` is (T, 2) in pixels, NaN where the point was not seen; ``sigma`` is
    (T,) in pixels and differs by chance from frame to frame. ``lasting``, (T,)
    in pixels, is the part of the error that stays (the same cloth, the same
    pose), so that many frames do not average it away; None means none.
    ``offset`` in pixels is how far off the source may lie through the whole
    clip, ``wander`` in pixels how far besides for about ``wander_s`` seconds at
    a time: both are estimated with the path, so that marks by hand take them away.
    Where ``clock``, (T,) and never falling, is given, ``wander_s`` counts on it
    instead: an error that goes with the pose changes as fast as the pose does.
    ``doubt``, (T,) of 1 and more, is how many times larger it is while the
    source sees the point badly, as behind another leg; None means 1.
    ``doubt_together``, (T,), is the same for what this point and the one of the other
    side are off by together, of a source that sees both in one look; None of any other.
    """

    xy: FloatArray
    sigma: FloatArray
    lasting: FloatArray | None = None
    by_hand: bool = False
    offset: float = 0.0
    wander: float = 0.0
    wander_s: float = 0.25
    clock: FloatArray | None = None
    doubt: FloatArray | None = None
    doubt_together: FloatArray | None = None

    def __post_init__(self) -> None:
        if self.xy.ndim != 2 or self.xy.shape[1] != 2 or self.sigma.shape != self.xy.shape[:1]:
            raise ValueError(f"a sighting needs (T, 2) and (T,), got {self.xy.shape}, {self.sigma.shape}")
        if self.clock is not None and self.clock.shape != self.sigma.shape:
            raise ValueError(f"a sighting's clock needs {self.sigma.shape}, got {self.clock.shape}")
        if self.doubt is not None and self.doubt.shape != self.sigma.shape:
            raise ValueError(f"a sighting's doubt needs {self.sigma.shape}, got {self.doubt.shape}")
        if self.doubt_together is not None and self.doubt_together.shape != self.sigma.shape:
            raise ValueError(f"a sighting's doubt needs {self.sigma.shape}, got {self.doubt_together.shape}")
        _freeze(self.xy, self.sigma, self.lasting, self.clock, self.doubt, self.doubt_together)

    @property
    def doubts(self) -> FloatArray:
        """``doubt`` of every frame, 1 where none is stated, (T,)."""
        return np.ones(len(self.sigma)) if self.doubt is None else self.doubt

    @property
    def varying(self) -> FloatArray:
        """What it may be off by besides what is constant through the clip, (T,) px."""
        return np.hypot(self.sigma, self.doubts * self.wander)


@dataclass(frozen=True)
class Links:
    """How far a point moved from each frame to the next, as followed in the picture.

    ``step`` is (T-1, 2) in pixels, NaN where nothing was followed; ``sigma``
    is (T-1,) in pixels.
    """

    step: FloatArray
    sigma: FloatArray

    def __post_init__(self) -> None:
        if self.step.ndim != 2 or self.step.shape[1] != 2 or self.sigma.shape != self.step.shape[:1]:
            raise ValueError(f"links need (T-1, 2) and (T-1,), got {self.step.shape}, {self.sigma.shape}")
        _freeze(self.step, self.sigma)


def _freeze(*arrays: FloatArray | None) -> None:
    for array in arrays:
        if array is not None:
            array.setflags(write=False)


@dataclass(frozen=True)
class PointRows:
    """A points file: every named point over one common list of frames.

    ``frames`` (T,) are the numbers from the file, ``times_s`` (T,) their
    times, strictly increasing. For each point ``xy`` is (T, 2), NaN where no
    row stood, and ``sigma`` is (T,), NaN where the file was silent.
    """

    frames: IntArray
    times_s: FloatArray
    xy: dict[str, FloatArray]
    sigma: dict[str, FloatArray]

    def __len__(self) -> int:
        return len(self.frames)
