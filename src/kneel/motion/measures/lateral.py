"""Sideways lengths of the pelvis, seen face-on or from the rear."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion import body
from kneel.motion.measures.camera import sideways_sigma
from kneel.motion.measures.registry import Scene, Series, measure
from kneel.motion.scale import Scale
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

FACE_ON_AND_REAR = (View.FACE_ON, View.REAR)


@measure(
    "pelvis_shift",
    title="Pelvis shift",
    kind="length",
    views=FACE_ON_AND_REAR,
    needs=("lead_hip", "trail_hip"),
    positive="toward the target",
)
def pelvis_shift(scene: Scene) -> Series:
    """Middle of the two hip joints, sideways from address, + toward the target."""
    return _sideways(scene, "pelvis_shift", ("lead_hip", "trail_hip"), scene.direction)


@measure(
    "trail_hip_cross",
    title="Trail hip past its plumb",
    kind="length",
    views=FACE_ON_AND_REAR,
    needs=("trail_hip",),
    positive="past it, away from the target",
)
def trail_hip_cross(scene: Scene) -> Series:
    """How far the trail hip is past the plumb of its own address place, + away from the target.

    The outer edge moves as the joint does, since the thigh keeps its width.
    ``shares["thigh"]`` tells it in widths of the thigh.
    """
    series = _sideways(scene, "trail_hip_cross", ("trail_hip",), -scene.direction)
    thigh = _thigh_px(scene)
    if thigh is None:
        return series
    shares = {"thigh": series.values / (thigh * scene.scale.per_px)}
    return Series(series.key, series.unit, series.values, series.sigma, series.times_s, shares)


def _sideways(scene: Scene, key: str, names: Sequence[str], sign: int) -> Series:
    """Mean of some points, sideways since address, with its whole error."""
    tracks = [track for name in names if (track := scene.track(name))]
    middle = np.mean([track.xy for track in tracks], axis=0)
    moved = sign * (middle[:, 0] - middle[scene.address, 0])
    rise = middle[scene.address, 1] - middle[:, 1]
    seen = _difference_variance(tracks, scene.address)
    off_axis = 0.0 if scene.centre_x is None else middle[scene.address, 0] - scene.centre_x
    camera = sideways_sigma(moved, rise=rise, off_axis=off_axis, px_per_m=scene.px_per_m)
    still = np.gradient(moved, scene.times_s)[scene.address] * scene.checkpoints["address"].sigma_s
    px = np.sqrt(seen + camera**2 + still**2)
    if scene.unsteady is not None:
        px = np.hypot(px, np.hypot(scene.unsteady, scene.unsteady[scene.address]))
    values, sigma = scaled(moved, px, scene.scale)
    return Series(key, scene.scale.unit, values, sigma, scene.times_s)


def scaled(px: FloatArray, sigma_px: FloatArray, scale: Scale) -> tuple[FloatArray, FloatArray]:
    """A length in px and its error turned into the scale's unit (GUM 5.1.2)."""
    values = px * scale.per_px
    return values, np.hypot(sigma_px * scale.per_px, values * scale.relative)


def _difference_variance(tracks: Sequence[Track], address: int) -> FloatArray:
    """Variance (px^2) of the mean of some tracks minus its own value at address, (T,)."""
    total = np.zeros(len(tracks[0].sigma))
    for track in tracks:
        total += track.sigma**2 + track.sigma[address] ** 2 - 2 * track.covariance_with(address)
    return np.maximum(total, 0.0) / len(tracks) ** 2


def _thigh_px(scene: Scene) -> float | None:
    """Width of the trail thigh at mid height, from the thigh's length at address."""
    hip, knee = scene.track("trail_hip"), scene.track("trail_knee")
    if hip is None or knee is None:
        return None
    length = float(np.linalg.norm(hip.xy[scene.address] - knee.xy[scene.address]))
    return length * body.THIGH_WIDTH / body.THIGH
