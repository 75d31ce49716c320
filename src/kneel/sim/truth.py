"""The truth beside a simulated clip: exact joints, checkpoints and measures."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, anatomical
from kneel.motion.signal import first_crossing
from kneel.sim.camera import Camera
from kneel.sim.golfer import Golfer
from kneel.sim.pose import pose
from kneel.sim.swing import SwingPlan

FloatArray = NDArray[np.float64]

FINE_RATE = 2000.0
"""Checkpoints are read off the motion sampled this often a second."""


@dataclass(frozen=True)
class Truth:
    """What is exactly so. ``pixels`` maps anatomical names to (T, 2); times in seconds."""

    times_s: FloatArray
    pixels: dict[str, FloatArray]
    checkpoints_s: dict[str, float]
    pelvis_shift_cm: FloatArray
    trail_hip_cross_cm: FloatArray

    def at(self, series: FloatArray, name: str) -> float:
        """A series at a checkpoint."""
        return float(np.interp(self.checkpoints_s[name], self.times_s, series))


def find_truth(golfer: Golfer, plan: SwingPlan, camera: Camera, times_s: FloatArray) -> Truth:
    """Truth at ``times_s`` (T,) as ``camera`` sees it; shifts are 3-D, not seen through the camera."""
    skeleton = pose(golfer, plan, times_s)
    checkpoints = true_checkpoints(golfer, plan)
    rest = pose(golfer, plan, np.array([checkpoints["address"]]))
    lead, trail = skeleton.joints["lead_hip"], skeleton.joints["trail_hip"]
    lead0, trail0 = rest.joints["lead_hip"], rest.joints["trail_hip"]
    pixels = {anatomical(name, golfer.hand): camera.project(xyz)[0] for name, xyz in skeleton.joints.items()}
    pixels["ball"] = np.tile(camera.project(skeleton.ball)[0], (len(times_s), 1))
    pixels["ball"][times_s > checkpoints["impact"]] = np.nan
    return Truth(
        times_s,
        pixels,
        checkpoints,
        (lead[:, 0] + trail[:, 0]) / 2 - (lead0[0, 0] + trail0[0, 0]) / 2,
        trail0[0, 0] - trail[:, 0],
    )


def true_checkpoints(golfer: Golfer, plan: SwingPlan) -> dict[str, float]:
    """Times (s) of the nine checkpoints by their definitions, from the moving body itself."""
    knots = dict(zip(CHECKPOINTS, plan.knots_s.tolist(), strict=True))
    fine = np.arange(knots["address"], knots["finish"], 1 / FINE_RATE)
    skeleton = pose(golfer, plan, fine)
    speed = np.linalg.norm(np.gradient(skeleton.joints["grip"], 1 / FINE_RATE, axis=0), axis=1)
    near_top = (fine > knots["top"] - 0.15) & (fine < knots["top"] + 0.1)
    top = float(fine[near_top][np.argmin(speed[near_top])])

    def crossing(values: FloatArray, start: float, end: float, *, rising: bool) -> float:
        part = (fine >= start) & (fine <= end)
        time = first_crossing(fine[part], values[part], rising=rising)
        if time is None:
            raise ValueError("the simulated swing lacks a checkpoint")
        return time

    def above(high: str, low: str) -> FloatArray:
        return skeleton.joints[high][:, 2] - skeleton.joints[low][:, 2]

    past_ball = skeleton.joints["clubhead"][:, 0] - skeleton.ball[0]
    shaft, lead = above("clubhead", "grip"), above("grip", "lead_shoulder")
    impact = crossing(past_ball, knots["delivery"], knots["follow"], rising=True)
    follow = crossing(above("grip", "trail_shoulder"), impact, knots["finish"], rising=True)
    return {
        "address": knots["address"],
        "takeaway": crossing(shaft, knots["address"], top, rising=True),
        "half_back": crossing(lead, knots["address"], top, rising=True),
        "top": top,
        "half_down": crossing(lead, top, impact, rising=False),
        "delivery": crossing(shaft, top, impact, rising=False),
        "impact": impact,
        "follow": follow,
        "finish": knots["finish"],
    }


def truth_json(truth: Truth, golfer: Golfer, plan: SwingPlan, camera: Camera, rate: float) -> dict[str, Any]:
    """The truth file: plain numbers, pixels to a thousandth."""
    return {
        "kneel_truth": 1,
        "golfer": {"stature_cm": golfer.stature_cm, "hand": golfer.hand.value, "club": golfer.club.value},
        "faults": dict(plan.faults),
        "camera": {
            "view": camera.view.value,
            "width": camera.width,
            "height": camera.height,
            "distance_cm": camera.distance_cm,
            "yaw_deg": camera.yaw_deg,
            "roll_deg": camera.roll_deg,
            "focal_px": camera.focal,
            "mirrored": camera.mirrored,
        },
        "rate": rate,
        "times_s": np.round(truth.times_s, 6).tolist(),
        "checkpoints": {
            name: {"time_s": round(time, 6), "frame": round(time * rate, 3)}
            for name, time in truth.checkpoints_s.items()
        },
        "measures": {
            "pelvis_shift": _measure(truth, truth.pelvis_shift_cm),
            "trail_hip_cross": _measure(truth, truth.trail_hip_cross_cm),
        },
        "points": {
            name: [[None, None] if np.isnan(x) else [round(x, 3), round(y, 3)] for x, y in xy.tolist()]
            for name, xy in truth.pixels.items()
        },
    }


def _measure(truth: Truth, series: FloatArray) -> dict[str, Any]:
    return {
        "unit": "cm",
        "values": np.round(series, 4).tolist(),
        "at": {name: round(truth.at(series, name), 4) for name in truth.checkpoints_s},
    }
