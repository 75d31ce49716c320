"""What the network saw of one body through a clip, and of those beside it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.outline import ROWS

FloatArray = NDArray[np.float64]

OUTSIDE = -1.0
"""How visible a landmark is that lies outside the picture: the network only supposes it."""


@dataclass(frozen=True)
class Landmarks:
    """What the network saw of one body, by the frames looked at.

    ``frames`` (N,) are their numbers; ``xy`` (N, 39, 2) px, NaN where the body
    was not seen, ``visible`` (N, 39) 0..1, :data:`OUTSIDE` the picture's rim,
    ``edges`` (N, rows, 2) px the outline at the hips; ``notes`` are plain
    words on who was taken, and on what of the film is read; ``choice_open``
    is whether another may be meant. ``others`` (K, N, 3) are the squares round
    everybody else: middle and side, px.
    """

    frames: NDArray[np.int64]
    xy: FloatArray
    visible: FloatArray
    edges: FloatArray
    notes: tuple[str, ...] = ()
    choice_open: bool = False
    others: FloatArray = field(default_factory=lambda: np.zeros((0, 0, 3)))

    @property
    def seen(self) -> NDArray[np.bool_]:
        """In which of the frames looked at the body was seen, (N,)."""
        return np.isfinite(self.xy[:, 0, 0])

    @property
    def height_px(self) -> float:
        """The body's height: the longest it stretches from head to heels, usually; NaN where never seen."""
        if not self.seen.any():
            return float("nan")
        head, heels = self.xy[:, 7:9].mean(axis=1), self.xy[:, 29:31].mean(axis=1)
        return float(1.1 * np.nanpercentile(np.linalg.norm(heels - head, axis=1), 80))


def nothing_seen(frames: NDArray[np.int64], notes: tuple[str, ...] = ()) -> Landmarks:
    """Nobody, in any of these frames (N,), and what may be why."""
    count = len(frames)
    nan = np.full((count, 39, 2), np.nan)
    return Landmarks(frames, nan, np.zeros((count, 39)), np.full((count, len(ROWS), 2), np.nan), notes)
