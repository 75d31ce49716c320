"""What down-the-line shows."""

from __future__ import annotations

from typing import Final

import numpy as np

from kneel.sim.legs import SIDES
from kneel.sim.measures.mass import mass_toe
from kneel.sim.measures.points import FloatArray, Measured, Points, angle, flex, hip_flex, middle

ARMPIT: Final = 0.14
"""How far down the trunk from the shoulder joints the armpits lie (from memory)."""


def down_the_line(points: Points, *, rest: int = 0) -> Measured:
    """Measures of the down-the-line plane. ``points`` (T, 2) cm, + toward the ball line and + up."""
    p = points
    at = {name: xyz[rest] for name, xyz in points.items()}
    lower, upper = middle(p, "hip"), middle(p, "shoulder")
    bend = angle(upper[:, 0] - lower[:, 0], upper[:, 1] - lower[:, 1])
    toes = middle(p, "toe")[:, 0]
    out = {
        "pelvis_thrust": lower[:, 0] - lower[rest, 0],
        "seat_thrust": p["seat"][:, 0] - at["seat"][0],
        "forward_bend": bend,
        "posture_loss": bend[rest] - bend,
        "head_lift": p["head"][:, 1] - at["head"][1],
        "shaft_plane": angle(p["grip"][:, 1] - p["clubhead"][:, 1], p["clubhead"][:, 0] - p["grip"][:, 0]),
        "hand_depth": p["grip"][:, 0] - toes,
        "plumb_fit": _plumb_fit(p, upper, toes),
        "seat_behind_heel": p["trail_heel"][:, 0] - p["seat"][:, 0],
        "shin_lean": angle(
            p["trail_knee"][:, 0] - p["trail_ankle"][:, 0], p["trail_knee"][:, 1] - p["trail_ankle"][:, 1]
        ),
    }
    plane = at["grip"] - at["clubhead"]
    above = np.array([-plane[1], plane[0]]) / np.linalg.norm(plane)
    if above[1] < 0:
        above = -above
    for key, name in (("hands_to_plane", "grip"), ("club_to_plane", "clubhead")):
        out[key] = (p[name] - at["clubhead"]) @ above
    knees = middle(p, "knee")[:, 0]
    out["knees_forward"] = knees - knees[rest]
    out["mass_toe"] = mass_toe(p)
    arm, line = p["grip"] - p["lead_shoulder"], p["trail_shoulder"] - p["lead_shoulder"]
    out["lead_arm_rise"] = angle(arm[:, 1], -arm[:, 0]) - angle(line[:, 1], -line[:, 0])
    for side in SIDES:
        out[f"{side}_hip_flex"] = hip_flex(p, side)
        out[f"{side}_hip_depth"] = p[f"{side}_hip"][:, 0] - at[f"{side}_hip"][0]
        out[f"{side}_knee_forward"] = p[f"{side}_knee"][:, 0] - at[f"{side}_knee"][0]
        out[f"{side}_knee_flex"] = flex(p, side)
    return out


def _plumb_fit(p: Points, upper: FloatArray, toes: FloatArray) -> FloatArray:
    """How far armpit, knee and mid-foot lie off one vertical; + with the body toward the toes."""
    foot = (toes + middle(p, "heel")[:, 0]) / 2
    armpit = upper + ARMPIT * (middle(p, "hip") - upper)
    line = np.stack([armpit[:, 0], middle(p, "knee")[:, 0], foot])
    way = np.where(line[0] + line[1] >= 2 * foot, 1.0, -1.0)
    return np.asarray(way * np.ptp(line, axis=0))
