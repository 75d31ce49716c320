"""What face-on shows, and the view from behind."""

from __future__ import annotations

import numpy as np

from kneel.sim.legs import SIDES
from kneel.sim.measures.mass import mass_side
from kneel.sim.measures.points import FloatArray, Measured, Points, angle, apart, flex, middle


def face_on(points: Points, *, rest: int = 0) -> Measured:
    """Face-on measures. ``points`` (T, 2) cm, + toward the target and + up; address is frame ``rest``."""
    p = points
    at = {name: xyz[rest] for name, xyz in points.items()}
    lower, upper = middle(p, "hip"), middle(p, "shoulder")
    shift = lower - lower[rest]
    out = {
        "pelvis_shift": shift[:, 0],
        "pelvis_lift": shift[:, 1],
        "trail_hip_cross": at["trail_hip"][0] - p["trail_hip"][:, 0],
        "lead_hip_cross": p["lead_hip"][:, 0] - at["lead_hip"][0],
        "pelvis_tilt": _tilt(p, "hip", rest),
        "shoulder_tilt": _tilt(p, "shoulder", rest),
        "side_tilt": angle(lower[:, 0] - upper[:, 0], upper[:, 1] - lower[:, 1]),
        "head_shift": p["head"][:, 0] - at["head"][0],
        "head_lift": p["head"][:, 1] - at["head"][1],
        "knee_separation": apart(p, "knee"),
        "knee_gap": apart(p, "knee") / apart(p, "ankle"),
        "lead_knee_to_ball": p["lead_knee"][:, 0] - at["ball"][0],
        "lead_knee_to_heel": p["lead_knee"][:, 0] - p["lead_heel"][:, 0],
        "hands_ahead": p["grip"][:, 0] - p["clubhead"][:, 0],
        "shaft_lean": angle(p["grip"][:, 0] - p["clubhead"][:, 0], p["grip"][:, 1] - p["clubhead"][:, 1]),
        "mass_side": mass_side(p),
        "trunk_bend": _trunk_bend(p, lower, upper),
        "lead_knee_float": p["lead_knee"][:, 0] - p["lead_ankle"][:, 0],
        "trail_knee_drift": p["trail_knee"][:, 0] - at["trail_knee"][0],
        "knee_level": p["trail_knee"][:, 1] - p["lead_knee"][:, 1],
        "hands_to_ball": p["grip"][:, 0] - at["ball"][0],
        "chest_to_ball": upper[:, 0] - at["ball"][0],
        "pelvis_to_ball": lower[:, 0] - at["ball"][0],
        "head_to_ball": p["head"][:, 0] - at["ball"][0],
        "chest_lift": upper[:, 1] - upper[rest, 1],
        "tailbone_shift": p["tailbone"][:, 0] - at["tailbone"][0],
        "trail_hip_to_tailbone": at["tailbone"][0] - p["trail_hip"][:, 0],
    }
    for name in ("lead_shoulder", "grip", "lead_hip", "trail_hip"):
        out[f"{name}_lift"] = p[name][:, 1] - at[name][1]
    stance = middle(p, "ankle")[:, 0]
    for name, place in (("pelvis", lower), ("head", p["head"]), ("hands", p["grip"]), ("ball", p["ball"])):
        out[f"{name}_in_stance"] = place[:, 0] - stance
    stack = {name: p[f"lead_{name}"][:, 0] - p["lead_ankle"][:, 0] for name in ("shoulder", "hip", "knee")}
    every = np.stack(list(stack.values()))
    out["lead_stack"] = np.take_along_axis(every, np.abs(every).argmax(axis=0)[None], axis=0)[0]
    out |= {f"lead_stack_{name}": values for name, values in stack.items()}
    for side in SIDES:
        out[f"{side}_heel_lift"] = p[f"{side}_heel"][:, 1] - at[f"{side}_heel"][1]
        out[f"{side}_knee_flex"] = flex(p, side)
        out[f"{side}_leg_line"] = _leg_line(p, side)
    return out


def _tilt(p: Points, joint: str, rest: int) -> FloatArray:
    rise = p[f"trail_{joint}"][:, 1] - p[f"lead_{joint}"][:, 1]
    return np.degrees(np.arcsin(np.clip(rise / apart(p, joint)[rest], -1, 1)))


def _trunk_bend(p: Points, lower: FloatArray, upper: FloatArray) -> FloatArray:
    """The trunk against the normal of the hip line, + bent away from the target."""
    hips = p["lead_hip"] - p["trail_hip"]
    spine = upper - lower
    return angle(-(spine * hips).sum(axis=1), hips[:, 0] * spine[:, 1] - hips[:, 1] * spine[:, 0])


def _leg_line(p: Points, side: str) -> FloatArray:
    """How far the knee lies outside the line from hip to ankle, cm."""
    hip, knee, ankle = (p[f"{side}_{name}"] for name in ("hip", "knee", "ankle"))
    share = (knee[:, 1] - ankle[:, 1]) / (hip[:, 1] - ankle[:, 1])
    off = knee[:, 0] - (ankle[:, 0] + share * (hip[:, 0] - ankle[:, 0]))
    return np.asarray(off if side == "lead" else -off)
