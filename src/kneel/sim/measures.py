"""Every measure of the swing from the body itself: the truth that tracking is held against.

The definitions are written once for points in a plane: lateral and up as
face-on sees them, forward and up as down-the-line does. In space the planes
are the world's own; :mod:`kneel.sim.truth` hands in what a camera sees.
Written apart from ``kneel.motion`` on purpose: neither may lean on the other.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.sim.legs import SIDES
from kneel.sim.pose import Skeleton

FloatArray = NDArray[np.float64]
Points = Mapping[str, FloatArray]
Measured = dict[str, FloatArray]

CM: Final = [
    "pelvis_shift",
    "trail_hip_cross",
    "lead_hip_cross",
    "pelvis_lift",
    "head_shift",
    "head_lift",
    "lead_knee_to_ball",
    "lead_knee_to_heel",
    "lead_stack",
    "lead_stack_shoulder",
    "lead_stack_hip",
    "lead_stack_knee",
    "lead_heel_lift",
    "trail_heel_lift",
    "hands_ahead",
    "knee_separation",
    "pelvis_thrust",
    "seat_thrust",
    "trail_hip_depth",
    "lead_hip_depth",
    "lead_knee_forward",
    "trail_knee_forward",
    "hand_depth",
    "plumb_fit",
    "seat_behind_heel",
]
RATIOS: Final = ("knee_gap",)
SHARES: Final = ("mass_side",)

# Mass of each segment as a share of the body's and where it hangs between two joints
# (Winter, 4th ed. 2009, after Dempster; the trunk's middle between the centres).
SEGMENTS: Final = (
    ("elbow", "grip", 0.006 + 0.016, 0.55),
    ("shoulder", "elbow", 0.028, 0.436),
    ("heel", "toe", 0.0145, 0.50),
    ("knee", "ankle", 0.0465, 0.433),
    ("hip", "knee", 0.100, 0.433),
)
HEAD_MASS: Final = 0.081
TRUNK_MASS: Final = 0.497

ARMPIT: Final = 0.14
"""How far down the trunk from the shoulder joints the armpits lie (from memory)."""


def unit_of(key: str) -> str:
    """``cm``, ``ratio``, ``%`` or ``deg``."""
    if key in CM:
        return "cm"
    if key in RATIOS:
        return "ratio"
    return "%" if key in SHARES else "deg"


def face_on(points: Points, *, rest: int = 0) -> Measured:
    """Face-on measures. ``points`` (T, 2) cm, + toward the target and + up; address is frame ``rest``."""
    p, at = points, _Rest(points, rest)
    lower, upper = _middle(p, "hip"), _middle(p, "shoulder")
    shift = lower - lower[rest]
    out = {
        "pelvis_shift": shift[:, 0],
        "pelvis_lift": shift[:, 1],
        "trail_hip_cross": at["trail_hip"][0] - p["trail_hip"][:, 0],
        "lead_hip_cross": p["lead_hip"][:, 0] - at["lead_hip"][0],
        "pelvis_tilt": _tilt(p, "hip", rest),
        "shoulder_tilt": _tilt(p, "shoulder", rest),
        "side_tilt": _angle(lower[:, 0] - upper[:, 0], upper[:, 1] - lower[:, 1]),
        "head_shift": p["head"][:, 0] - at["head"][0],
        "head_lift": p["head"][:, 1] - at["head"][1],
        "knee_separation": _apart(p, "knee"),
        "knee_gap": _apart(p, "knee") / _apart(p, "ankle"),
        "lead_knee_to_ball": p["lead_knee"][:, 0] - at["ball"][0],
        "lead_knee_to_heel": p["lead_knee"][:, 0] - p["lead_heel"][:, 0],
        "hands_ahead": p["grip"][:, 0] - p["clubhead"][:, 0],
        "shaft_lean": _angle(p["grip"][:, 0] - p["clubhead"][:, 0], p["grip"][:, 1] - p["clubhead"][:, 1]),
        "mass_side": _mass_side(p),
    }
    stack = {name: p[f"lead_{name}"][:, 0] - p["lead_ankle"][:, 0] for name in ("shoulder", "hip", "knee")}
    every = np.stack(list(stack.values()))
    out["lead_stack"] = np.take_along_axis(every, np.abs(every).argmax(axis=0)[None], axis=0)[0]
    out |= {f"lead_stack_{name}": values for name, values in stack.items()}
    for side in SIDES:
        out[f"{side}_heel_lift"] = p[f"{side}_heel"][:, 1] - at[f"{side}_heel"][1]
        out[f"{side}_knee_flex"] = flex(p, side)
    return out


def down_the_line(points: Points, *, rest: int = 0) -> Measured:
    """Measures of the down-the-line plane. ``points`` (T, 2) cm, + toward the ball line and + up."""
    p, at = points, _Rest(points, rest)
    lower, upper = _middle(p, "hip"), _middle(p, "shoulder")
    bend = _angle(upper[:, 0] - lower[:, 0], upper[:, 1] - lower[:, 1])
    toes = _middle(p, "toe")[:, 0]
    out = {
        "pelvis_thrust": lower[:, 0] - lower[rest, 0],
        "seat_thrust": p["seat"][:, 0] - at["seat"][0],
        "forward_bend": bend,
        "posture_loss": bend[rest] - bend,
        "head_lift": p["head"][:, 1] - at["head"][1],
        "shaft_plane": _angle(p["grip"][:, 1] - p["clubhead"][:, 1], p["clubhead"][:, 0] - p["grip"][:, 0]),
        "hand_depth": p["grip"][:, 0] - toes,
        "plumb_fit": _plumb_fit(p, upper, toes),
        "seat_behind_heel": p["trail_heel"][:, 0] - p["seat"][:, 0],
        "shin_lean": _angle(
            p["trail_knee"][:, 0] - p["trail_ankle"][:, 0], p["trail_knee"][:, 1] - p["trail_ankle"][:, 1]
        ),
    }
    for side in SIDES:
        out[f"{side}_hip_depth"] = p[f"{side}_hip"][:, 0] - at[f"{side}_hip"][0]
        out[f"{side}_knee_forward"] = p[f"{side}_knee"][:, 0] - at[f"{side}_knee"][0]
        out[f"{side}_knee_flex"] = flex(p, side)
    return out


def in_space(skeleton: Skeleton, *, rest: int = 0) -> Measured:
    """All measures of the body itself, knees and turns in three dimensions; address is frame ``rest``."""
    joints = dict(skeleton.joints)
    count = len(skeleton.times_s)
    joints["ball"] = np.tile(skeleton.ball, (count, 1))
    out = down_the_line({name: xyz[:, [1, 2]] for name, xyz in joints.items()}, rest=rest)
    out |= face_on({name: xyz[:, [0, 2]] for name, xyz in joints.items()}, rest=rest)
    out |= {
        f"{part}_turn": _yaw(joints, joint) for part, joint in (("pelvis", "hip"), ("shoulder", "shoulder"))
    }
    for side in SIDES:
        out[f"{side}_knee_flex"] = flex(joints, side)
        foot = joints[f"{side}_toe"] - joints[f"{side}_heel"]
        outward = foot[:, 0] if side == "lead" else -foot[:, 0]
        out[f"{side}_foot_flare"] = _angle(outward, foot[:, 1])
        out[f"{side}_foot_spin"] = out[f"{side}_foot_flare"][rest] - out[f"{side}_foot_flare"]
    return out


def seen_turns(points: Points, true: Measured, *, rest: int = 0) -> Measured:
    """Turns from foreshortening, as face-on gives them: magnitude from the picture, sign from the truth."""
    out = {}
    for part, joint in (("pelvis", "hip"), ("shoulder", "shoulder")):
        apart = _apart(points, joint)
        size = np.degrees(np.arccos(np.clip(apart / apart[rest], -1, 1)))
        out[f"{part}_turn"] = np.sign(true[f"{part}_turn"]) * size
    return out


def timing(measured: Measured, times_s: FloatArray, at: Mapping[str, float]) -> dict[str, float]:
    """Measures of the whole swing: times in s, ``pelvis_lead_time`` in ms, ratios."""
    back, down = at["top"] - at["address"], at["impact"] - at["top"]
    shift = measured["pelvis_shift"]

    def value(key: str, name: str) -> float:
        return float(np.interp(at[name], times_s, measured[key]))

    going = (times_s >= at["half_back"] - 0.2) & (times_s <= at["delivery"])
    start = float(times_s[going][np.argmin(shift[going])])
    low = float(shift[going].min())
    coming = (times_s >= at["top"]) & (times_s <= at["follow"])
    travel = float(shift[coming].max()) - low
    turn = value("pelvis_turn", "top")
    return {
        "backswing_time": back,
        "downswing_time": down,
        "tempo": back / down,
        "pelvis_lead_time": 1000 * (at["top"] - start),
        "shift_share": (value("pelvis_shift", "delivery") - low) / travel if travel > 0.5 else float("nan"),
        "tilt_turn_ratio": value("pelvis_tilt", "top") / abs(turn) if abs(turn) > 1 else float("nan"),
    }


def flex(points: Points, side: str) -> FloatArray:
    """180° minus the angle hip–knee–ankle, in as many dimensions as the points have."""
    thigh = points[f"{side}_hip"] - points[f"{side}_knee"]
    shank = points[f"{side}_ankle"] - points[f"{side}_knee"]
    cosine = (thigh * shank).sum(axis=1) / np.linalg.norm(thigh, axis=1) / np.linalg.norm(shank, axis=1)
    return np.asarray(180 - np.degrees(np.arccos(np.clip(cosine, -1, 1))))


class _Rest:
    """Points as they are at address."""

    def __init__(self, points: Points, frame: int) -> None:
        self.points, self.frame = points, frame

    def __getitem__(self, name: str) -> FloatArray:
        return np.asarray(self.points[name][self.frame])


def _middle(p: Points, joint: str) -> FloatArray:
    return np.asarray((p[f"lead_{joint}"] + p[f"trail_{joint}"]) / 2)


def _apart(p: Points, joint: str) -> FloatArray:
    return np.asarray(np.linalg.norm(p[f"lead_{joint}"] - p[f"trail_{joint}"], axis=1))


def _angle(aside: FloatArray, along: FloatArray) -> FloatArray:
    return np.degrees(np.arctan2(aside, along))


def _tilt(p: Points, joint: str, rest: int) -> FloatArray:
    rise = p[f"trail_{joint}"][:, 1] - p[f"lead_{joint}"][:, 1]
    return np.degrees(np.arcsin(np.clip(rise / _apart(p, joint)[rest], -1, 1)))


def _yaw(joints: Points, joint: str) -> FloatArray:
    """Turn of a line across the body about the vertical; 0 square to the target line, + open."""
    line = joints[f"lead_{joint}"] - joints[f"trail_{joint}"]
    return np.degrees(np.unwrap(np.arctan2(-line[:, 1], line[:, 0])))


def _plumb_fit(p: Points, upper: FloatArray, toes: FloatArray) -> FloatArray:
    """How far armpit, knee and mid-foot lie off one vertical; + with the body toward the toes."""
    foot = (toes + _middle(p, "heel")[:, 0]) / 2
    armpit = upper + ARMPIT * (_middle(p, "hip") - upper)
    line = np.stack([armpit[:, 0], _middle(p, "knee")[:, 0], foot])
    way = np.where(line[0] + line[1] >= 2 * foot, 1.0, -1.0)
    return np.asarray(way * np.ptp(line, axis=0))


def _mass_side(p: Points) -> FloatArray:
    """Where the mass hangs between the ankles, % toward the lead one."""
    middle = centre_of_mass(p)[:, 0]
    lead, trail = p["lead_ankle"][:, 0], p["trail_ankle"][:, 0]
    return np.asarray(100 * (middle - trail) / (lead - trail))


def centre_of_mass(points: Points) -> FloatArray:
    """Centre of the body's mass without the club, (T, 2) or (T, 3), from published segment masses."""
    p = points
    total = HEAD_MASS * p["head"] + TRUNK_MASS * (_middle(p, "hip") + _middle(p, "shoulder")) / 2
    for side in SIDES:
        for near, far, mass, share in SEGMENTS:
            start = p[f"{side}_{near}"]
            end = p["grip"] if far == "grip" else p[f"{side}_{far}"]
            total = total + mass * (start + share * (end - start))
    return np.asarray(total)
