"""What is known of bodies in general: proportions and how fast joints move.

Lengths are shares of stature from Drillis and Contini (1966), as printed in
Winter, *Biomechanics and Motor Control of Human Movement* (4th ed. 2009,
fig. 4.1).
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

ANKLE_HEIGHT: Final = 0.039
KNEE_HEIGHT: Final = 0.285
HIP_HEIGHT: Final = 0.530
SHOULDER_HEIGHT: Final = 0.818
THIGH: Final = HIP_HEIGHT - KNEE_HEIGHT
SHANK: Final = KNEE_HEIGHT - ANKLE_HEIGHT
LEG: Final = THIGH + SHANK
UPPER_ARM: Final = 0.186
FOREARM: Final = 0.146
HAND: Final = 0.108
FOOT: Final = 0.152

THIGH_WIDTH: Final = 0.10
"""Width of the thigh at mid height as a share of stature (from memory)."""

LEG_SHARE_SIGMA: Final = 0.03
"""Spread of leg length among people of one stature, relative (from memory)."""

NOMINAL_STATURE_CM: Final = 170.0
NOMINAL_STATURE_SIGMA: Final = 12.0
"""Stature of a golfer nobody measured: adults of both sexes (from memory)."""

# Square root of the spectral density of unforced acceleration (m/s^1.5) and
# usual top speed (m/s) of each joint in a full swing: a change of speed of
# restless * sqrt(0.1) within a tenth of a second is ordinary (common practice,
# no source).
_MOVES: Final[Mapping[str, tuple[float, float]]] = {
    "head": (1.5, 1.5),
    "shoulder": (4.0, 4.0),
    "elbow": (12.0, 8.0),
    "wrist": (30.0, 12.0),
    "grip": (30.0, 12.0),
    "hip": (2.0, 2.0),
    "knee": (3.0, 3.0),
    "ankle": (2.0, 2.0),
    "heel": (3.0, 3.0),
    "toe": (2.0, 2.0),
    "seat": (2.0, 2.0),
    "belt": (2.0, 2.0),
    "tailbone": (2.0, 2.0),
    "clubhead": (300.0, 50.0),
    "ball": (300.0, 80.0),
}


def moves(point: str) -> tuple[float, float]:
    """Restlessness (m/s^1.5) and usual top speed (m/s) of a named point.

    >>> moves("left_hip")
    (2.0, 2.0)
    """
    return _MOVES[point.rsplit("_", 1)[-1]]


def rough_px_per_m(xy: Mapping[str, FloatArray], *, height_px: float | None = None) -> float:
    """A rough picture scale from whatever can be seen, good to about 20 %.

    ``xy`` maps anatomical names to (T, 2) pixels with NaN gaps. Legs tell
    best; else the picture's height, taken as 2.2 m. It only sets how much the
    solver smooths and where thresholds lie, never a length the user reads.

    >>> chain = ("left_hip", "left_knee", "left_ankle")
    >>> legs = {name: np.array([[0.0, 220.0 * k]]) for k, name in enumerate(chain)}
    >>> round(rough_px_per_m(legs)), round(rough_px_per_m({}, height_px=1080.0))
    (527, 491)
    """
    for joints, share in ((("hip", "knee", "ankle"), LEG), (("shoulder", "hip"), 0.25)):
        spans = [_span(xy, side, joints) for side in ("left", "right")]
        known = [s for s in spans if np.isfinite(s) and s > 5]
        if known:
            return float(max(known) / (share * NOMINAL_STATURE_CM / 100))
    return (height_px or 720.0) / 2.2


def _span(xy: Mapping[str, FloatArray], side: str, joints: tuple[str, ...]) -> float:
    """Median length of a chain of joints where all of them are seen, px."""
    names = [f"{side}_{joint}" for joint in joints]
    if not all(name in xy and np.isfinite(xy[name]).any() for name in names):
        return float("nan")
    parts = [np.linalg.norm(xy[a] - xy[b], axis=1) for a, b in itertools.pairwise(names)]
    total = np.sum(parts, axis=0)
    if not np.isfinite(total).any():
        # Placed on different frames: medians still tell the size.
        centres = [np.nanmedian(xy[name], axis=0) for name in names]
        return float(sum(np.linalg.norm(a - b) for a, b in itertools.pairwise(centres)))
    return float(np.nanmedian(total))
