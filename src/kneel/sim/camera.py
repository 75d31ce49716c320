"""A pinhole camera on the golfer, for either hand.

The golfer's axes (x to the target, y to the ball, z up) are those of the
real world for a left-handed golfer and its mirror image for a right-handed
one, so one sign of the picture's x axis serves both hands.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, View
from kneel.sim.held import Held

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
    left and right in the finished picture. ``barrel`` are the lens' two radial
    distortion terms (Brown's model, as OpenCV counts them). ``readout_s`` is how
    much later the last row is exposed than the first; ``exposure_s`` how long
    each row is, about the frame's time. ``held`` is the hand that holds it, None where it stands;
    ``carried_cm`` and ``turned_deg`` (right, down) are what a hand does to it at a moment (``at``).
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
    barrel: tuple[float, float] = (0.0, 0.0)
    readout_s: float = 0.0
    exposure_s: float = 0.0
    held: Held | None = None
    carried_cm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turned_deg: tuple[float, float] = (0.0, 0.0)

    def at(self, time_s: float) -> Camera:
        """This camera as its hand holds it at a moment of the swing's clock; itself where it stands."""
        if self.held is None:
            return self
        right, down, roll = self.held.turned_deg(np.array(time_s)).tolist()
        return replace(
            self,
            held=None,
            carried_cm=tuple(self.held.carried_cm(np.array(time_s)).tolist()),
            turned_deg=(right, down),
            roll_deg=self.roll_deg + roll,
        )

    @property
    def moved(self) -> bool:
        """Whether a hand has moved it from where it was set up."""
        return any(self.carried_cm) or any(self.turned_deg)

    @property
    def focal(self) -> float:
        return self.focal_px or 0.80 * self.height * self.distance_cm / 200.0

    def place(self) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        """Position (3,) and the axes right, down, forward, (3,) each, in the golfer's axes."""
        return self._place

    @cached_property
    def _place(self) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        px, py = _PLACES[self.view]
        yaw = np.radians(self.yaw_deg)
        turn = -yaw if self.view is View.FACE_ON else yaw
        away = np.array([px * np.cos(turn) - py * np.sin(turn), px * np.sin(turn) + py * np.cos(turn), 0.0])
        aim = np.array(self.aim_cm)
        stand = aim * (1, 1, 0) + self.distance_cm * away + (0, 0, self.camera_height_cm)
        position = stand + self.carried_cm
        forward = aim - stand
        forward /= np.linalg.norm(forward)
        right = np.cross([0.0, 0.0, 1.0], forward)
        right /= np.linalg.norm(right)
        up = np.cross(forward, right)
        if self.hand is Hand.LEFT:
            right = -right
        if self.moved:
            aside, below = np.tan(np.radians(self.turned_deg))
            forward = forward + aside * right - below * up
            forward /= np.linalg.norm(forward)
            right = right - (right @ forward) * forward
            right /= np.linalg.norm(right)
            up = up - (up @ forward) * forward - (up @ right) * right
            up /= np.linalg.norm(up)
        roll = np.radians(self.roll_deg)
        rolled = np.cos(roll) * right + np.sin(roll) * up
        down = -(np.cos(roll) * up - np.sin(roll) * right)
        return position, -rolled if self.mirrored else rolled, down, forward

    def project(self, xyz: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Pixels (..., 2) and depth (...) in cm of points (..., 3); whole pixels are pixel centres."""
        position, right, down, forward = self.place()
        seen = (xyz - position) @ np.stack([right, down, forward], axis=1)
        depth = seen[..., 2]
        return np.stack(self.to_pixels(seen[..., 0] / depth, seen[..., 1] / depth), axis=-1), depth

    def project_over(self, xyz: FloatArray, times_s: FloatArray) -> FloatArray:
        """Pixels (T, 2) of a point (T, 3) at each of ``times_s`` (T,), wherever the hand is then."""
        if self.held is None:
            return self.project(xyz)[0]
        cameras = (self.at(time) for time in times_s.tolist())
        return np.stack([camera.project(place)[0] for camera, place in zip(cameras, xyz, strict=True)])

    def to_pixels(self, u: NDArray[Any], v: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
        """Pixels of rays given as right and down over forward, in the rays' own precision."""
        if any(self.barrel):
            stretch = self._stretch(u * u + v * v)
            u, v = u * stretch, v * stretch
        focal = u.dtype.type(self.focal)
        return (
            u * focal + u.dtype.type((self.width - 1) / 2),
            v * focal + v.dtype.type((self.height - 1) / 2),
        )

    def rays(self) -> tuple[FloatArray, FloatArray]:
        """Position (3,) and the direction (height, width, 3) through every pixel."""
        position, right, down, forward = self.place()
        x = (np.arange(self.width) - (self.width - 1) / 2)[None, :] / self.focal
        y = (np.arange(self.height) - (self.height - 1) / 2)[:, None] / self.focal
        far = np.hypot(x, y)
        straight = far.copy()
        if any(self.barrel):
            for _ in range(20):
                straight = far / self._stretch(straight**2)
        grow = np.divide(straight, far, out=np.ones_like(far), where=far > 0)
        return position, forward + (x * grow)[..., None] * right + (y * grow)[..., None] * down

    def _stretch(self, square: NDArray[Any]) -> NDArray[Any]:
        k1, k2 = self.barrel
        return np.asarray(1 + k1 * square + k2 * square**2)

    def film_point(self, path: Callable[[FloatArray], FloatArray], times_s: FloatArray) -> FloatArray:
        """Pixels (T, 2) of a moving point as a rolling shutter catches it in the frames at ``times_s`` (T,).

        ``path`` gives its place (T, 3) at any times (T,).
        """
        rows = np.full(len(times_s), 0.5 if self.readout_s else 0.0)
        for _ in range(6 if self.readout_s else 1):
            pixels = self.project_over(path(times_s + self.readout_s * rows), times_s)
            rows = np.clip(pixels[:, 1] / (self.height - 1), 0, 1)
        return pixels
