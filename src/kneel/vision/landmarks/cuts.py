"""Where a film is cut: from one frame to the next everything is another picture."""

from __future__ import annotations

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

THUMB: Final = (18, 24)
"""Rows and columns of the small pictures compared."""

UNLIKE = 0.6
"""Share of a small picture's contrast that stays unexplained by the one before it: cuts of filmed cameras
leave 0.9 and more, a swing from which a third of a second is missing 0.4 at most."""

TIMES_USUAL, AROUND = 6.0, 4
"""A cut differs so many times more than what usually changes in so many frames before and after."""


GLITCH = 3
"""So many pictures in a row that are other ones, a flash or what a decoder lost, begin no shot."""


def thumb(picture: Picture) -> FloatArray:
    """A picture (H, W, 3) as a small grey one, :data:`THUMB`."""
    small = cv2.resize(picture, THUMB[::-1], interpolation=cv2.INTER_AREA)
    return np.asarray(small, dtype=np.float64).mean(axis=2)


def cuts(thumbs: FloatArray) -> list[int]:
    """The frames that begin another shot, of small pictures (N, rows, columns).

    Light that goes on or off changes level and contrast and is no cut: what
    counts is the part of a picture that the one before it, made brighter and
    harder as need be, does not explain. Nor is it one where what was shown
    before comes back at once.

    >>> wall = np.linspace(0, 200, 18 * 24).reshape(1, 18, 24)
    >>> other = wall.transpose(0, 2, 1).reshape(1, 18, 24)
    >>> cuts(np.concatenate([wall, 0.5 * wall, wall, wall, other, 0.7 * other, other, other]))
    [4]
    >>> cuts(np.concatenate([wall, wall, wall, 0 * wall + 250, other, wall, wall, wall]))
    []
    """
    if len(thumbs) < 2:
        return []
    flat = thumbs.reshape(len(thumbs), -1)
    flat = flat - flat.mean(axis=1, keepdims=True)
    size = np.maximum(np.linalg.norm(flat, axis=1), 1e-6)
    flat = flat / size[:, None]
    unlike = _unlike((flat[1:] * flat[:-1]).sum(axis=1))
    found = []
    for k, value in enumerate(unlike):
        near = np.concatenate([unlike[max(0, k - AROUND) : k], unlike[k + 1 : k + 1 + AROUND]])
        usual = float(np.median(near)) if near.size else 0.0
        if value > UNLIKE and value > TIMES_USUAL * usual:
            before, after = flat[max(0, k + 1 - GLITCH) : k + 1], flat[k + 1 : k + 1 + GLITCH]
            if _unlike(before @ after.T).min() > UNLIKE:
                found.append(k + 1)
    return found


def _unlike(alike: FloatArray) -> FloatArray:
    """The share of contrast that likeness (cosines) leaves unexplained."""
    return np.asarray(np.sqrt(np.maximum(1 - np.maximum(alike, 0.0) ** 2, 0.0)))
