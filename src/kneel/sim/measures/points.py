"""What measures are made of: middles, distances and angles of points in a plane or in space."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
Points = Mapping[str, FloatArray]
Measured = dict[str, FloatArray]


def middle(p: Points, joint: str) -> FloatArray:
    """Between the lead and the trail one of a pair, (T, 2) or (T, 3)."""
    return np.asarray((p[f"lead_{joint}"] + p[f"trail_{joint}"]) / 2)


def apart(p: Points, joint: str) -> FloatArray:
    """Distance of a pair, (T,)."""
    return np.asarray(np.linalg.norm(p[f"lead_{joint}"] - p[f"trail_{joint}"], axis=1))


def angle(aside: FloatArray, along: FloatArray) -> FloatArray:
    """Degrees off a direction, from how far aside and how far along it."""
    return np.degrees(np.arctan2(aside, along))


def between(a: FloatArray, b: FloatArray) -> FloatArray:
    """Degrees between two vectors (T, K), 0 to 180."""
    cosine = (a * b).sum(axis=1) / np.linalg.norm(a, axis=1) / np.linalg.norm(b, axis=1)
    return np.degrees(np.arccos(np.clip(cosine, -1, 1)))


def flex(points: Points, side: str) -> FloatArray:
    """180° minus the angle hip–knee–ankle, in as many dimensions as the points have."""
    knee = points[f"{side}_knee"]
    return np.asarray(180 - between(points[f"{side}_hip"] - knee, points[f"{side}_ankle"] - knee))


def hip_flex(points: Points, side: str) -> FloatArray:
    """180° minus the angle between thigh and trunk: 0 of a body that stands straight."""
    trunk = middle(points, "shoulder") - middle(points, "hip")
    return np.asarray(180 - between(points[f"{side}_knee"] - points[f"{side}_hip"], trunk))
