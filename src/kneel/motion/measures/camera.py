"""What an unknown camera adds to the error of a sideways length.

First order, after JCGM 100:2008 (GUM) 5.1.2: each unknown of the camera
times how strongly the measure answers to it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

YAW_SIGMA_RAD = np.radians(3.0)
"""How far off square a phone propped up by eye usually stands (common practice, no source)."""

ROLL_SIGMA_RAD = np.radians(1.0)
"""How far off level it usually is (common practice, no source)."""

DEPTH_SIGMA_M = 0.04
"""How far a pelvis usually moves toward or away from a face-on camera in a swing."""

DISTANCE_M = 4.0
"""The usual distance of the camera."""


def sideways_sigma(moved: FloatArray, *, rise: FloatArray, off_axis: float, px_per_m: float) -> FloatArray:
    """Standard error (px) of a sideways length from yaw, roll and perspective, (T,).

    ``moved`` (T,) is the sideways length in px since address, ``rise`` the
    vertical one, ``off_axis`` the distance from the picture's middle column
    in px, ``px_per_m`` px per metre. Depth moved since address grows with how
    much the pelvis has moved at all, up to :data:`DEPTH_SIGMA_M`.
    """
    travelled = np.minimum(np.hypot(moved, rise) / (0.05 * px_per_m), 1.0)
    depth = DEPTH_SIGMA_M * travelled
    yaw = YAW_SIGMA_RAD * depth * px_per_m
    roll = ROLL_SIGMA_RAD * rise
    perspective = (off_axis / DISTANCE_M) * depth
    return np.sqrt(yaw**2 + roll**2 + perspective**2)
