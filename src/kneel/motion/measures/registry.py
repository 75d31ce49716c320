"""The registry of measures, what a measure may look at, and what it gives back.

A new measure is a function of a :class:`Scene` with the :func:`measure`
decorator; nothing else need change.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, View, anatomical
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.failure import Failed
from kneel.motion.scale import Scale
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Scene:
    """One swing, tracked and timed: all that a measure may look at.

    ``direction`` is +1 where the target (face-on, rear) or the ball line
    (down-the-line) lies at image right. ``centre_x`` is the picture's middle
    column in px, or None where the picture's size is not known. ``unsteady``
    (T,) px is the error of places since the camera moved, None where it did not.
    """

    view: View
    hand: Hand
    direction: int
    times_s: FloatArray
    tracks: Mapping[str, Track]
    checkpoints: Mapping[str, Checkpoint]
    scale: Scale
    px_per_m: float
    centre_x: float | None = None
    unsteady: FloatArray | None = None

    def track(self, name: str) -> Track | None:
        """The track of a point named by lead and trail."""
        return self.tracks.get(anatomical(name, self.hand))

    @property
    def address(self) -> int:
        """Index of the address frame."""
        return self.checkpoints["address"].shown


@dataclass(frozen=True)
class Series:
    """A measure over all frames: ``values`` and ``sigma`` are (T,), in ``unit``.

    ``shares`` holds the same lengths as shares of something telling, such as
    the width of the thigh, by name.
    """

    key: str
    unit: str
    values: FloatArray
    sigma: FloatArray
    times_s: FloatArray
    shares: Mapping[str, FloatArray] = field(default_factory=dict)

    def at(self, checkpoint: Checkpoint) -> tuple[float, float]:
        """Value and standard error at a checkpoint, its own error of time included."""
        frames = np.arange(len(self.values))
        value = float(np.interp(checkpoint.frame, frames, self.values))
        sigma = float(np.interp(checkpoint.frame, frames, self.sigma))
        slope = float(np.interp(checkpoint.frame, frames, np.gradient(self.values, self.times_s)))
        return value, float(np.hypot(sigma, slope * checkpoint.sigma_s))


@dataclass(frozen=True)
class Measure:
    """An entry of the registry. ``kind`` is ``length``, ``angle``, ``ratio`` or ``time``."""

    key: str
    title: str
    kind: str
    views: frozenset[View]
    needs: tuple[str, ...]
    positive: str
    compute: Callable[[Scene], Series]

    def __call__(self, scene: Scene) -> Series | Failed:
        """Compute the measure, or say why this swing does not show it."""
        if scene.view not in self.views:
            return Failed(f"{self.title} cannot be seen {scene.view.value}.")
        missing = [name for name in self.needs if scene.track(name) is None]
        if missing:
            words = " and ".join(name.replace("_", " ") for name in missing)
            return Failed(f"{self.title} needs the {words}, which nobody has marked.")
        return self.compute(scene)


REGISTRY: Final[dict[str, Measure]] = {}


def measure(
    key: str, *, title: str, kind: str, views: tuple[View, ...], needs: tuple[str, ...], positive: str
) -> Callable[[Callable[[Scene], Series]], Callable[[Scene], Series]]:
    """Register a measure under ``key``; ``positive`` says in words what + means."""

    def enter(compute: Callable[[Scene], Series]) -> Callable[[Scene], Series]:
        if key in REGISTRY:
            raise ValueError(f"measure {key} is registered twice")
        REGISTRY[key] = Measure(key, title, kind, frozenset(views), needs, positive, compute)
        return compute

    return enter
