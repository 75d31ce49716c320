"""The truth beside a simulated clip: exact joints, checkpoints and measures."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.model import View, anatomical
from kneel.sim import measures as m
from kneel.sim.camera import Camera
from kneel.sim.plate import Pressure, press
from kneel.sim.pose import FINE_RATE, Motion

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Truth:
    """What is exactly so; times in seconds, lengths in cm, angles in degrees.

    ``pixels`` and ``space`` map anatomical names to (T, 2) and (T, 3), pixels
    with NaN where a thing is gone. ``measures`` are the body's own, ``seen``
    the same definitions on the picture of this clip's camera, with the scale
    that holds in the ankles' plane and no correction, as if no hand moved it; ``swing`` those of the
    whole swing. ``cm_per_px`` is that scale.
    """

    times_s: FloatArray
    pixels: dict[str, FloatArray]
    space: dict[str, FloatArray]
    checkpoints_s: dict[str, float]
    measures: dict[str, FloatArray]
    seen: dict[str, FloatArray]
    swing: dict[str, float]
    pressure: Pressure
    cm_per_px: float

    def at(self, series: FloatArray | str, name: str) -> float:
        """A series, or a measure by its key, at a checkpoint."""
        values = self.measures[series] if isinstance(series, str) else series
        return float(np.interp(self.checkpoints_s[name], self.times_s, values))


def find_truth(motion: Motion, camera: Camera, times_s: FloatArray) -> Truth:
    """Truth at ``times_s`` (T,) of this motion as ``camera`` films it."""
    at = motion.checkpoints_s
    # Everything counts from address, which the clip need not show: it goes before the frames.
    every = np.concatenate([[at["address"]], times_s])
    skeleton, hand = motion.pose(every), motion.golfer.hand
    pixels = _film(motion, camera, every, skeleton.ball)
    stands = replace(camera, held=None)
    still = _film(motion, stands, every, skeleton.ball) if camera.held else pixels
    true = m.in_space(skeleton)
    flat, cm_per_px = _flattened(still, stands, skeleton.joints)
    seen = _seen(flat, camera.view, true)
    pixels["ball"][every > at["impact"]] = np.nan
    return Truth(
        times_s,
        {anatomical(name, hand): xy[1:] for name, xy in pixels.items()},
        {anatomical(name, hand): xyz[1:] for name, xyz in skeleton.joints.items()},
        at,
        {key: values[1:] for key, values in true.items()},
        {key: values[1:] for key, values in seen.items()},
        _timing(motion),
        press(motion, times_s),
        cm_per_px,
    )


def _timing(motion: Motion) -> dict[str, float]:
    """Measures of the whole swing, whatever part of it the clip shows."""
    fine = np.arange(motion.knots_s[0], motion.knots_s[-1], 1 / FINE_RATE)
    skeleton = motion.pose(fine)
    points = skeleton.joints | {"ball": np.tile(skeleton.ball, (len(fine), 1))}
    return m.timing(m.in_space(skeleton), points, fine, motion.checkpoints_s)


def _film(motion: Motion, camera: Camera, times_s: FloatArray, ball: FloatArray) -> dict[str, FloatArray]:
    lies = np.tile(ball, (len(times_s), 1))
    return _film_joints(motion, camera, times_s) | {"ball": camera.project_over(lies, times_s)}


def _film_joints(motion: Motion, camera: Camera, times_s: FloatArray) -> dict[str, FloatArray]:
    """Every joint by lead/trail name in pixels, each row of the picture at its own time."""
    if not camera.readout_s:
        joints = motion.pose(times_s).joints
        return {name: camera.project_over(xyz, times_s) for name, xyz in joints.items()}
    share = np.linspace(0, 1, 5)
    late = [motion.pose(times_s + camera.readout_s * s).joints for s in share]

    def path(name: str) -> Any:
        known = np.stack([joints[name] for joints in late])

        def place(times: FloatArray) -> FloatArray:
            s = (times - times_s) / camera.readout_s
            weights = [np.prod([(s - b) / (a - b) for b in share if b != a], axis=0)[:, None] for a in share]
            return np.asarray(sum(w * xyz for w, xyz in zip(weights, known, strict=True)))

        return place

    return {name: camera.film_point(path(name), times_s) for name in late[0]}


def _flattened(
    pixels: dict[str, FloatArray], camera: Camera, joints: dict[str, FloatArray]
) -> tuple[dict[str, FloatArray], float]:
    """Pixels as cm along the view's own axis and up, and the cm of a pixel in the ankles' plane."""
    ankles = (joints["lead_ankle"][0] + joints["trail_ankle"][0]) / 2
    along = np.array([0.0, 1.0, 0.0]) if camera.view is View.DOWN_THE_LINE else np.array([1.0, 0.0, 0.0])
    ends, depth = camera.project(np.stack([ankles, ankles + along]))
    sign = np.sign(ends[1, 0] - ends[0, 0])
    scale = float(depth[0] / camera.focal)
    return {name: (xy - ends[0]) * (sign * scale, -scale) for name, xy in pixels.items()}, scale


def _seen(flat: dict[str, FloatArray], view: View, true: m.Measured) -> m.Measured:
    if view is View.DOWN_THE_LINE:
        return m.down_the_line(flat)
    return m.face_on(flat) | m.seen_turns(flat, true)


def truth_json(truth: Truth, motion: Motion, camera: Camera, rate: float) -> dict[str, Any]:
    """The truth file: plain numbers, pixels to a thousandth, measures true and as this camera sees them."""
    golfer, plan = motion.golfer, motion.plan
    return {
        "kneel_truth": 2,
        "golfer": {
            "stature_cm": golfer.stature_cm,
            "hand": golfer.hand.value,
            "club": golfer.club.value,
            "mass_kg": round(golfer.mass_kg, 2),
        },
        "pattern": plan.pattern,
        "faults": dict(plan.faults),
        "camera": _camera_json(camera) | {"cm_per_px": round(truth.cm_per_px, 6)},
        "rate": rate,
        "times_s": np.round(truth.times_s, 6).tolist(),
        "checkpoints": {
            name: {"time_s": round(time, 6), "frame": round((time - truth.times_s[0]) * rate, 3)}
            for name, time in truth.checkpoints_s.items()
        },
        "measures": {key: _measure(truth, key) for key in sorted(truth.measures)},
        "swing": {
            key: {"unit": m.SWING_UNITS[key], "value": round(value, 5) if np.isfinite(value) else None}
            for key, value in truth.swing.items()
        },
        "points": {name: _listed(xy, 3) for name, xy in truth.pixels.items()},
        "points_cm": {name: _listed(xyz, 4) for name, xyz in truth.space.items()},
    }


def _camera_json(camera: Camera) -> dict[str, Any]:
    return {
        "view": camera.view.value,
        "width": camera.width,
        "height": camera.height,
        "distance_cm": camera.distance_cm,
        "height_cm": camera.camera_height_cm,
        "yaw_deg": camera.yaw_deg,
        "roll_deg": camera.roll_deg,
        "focal_px": camera.focal,
        "barrel": list(camera.barrel),
        "readout_s": camera.readout_s,
        "exposure_s": camera.exposure_s,
        "mirrored": camera.mirrored,
        "held": None if camera.held is None else asdict(camera.held),
    }


def _measure(truth: Truth, key: str) -> dict[str, Any]:
    """``values`` and ``at`` are true; ``seen`` and ``seen_at`` are this view's, null where it has none."""
    seen = truth.seen.get(key)
    return {
        "unit": m.unit_of(key),
        "values": np.round(truth.measures[key], 4).tolist(),
        "at": {name: round(truth.at(key, name), 4) for name in truth.checkpoints_s},
        "seen": None if seen is None else np.round(seen, 4).tolist(),
        "seen_at": None
        if seen is None
        else {name: round(truth.at(seen, name), 4) for name in truth.checkpoints_s},
    }


def _listed(places: FloatArray, digits: int) -> list[list[float | None]]:
    return [[None if np.isnan(v) else round(v, digits) for v in row] for row in places.tolist()]
