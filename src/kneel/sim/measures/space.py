"""All measures of the body itself, and turns as a picture shows them."""

from __future__ import annotations

import numpy as np

from kneel.sim.legs import SIDES
from kneel.sim.measures.face_on import face_on
from kneel.sim.measures.line import down_the_line
from kneel.sim.measures.points import FloatArray, Measured, Points, angle, apart, flex, hip_flex
from kneel.sim.pose import Skeleton


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
    out["separation"] = out["shoulder_turn"] - out["pelvis_turn"]
    shaft = joints["clubhead"] - joints["grip"]
    out["shaft_across"] = angle(shaft[:, 1], shaft[:, 0])
    for side in SIDES:
        out[f"{side}_knee_flex"] = flex(joints, side)
        out[f"{side}_hip_flex"] = hip_flex(joints, side)
        foot = joints[f"{side}_toe"] - joints[f"{side}_heel"]
        outward = foot[:, 0] if side == "lead" else -foot[:, 0]
        out[f"{side}_foot_flare"] = angle(outward, foot[:, 1])
        out[f"{side}_foot_spin"] = out[f"{side}_foot_flare"][rest] - out[f"{side}_foot_flare"]
    return out


def seen_turns(points: Points, true: Measured, *, rest: int = 0) -> Measured:
    """Turns from foreshortening, as face-on gives them: magnitude from the picture, sign from the truth."""
    out = {}
    for part, joint in (("pelvis", "hip"), ("shoulder", "shoulder")):
        gap = apart(points, joint)
        size = np.degrees(np.arccos(np.clip(gap / gap[rest], -1, 1)))
        out[f"{part}_turn"] = np.sign(true[f"{part}_turn"]) * size
    return out


def _yaw(joints: Points, joint: str) -> FloatArray:
    """Turn of a line across the body about the vertical; 0 square to the target line, + open."""
    line = joints[f"lead_{joint}"] - joints[f"trail_{joint}"]
    return np.degrees(np.unwrap(np.arctan2(-line[:, 1], line[:, 0])))
