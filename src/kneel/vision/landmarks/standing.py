"""Whether what the network shows is a body on its feet, and enough of it in the picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.networks import CROP_SIZE, Found

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

LEAST_PRESENCE = 0.5

LEANS, CROUCHES = 0.3, 0.25
"""A golfer's shoulders are never farther below the hips, nor ankles nearer below them, in trunk lengths."""

SHORT_TRUNK = 0.35
"""Nor is a trunk, bent or turned, seen shorter than this share of the legs: it is 0.53 to 0.80 of them in
drawn swings, and 0.19 to 0.26 where a body whose head is cut off was pressed into what its legs fill."""

FEWEST_LEG_JOINTS = 2
"""Knees and ankles that must be in the picture, or it is half a person."""


def plausible(found: Found) -> bool:
    """Whether landmarks make a body at all: the network's own word says little."""
    if found.presence < LEAST_PRESENCE:
        return False
    shares = found.xy / CROP_SIZE
    torso = np.linalg.norm((shares[11] + shares[12] - shares[23] - shares[24]) / 2)
    leg = np.mean([np.linalg.norm(shares[23 + s] - shares[27 + s]) for s in (0, 1)])
    return bool(0.06 < torso < 0.6 and 0.06 < leg < 0.8)


def stands(xy: FloatArray, inside: NDArray[np.bool_]) -> bool:
    """Whether landmarks (39, 2) in the picture's px are those of a body on its feet, enough of it ``inside``.

    The network makes a body of what it is shown: of a bicycle, of legs alone
    one upside down, of a face one whose legs hang below the picture, of legs
    below a trunk without a head one that is no taller than they are.
    """
    shoulders, hips, knees, ankles = (xy[k : k + 2, 1].mean() for k in (11, 23, 25, 27))
    trunk = float(np.linalg.norm((xy[11] + xy[12] - xy[23] - xy[24]) / 2))
    legs = np.linalg.norm(xy[23:27] - xy[25:29], axis=1).sum() / 2
    upright = shoulders < hips + LEANS * trunk and knees > hips and ankles > hips + CROUCHES * trunk
    whole = trunk > SHORT_TRUNK * legs
    return bool(
        upright and whole and inside[[23, 24]].all() and inside[[25, 26, 27, 28]].sum() >= FEWEST_LEG_JOINTS
    )


def inside_of(picture: Picture, xy: FloatArray) -> NDArray[np.bool_]:
    """Which of the landmarks (39, 2) lie in the picture, (39,)."""
    limit = np.array([picture.shape[1], picture.shape[0]])
    return np.asarray(((xy >= 0) & (xy < limit)).all(axis=1))
