"""How a camera moved while it filmed, as the picture of what stands still tells."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class CameraPath:
    """Where what stands still in the first frame is seen in every frame.

    ``maps`` (T, 2, 3) take a place of the first frame, px, to frame n; they
    turn, scale and shift. ``sigma`` (T,) is their error near the golfer, px.
    """

    maps: FloatArray
    sigma: FloatArray

    def __post_init__(self) -> None:
        if self.maps.shape[1:] != (2, 3) or self.sigma.shape != self.maps.shape[:1]:
            raise ValueError(
                f"a camera's path needs (T, 2, 3) and (T,), got {self.maps.shape}, {self.sigma.shape}"
            )

    @staticmethod
    def none(sigma: FloatArray) -> CameraPath:
        """A camera of which nothing tells how it moved, (T,) px unsure near the golfer."""
        return CameraPath(np.tile(np.eye(2, 3), (len(sigma), 1, 1)), sigma)

    @property
    def untold(self) -> bool:
        """Whether nothing tells how it moved: a path that is none, with an error."""
        return bool((self.maps == np.eye(2, 3)).all() and self.sigma.any())

    @property
    def by_feet(self) -> bool:
        """Whether nothing tells that it moved at all, and it may have done so as far as the golfer's feet go.

        Where it moved and could not be followed it is as unsure throughout.
        """
        return self.untold and bool(np.ptp(self.sigma) > 0)

    def steadied(self, xy: FloatArray) -> FloatArray:
        """Places (T, 2) seen in each frame as where they would be had the camera not moved."""
        return np.einsum("tij,tj->ti", np.linalg.inv(self.maps[:, :, :2]), xy - self.maps[:, :, 2])

    def seen(self, xy: FloatArray) -> FloatArray:
        """Places (T, 2) for a camera that did not move as where each frame shows them."""
        return np.einsum("tij,tj->ti", self.maps[:, :, :2], xy) + self.maps[:, :, 2]

    def carried(self, xy: FloatArray, start: int, end: int) -> FloatArray:
        """Where frame ``end`` shows what stands still at ``xy`` (2,) in frame ``start``."""
        first = np.linalg.solve(self.maps[start, :, :2], xy - self.maps[start, :, 2])
        return np.asarray(self.maps[end, :, :2] @ first + self.maps[end, :, 2])

    def moved(self, xy: FloatArray) -> FloatArray:
        """How far each frame shows a place of the first frame, (2,), from where the first does, (T, 2)."""
        return self.maps[:, :, :2] @ xy + self.maps[:, :, 2] - xy
