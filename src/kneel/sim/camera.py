"""A pinhole camera on the golfer, for either hand.

The golfer's axes (x to the target, y to the ball, z up) are those of the
real world for a left-handed golfer and its mirror image for a right-handed
one, so one sign of the picture's x axis serves both hands.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, View

FloatArray = NDArray[np.float64]

_PLACES = {
    View.FACE_ON: (0.0, 1.0),
    View.REAR: (0.0, -1.0),
    View.DOWN_THE_LINE: (-1.0, 0.0),
}


@dataclass(frozen=True)
class Camera:
    """Where the camera stands and how it sees; lengths in cm, angles in degrees.

    ``yaw_deg`` carries it round the golfer, + toward the target (face-on);
    ``roll_deg`` tips the picture clockwise. ``focal_px`` None frames the
    golfer to about four fifths of the picture's height. ``mirrored`` swaps
    left and right in the finished picture.
    """

    view: View = View.FACE_ON
    hand: Hand = Hand.RIGHT
    width: int = 1280
    height: int = 720
    distance_cm: float = 420.0
    camera_height_cm: float = 105.0
    yaw_deg: float = 0.0
    roll_deg: float = 0.0
    focal_px: float | None = None
    aim_cm: tuple[float, float, float] = (0.0, 25.0, 98.0)
    mirrored: bool = False

    @property
    def focal(self) -> float:
        return self.focal_px or 0.80 * self.height * self.distance_cm / 200.0

    def place(self) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        """Position (3,) and the axes right, down, forward, (3,) each, in the golfer's axes."""
        px, py = _PLACES[self.view]
        yaw = np.radians(self.yaw_deg)
        turn = -yaw if self.view is View.FACE_ON else yaw
        away = np.array([px * np.cos(turn) - py * np.sin(turn), px * np.sin(turn) + py * np.cos(turn), 0.0])
        aim = np.array(self.aim_cm)
        position = aim * (1, 1, 0) + self.distance_cm * away + (0, 0, self.camera_height_cm)
        forward = aim - position
        forward /= np.linalg.norm(forward)
        right = np.cross([0.0, 0.0, 1.0], forward)
        right /= np.linalg.norm(right)
        up = np.cross(forward, right)
        if self.hand is Hand.LEFT:
            right = -right
        roll = np.radians(self.roll_deg)
        rolled = np.cos(roll) * right + np.sin(roll) * up
        down = -(np.cos(roll) * up - np.sin(roll) * right)
        return position, -rolled if self.mirrored else rolled, down, forward

    def project(self, xyz: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Pixels (..., 2) and depth (...) in cm of points (..., 3); whole pixels are pixel centres."""
        position, right, down, forward = self.place()
        rel = xyz - position
        depth = rel @ forward
        scale = self.focal / depth
        middle = (self.width - 1) / 2, (self.height - 1) / 2
        x = middle[0] + (rel @ right) * scale
        y = middle[1] + (rel @ down) * scale
        return np.stack([x, y], axis=-1), depth

    def rays(self) -> tuple[FloatArray, FloatArray]:
        """Position (3,) and the direction (height, width, 3) through every pixel."""
        position, right, down, forward = self.place()
        x = (np.arange(self.width) - (self.width - 1) / 2) / self.focal
        y = (np.arange(self.height) - (self.height - 1) / 2) / self.focal
        return position, forward + x[None, :, None] * right + y[:, None, None] * down
