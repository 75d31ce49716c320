"""What measures are made of. Places are (..., 2), x toward the target or ball line, y up; answers (...)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
Points = Mapping[str, FloatArray]

TURN_SIGMA: Final = 3.0
"""A line of joints is no axis of the body: what a turn's definition leaves open, degrees (from memory)."""

SIDES: Final = ("lead", "trail")


def both(joint: str) -> tuple[str, str]:
    """The names of a pair.

    >>> both("hip")
    ('lead_hip', 'trail_hip')
    """
    return f"lead_{joint}", f"trail_{joint}"


def middle(p: Points, joint: str) -> FloatArray:
    """Between the lead and the trail one of a pair.

    >>> middle({"lead_hip": np.array([4.0, 90.0]), "trail_hip": np.array([-2.0, 92.0])}, "hip")
    array([ 1., 91.])
    """
    return np.asarray((p[f"lead_{joint}"] + p[f"trail_{joint}"]) / 2)


def x(place: FloatArray) -> FloatArray:
    """How far it lies toward the target, or the ball line, (...).

    >>> x(np.array([4.0, 90.0])).item()
    4.0
    """
    return np.asarray(place[..., 0])


def y(place: FloatArray) -> FloatArray:
    """How high it lies, (...).

    >>> y(np.array([4.0, 90.0])).item()
    90.0
    """
    return np.asarray(place[..., 1])


def length(vector: FloatArray) -> FloatArray:
    """Lengths of vectors (..., 2), (...).

    >>> length(np.array([3.0, 4.0])).item()
    5.0
    """
    return np.hypot(vector[..., 0], vector[..., 1])


def degrees(aside: FloatArray, along: FloatArray) -> FloatArray:
    """Angle off a direction, from how far aside and how far along it.

    >>> float(degrees(np.array(1.0), np.array(1.0)))
    45.0
    """
    return np.degrees(np.arctan2(aside, along))


def turned_by(a: FloatArray, b: FloatArray) -> FloatArray:
    """Degrees from one vector to another, + counter-clockwise, -180 to 180.

    >>> float(turned_by(np.array([1.0, 0.0]), np.array([0.0, 2.0])))
    90.0
    """
    cross = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return np.degrees(np.arctan2(cross, (a * b).sum(axis=-1)))


def flex(hip: FloatArray, knee: FloatArray, ankle: FloatArray) -> FloatArray:
    """180° minus the angle hip–knee–ankle, + with the knee toward +x of the line from hip to ankle.

    >>> round(float(flex(np.array([0.0, 90.0]), np.array([5.0, 45.0]), np.array([0.0, 0.0]))), 2)
    12.68
    """
    return turned_by(ankle - knee, knee - hip)


def turn(gap: FloatArray, gap_then: FloatArray) -> FloatArray:
    """Degrees, 0 to 180, by which a line that is ``gap_then`` long has turned about the vertical.

    >>> round(float(turn(np.array([20.0, 0.0]), np.array([40.0, 0.0]))), 1)
    60.0
    """
    return np.degrees(np.arccos(np.clip(shown(gap, gap_then), -1.0, 1.0)))


def shown(gap: FloatArray, gap_then: FloatArray) -> FloatArray:
    """How much of a line that is ``gap_then`` long still lies across, as ``gap``: the cosine of its turn.

    Of its length what does not rise lies in the ground plane. Above 1 no turn explains it, only an error.

    >>> shown(np.array([50.0, 0.0]), np.array([40.0, 0.0])).item()
    1.25
    """
    flat = np.sqrt(np.maximum((gap_then**2).sum(axis=-1) - gap[..., 1] ** 2, 1e-12))
    return np.asarray(gap[..., 0] / flat)


def tilt(gap: FloatArray, gap_then: FloatArray) -> FloatArray:
    """Degrees by which a line rises, over its length at address, so that turn does not count.

    >>> round(float(tilt(np.array([20.0, 5.0]), np.array([30.0, 0.0]))), 1)
    9.6
    """
    return np.degrees(np.arcsin(np.clip(gap[..., 1] / np.maximum(length(gap_then), 1e-9), -1.0, 1.0)))


def worst(*values: FloatArray) -> FloatArray:
    """The one farthest from zero, with its sign.

    >>> worst(np.array([1.0, -2.0]), np.array([-3.0, 1.0]))
    array([-3., -2.])
    """
    every = np.stack(np.broadcast_arrays(*values))
    return np.take_along_axis(every, np.abs(every).argmax(axis=0)[None], axis=0)[0]
