"""A leg lifted off the picture to its true length, and bent anew when its hip is put elsewhere.

Coordinates are those of measures, the scale's unit: x toward the target or ball line, y up; the third is
depth, toward the camera. A bone of length L that looks l long spans √(L² − l²) of it. Two-bone inverse
kinematics with the bending plane carried along by the least turn of the leg's axis (as in textbooks of
robotics; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import View

FloatArray = NDArray[np.float64]

PLANE_FRAMES_S = 0.1
"""Over this long a knee bends in one plane, so that a nearly straight leg has one too."""

SHALLOW = 0.02
"""A knee that stands this share of the leg off its line, or less, bends where most knees do."""


STRETCH = 0.02
"""A leg's length is told to 3 %; only where it is short by more than this does it not reach."""


@dataclass(frozen=True)
class Leg:
    """Hip, knee and ankle (T, 3), the bones' lengths (T,), and where the knee usually points (T, 3), of
    length 1 and square to the leg.
    """

    hip: FloatArray
    knee: FloatArray
    ankle: FloatArray
    thigh: FloatArray
    shank: FloatArray
    pole: FloatArray

    def at(self, frames: NDArray[np.int64] | slice) -> Leg:
        """Some of its frames."""
        return Leg(*(part[frames] for part in vars(self).values()))

    def bent(self, hip: FloatArray, swivel: FloatArray | float = 0.0) -> FloatArray:
        """The knee (T, 3) with the hip put elsewhere, (T, 3), and turned inward about the leg's line by
        ``swivel`` radians.

        What it bends more than it did, it bends where it usually points. A leg that cannot reach is straight.

        >>> leg = lifted(*np.array([[[0.0, 80.0]], [[3.0, 42.0]], [[0.0, 0.0]]]), 41.0, 43.0, View.FACE_ON)
        >>> leg.bent(leg.hip).round(6).tolist() == leg.knee.round(6).tolist()
        True
        """
        old, _, off_old = self._split(self.hip, self.knee)
        new = hip - self.ankle
        far = np.linalg.norm(new, axis=1)
        axis = new / far[:, None]
        along = (far**2 + self.shank**2 - self.thigh**2) / (2 * far)
        height = np.sqrt(np.maximum(self.shank**2 - along**2, 0.0))
        more = np.maximum(height - np.linalg.norm(off_old, axis=1), 0.0)
        way = _carried(off_old + more[:, None] * self.pole, old, axis)
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
        if np.any(swivel):
            turn = np.broadcast_to(np.asarray(swivel, dtype=np.float64), far.shape)[:, None]
            way = np.cos(turn) * way + np.sin(turn) * np.cross(axis, way)
        return np.asarray(self.ankle + np.minimum(along, far)[:, None] * axis + height[:, None] * way)

    def sinks(self, hip: FloatArray) -> FloatArray:
        """How far a hip (T, 3) must come down for the leg to reach it, (T,); infinite where that is no help.

        >>> leg = lifted(*np.array([[[0.0, 80.0]], [[3.0, 42.0]], [[0.0, 0.0]]]), 41.0, 43.0, View.FACE_ON)
        >>> [leg.sinks(leg.hip + [[0.0, dy, 0.0]]).round(1).item() for dy in (0.0, 10.0)]
        [0.0, 4.6]
        """
        aside = np.hypot(hip[:, 0] - self.ankle[:, 0], hip[:, 2] - self.ankle[:, 2])
        whole = (1 + STRETCH) * (self.thigh + self.shank)
        reach = np.sqrt(np.maximum(whole**2 - aside**2, 0.0))
        down = np.maximum(hip[:, 1] - self.ankle[:, 1] - reach, 0.0)
        return np.where(aside >= whole, np.inf, np.where(down < 1e-9, 0.0, down))

    def _split(self, hip: FloatArray, knee: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """The leg's axis (T, 3), how far along it the knee lies, and what lies off it."""
        axis = hip - self.ankle
        axis = axis / np.linalg.norm(axis, axis=1, keepdims=True)
        along = ((knee - self.ankle) * axis).sum(axis=1)
        return axis, along, knee - self.ankle - along[:, None] * axis


def lifted(
    hip: FloatArray,
    knee: FloatArray,
    ankle: FloatArray,
    thigh: float,
    shank: float,
    view: View,
    times_s: FloatArray | None = None,
) -> Leg:
    """A leg as a picture shows it, (T, 2) each, lifted to its length; a bone that looks longer is as long.

    Across the target line the knee points at the camera, or from it, which is the same: shank and thigh lean
    two ways. Along it both lean inward, since the feet stand wider than the hips.

    >>> leg = lifted(*np.array([[[0.0, 80.0]], [[3.0, 42.0]], [[0.0, 0.0]]]), 41.0, 43.0, View.FACE_ON)
    >>> leg.knee.round(1).tolist(), leg.hip.round(1).tolist()
    ([[3.0, 42.0, 8.7]], [[0.0, 80.0, -6.4]])
    """
    upper, lower = (np.linalg.norm(a - b, axis=1) for a, b in ((hip, knee), (knee, ankle)))
    thighs, shanks = np.maximum(upper, thigh), np.maximum(lower, shank)
    near = np.sqrt(np.maximum(shanks**2 - lower**2, 0.0))
    far = np.sqrt(np.maximum(thighs**2 - upper**2, 0.0))
    back = 1.0 if view is View.DOWN_THE_LINE else -1.0
    three = [
        np.column_stack([xy, depth])
        for xy, depth in ((hip, near + back * far), (knee, near), (ankle, np.zeros(len(near))))
    ]
    leg = Leg(three[0], three[1], three[2], thighs, shanks, np.zeros((len(near), 3)))
    return Leg(leg.hip, leg.knee, leg.ankle, thighs, shanks, _poles(leg, view, times_s))


def _poles(leg: Leg, view: View, times_s: FloatArray | None) -> FloatArray:
    """Where the knee points about each frame: as it stood off its line, the more the further."""
    axis, _, off = leg._split(leg.hip, leg.knee)
    size = SHALLOW * (leg.thigh + leg.shank)[:, None]
    usual = np.array([1.0, 0.0, 0.0] if view is View.DOWN_THE_LINE else [0.0, 0.0, 1.0])
    off = off * np.linalg.norm(off, axis=1, keepdims=True) / size + size * usual
    if times_s is not None and len(times_s) > 2:
        rate = (len(times_s) - 1) / max(float(times_s[-1] - times_s[0]), 1e-9)
        wide = 2 * round(PLANE_FRAMES_S * rate / 2) + 1
        padded = np.pad(off, ((wide // 2, wide // 2), (0, 0)), mode="edge")
        off = np.stack([np.convolve(column, np.ones(wide), "valid") for column in padded.T], axis=1)
    off = off - (off * axis).sum(axis=1, keepdims=True) * axis
    return np.asarray(off / np.linalg.norm(off, axis=1, keepdims=True))


def _carried(vector: FloatArray, old: FloatArray, new: FloatArray) -> FloatArray:
    """Vectors (T, 3) turned as the least turn takes one axis to another, (T, 3) of length 1 each."""
    cross, cosine = np.cross(old, new), (old * new).sum(axis=1, keepdims=True)
    twice = np.cross(cross, vector)
    turned = vector * cosine + twice + cross * (cross * vector).sum(axis=1, keepdims=True) / (1 + cosine)
    return np.asarray(turned)


__all__ = ["Leg", "lifted"]
