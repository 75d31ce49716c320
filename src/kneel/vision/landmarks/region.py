"""Where in the picture the network looks: a turned square round the body.

Geometry of the two-stage network as its own pipeline has it: the square is
centred on the middle of the hips, and its side reaches from there past a
point on a circle round the body.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

GROW = 1.25
"""How much larger the square is than the circle's own."""


@dataclass(frozen=True)
class Region:
    """A square: middle (x, y) and ``side`` px of the picture, turned by ``angle`` radians."""

    x: float
    y: float
    side: float
    angle: float

    @staticmethod
    def round_points(middle: FloatArray, on_circle: FloatArray) -> Region:
        """The square from the two aiming points (2,) of detector or landmarks, px."""
        dx, dy = on_circle - middle
        return Region(
            float(middle[0]),
            float(middle[1]),
            2 * GROW * float(np.hypot(dx, dy)),
            float(np.pi / 2 - np.arctan2(-dy, dx)),
        )

    def crop(self, picture: Picture, size: int, *, mirrored: bool = False) -> NDArray[np.float32]:
        """The square as a picture (size, size, 3), 0..1; beyond the picture its edge goes on."""
        forward = self._matrix(size)
        if mirrored:
            forward = np.array([[-1.0, 0, size], [0, 1, 0]]) @ np.vstack([forward, [0, 0, 1]])
        # Corners of pixels are meant, OpenCV counts their centres.
        forward[:, 2] += 0.5 * forward[:, :2].sum(axis=1) - 0.5
        crop = cv2.warpAffine(
            picture, forward, (size, size), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        return np.asarray(crop, np.float32) / np.float32(255)

    def to_picture(self, xy: FloatArray, size: int) -> FloatArray:
        """Points (..., 2) of a crop of ``size`` back in the picture's pixels; whole pixels are centres."""
        inverse = cv2.invertAffineTransform(self._matrix(size))
        return np.asarray(xy @ inverse[:, :2].T + inverse[:, 2] - 0.5)

    def to_crop(self, xy: FloatArray, size: int) -> FloatArray:
        """Points (..., 2) of the picture in a crop of ``size``, the crop's corner being 0."""
        forward = self._matrix(size)
        return np.asarray((xy + 0.5) @ forward[:, :2].T + forward[:, 2])

    def _matrix(self, size: int) -> FloatArray:
        """From the picture (corner convention) to the crop, (2, 3)."""
        scale = size / self.side
        cos, sin = scale * np.cos(self.angle), scale * np.sin(self.angle)
        middle = np.array([self.x + 0.5, self.y + 0.5])
        turn = np.array([[cos, sin], [-sin, cos]])
        return np.column_stack([turn, size / 2 - turn @ middle])
