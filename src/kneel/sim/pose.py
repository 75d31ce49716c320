"""From quantities over time to a skeleton: joints in cm, with limbs of constant length."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan

FloatArray = NDArray[np.float64]

UP = np.array([0.0, 0.0, 1.0])
TARGET = np.array([1.0, 0.0, 0.0])
OUT = np.array([0.0, 1.0, 0.0])

SIT_BACK = 0.045
"""How far behind the ankles the hip joints hang at address, as a share of stature."""

LONGEST_LEG = 0.998
"""A leg never straightens past this share of its length, so no knee bends backward."""


@dataclass(frozen=True)
class Skeleton:
    """Joints by lead/trail name, each (T, 3) cm; frames of pelvis, chest and head for drawing.

    A frame is (T, 3, 3): rows lead side, front, up.
    """

    times_s: FloatArray
    joints: dict[str, FloatArray]
    pelvis: FloatArray
    chest: FloatArray
    head: FloatArray
    ball: FloatArray


def pose(golfer: Golfer, plan: SwingPlan, times_s: FloatArray) -> Skeleton:
    """Pose the golfer at ``times_s`` (T,)."""
    feet = _Feet(golfer)
    at_rest = plan.curves(plan.knots_s[:1])
    struck = plan.curves(plan.knots_s[6:7])
    ball = _Body(golfer, feet, at_rest).club(at_rest)[1][0]
    miss = ball - _Body(golfer, feet, struck).club(struck)[1][0]
    curves = plan.curves(times_s)
    body = _Body(golfer, feet, curves)
    near_strike = _bump(times_s, plan.knots_s[4], plan.knots_s[6], plan.knots_s[7])
    shift = near_strike[:, None] * miss
    return body.skeleton(times_s, curves, shift, ball)


def _bump(t: FloatArray, start: float, peak: float, end: float) -> FloatArray:
    """A smooth hump: 0 up to ``start``, 1 at ``peak``, 0 from ``end`` on."""
    rise = np.clip((t - start) / (peak - start), 0, 1)
    fall = np.clip((end - t) / (end - peak), 0, 1)
    both = np.minimum(rise, fall)
    return both**3 * (10 - 15 * both + 6 * both**2)


class _Feet:
    """Where the feet stand: toes planted, heels rolling about them."""

    def __init__(self, golfer: Golfer) -> None:
        self.golfer = golfer
        self.forward = {
            side: np.array([sign * np.sin(np.radians(flare)), np.cos(np.radians(flare)), 0.0])
            for side, sign, flare in (
                ("lead", 1, golfer.lead_flare_deg),
                ("trail", -1, golfer.trail_flare_deg),
            )
        }

    def joints(self, side: str, heel_lift_deg: FloatArray) -> dict[str, FloatArray]:
        """Ankle, heel and toe of one foot, each (T, 3)."""
        g, ahead = self.golfer, self.forward[side]
        sign = 1 if side == "lead" else -1
        ankle = np.array([sign * g.half_stance, 0.0, g.ankle_height])
        toe = np.array([ankle[0], ankle[1], 1.5]) + 0.74 * g.foot * ahead
        heel = np.array([ankle[0], ankle[1], 1.5]) - 0.24 * g.foot * ahead
        angle = np.radians(heel_lift_deg)[:, None]
        return {
            "ankle": _rolled(ankle, toe, ahead, angle),
            "heel": _rolled(heel, toe, ahead, angle),
            "toe": np.broadcast_to(toe, (len(heel_lift_deg), 3)).copy(),
        }


def _rolled(point: FloatArray, toe: FloatArray, ahead: FloatArray, angle: FloatArray) -> FloatArray:
    """A point of the foot turned about the toe, heel up."""
    back, rise = -(point - toe) @ ahead, (point - toe) @ UP
    along = -back * np.cos(angle) + rise * np.sin(angle)
    above = rise * np.cos(angle) + back * np.sin(angle)
    return toe + along * ahead + above * UP


class _Body:
    """Everything above the feet at some times."""

    def __init__(self, golfer: Golfer, feet: _Feet, c: dict[str, FloatArray]) -> None:
        self.golfer = golfer
        self.count = len(c["arms"])
        self.feet = {s: feet.joints(s, c[f"{s}_heel"]) for s in ("lead", "trail")}
        self.foot_forward = feet.forward
        self.pelvis = self._pelvis_frame(c)
        self.lower = self._lower_centre(c)
        self.hips = {
            "lead": self.lower + golfer.half_hips * self.pelvis[:, 0],
            "trail": self.lower - golfer.half_hips * self.pelvis[:, 0],
        }
        self.upper, self.chest = self._trunk(c)
        self.shoulders = {
            "lead": self.upper + golfer.half_shoulders * self.chest[:, 0],
            "trail": self.upper - golfer.half_shoulders * self.chest[:, 0],
        }

    def _pelvis_frame(self, c: dict[str, FloatArray]) -> FloatArray:
        turn, tilt = np.radians(c["pelvis_turn"]), np.radians(c["pelvis_tilt"])
        lead = np.stack([np.cos(tilt) * np.cos(turn), -np.cos(tilt) * np.sin(turn), -np.sin(tilt)], axis=1)
        front = np.stack([np.sin(turn), np.cos(turn), np.zeros_like(turn)], axis=1)
        return np.stack([lead, front, np.cross(lead, front)], axis=1)

    def _lower_centre(self, c: dict[str, FloatArray]) -> FloatArray:
        """Middle of the hips: as high as asked, but never farther than the legs reach."""
        g = self.golfer
        reach = LONGEST_LEG * (g.thigh + g.shank)
        rest = self._rest_height()
        flat = np.stack(
            [c["pelvis_shift"], c["pelvis_thrust"] - SIT_BACK * g.stature_cm, np.zeros(self.count)], axis=1
        )
        height = rest + c["pelvis_lift"]
        for side, sign in (("lead", 1), ("trail", -1)):
            offset = flat + sign * g.half_hips * self.pelvis[:, 0] - self.feet[side]["ankle"]
            aside = np.hypot(offset[:, 0], offset[:, 1])
            highest = np.sqrt(np.maximum(reach**2 - aside**2, 1.0)) - offset[:, 2]
            height = _soft_min(height, highest)
        return flat + height[:, None] * UP

    def _rest_height(self) -> float:
        """Height of the hips at address from the knee flex asked for."""
        g = self.golfer
        flex = np.radians(g.knee_flex_deg)
        length = np.sqrt(g.thigh**2 + g.shank**2 + 2 * g.thigh * g.shank * np.cos(flex))
        aside = np.hypot(g.half_stance - g.half_hips, SIT_BACK * g.stature_cm)
        return float(g.ankle_height + np.sqrt(length**2 - aside**2))

    def _trunk(self, c: dict[str, FloatArray]) -> tuple[FloatArray, FloatArray]:
        """Upper centre and the frame of the chest."""
        g = self.golfer
        lean = np.clip((c["upper_shift"] - self.lower[:, 0]) / g.trunk, -0.7, 0.7)
        bend = np.radians(g.forward_bend_deg + c["forward_bend"])
        rest = np.sqrt(1 - lean**2)
        spine = np.stack([lean, rest * np.sin(bend), rest * np.cos(bend)], axis=1)
        across = TARGET - lean[:, None] * spine
        across /= np.linalg.norm(across, axis=1, keepdims=True)
        front = np.cross(spine, across)
        turn = np.radians(c["shoulder_turn"])[:, None]
        lead = np.cos(turn) * across - np.sin(turn) * front
        ahead = np.cos(turn) * front + np.sin(turn) * across
        return self.lower + g.trunk * spine, np.stack([lead, ahead, spine], axis=1)

    def club(self, c: dict[str, FloatArray]) -> tuple[FloatArray, FloatArray]:
        """Hands and clubhead, (T, 3) each."""
        g = self.golfer
        hang = np.radians(14.0)
        down = np.array([0.0, np.sin(hang), -np.cos(hang)])
        arms = np.radians(c["arms"])[:, None]
        grip = self._reached(np.cos(arms) * down + np.sin(arms) * TARGET)
        level = np.radians(56.0)
        shaft_down = np.array([0.0, np.cos(level), -np.sin(level)])
        whole = arms + np.radians(c["wrists"])[:, None]
        return grip, grip + g.shaft * (np.cos(whole) * shaft_down + np.sin(whole) * TARGET)

    def _reached(self, way: FloatArray) -> FloatArray:
        """As far from the upper centre along ``way`` as both arms reach."""
        g = self.golfer
        reach = 0.985 * (g.upper_arm + g.forearm)
        far = []
        for shoulder in self.shoulders.values():
            offset = shoulder - self.upper
            along = (offset * way).sum(axis=1)
            across = (offset**2).sum(axis=1) - along**2
            far.append(along + np.sqrt(np.maximum(reach**2 - across, 1.0)))
        return self.upper + _soft_min(far[0], far[1])[:, None] * way

    def skeleton(
        self, times_s: FloatArray, c: dict[str, FloatArray], shift: FloatArray, ball: FloatArray
    ) -> Skeleton:
        g = self.golfer
        grip, head = self.club(c)
        grip, clubhead = grip + shift, head + shift
        joints = {"grip": grip, "clubhead": clubhead}
        for side in ("lead", "trail"):
            joints |= {f"{side}_{name}": xyz for name, xyz in self.feet[side].items()}
            joints[f"{side}_hip"] = self.hips[side]
            joints[f"{side}_shoulder"] = self.shoulders[side]
            joints[f"{side}_knee"] = self._knee(side)
            outward = (0.5 if side == "lead" else -0.5) * self.chest[:, 0]
            pole = outward - 0.6 * self.chest[:, 2] + 0.2 * self.chest[:, 1]
            joints[f"{side}_elbow"] = joint_between(self.shoulders[side], grip, g.upper_arm, g.forearm, pole)
            joints[f"{side}_wrist"] = grip + 0.12 * (joints[f"{side}_elbow"] - grip)
        turn = np.radians(c["head_turn"])[:, None]
        neck = 0.75 * self.chest[:, 2] + 0.25 * UP
        neck /= np.linalg.norm(neck, axis=1, keepdims=True)
        side_axis = np.cos(turn) * TARGET - np.sin(turn) * OUT
        front = np.cross(neck, side_axis)
        front /= np.linalg.norm(front, axis=1, keepdims=True)
        joints["head"] = self.upper + 0.118 * g.stature_cm * neck
        joints["belt"] = self.lower + 0.055 * g.stature_cm * self.chest[:, 2]
        frame = np.stack([np.cross(front, neck), front, neck], axis=1)
        return Skeleton(times_s, joints, self.pelvis, self.chest, frame, ball)

    def _knee(self, side: str) -> FloatArray:
        """Knee by inverse kinematics; it tracks the foot, and goes some way with the pelvis."""
        g = self.golfer
        ahead = self.foot_forward[side]
        with_pelvis = 0.75 * ahead + 0.35 * self.pelvis[:, 1]
        lifted = self.feet[side]["heel"][:, 2:] - self.feet[side]["heel"][0, 2]
        pole = with_pelvis + np.clip(lifted / 20.0, 0, 1) * (0.8 * TARGET + 0.3 * OUT)
        return joint_between(self.hips[side], self.feet[side]["ankle"], g.thigh, g.shank, pole)


def joint_between(root: FloatArray, end: FloatArray, near: float, far: float, pole: FloatArray) -> FloatArray:
    """The middle joint of a two-bone limb, bent toward ``pole``; all (T, 3), lengths in cm."""
    axis = end - root
    length = np.linalg.norm(axis, axis=1, keepdims=True)
    axis = axis / length
    along = (length**2 + near**2 - far**2) / (2 * length)
    height = np.sqrt(np.maximum(near**2 - along**2, 0.0))
    side = pole - (pole * axis).sum(axis=1, keepdims=True) * axis
    side = side / np.linalg.norm(side, axis=1, keepdims=True)
    return root + along * axis + height * side


def _soft_min(a: FloatArray, b: FloatArray, width: float = 1.0) -> FloatArray:
    """A smooth minimum that is never above the true one; rounds within ``width`` cm."""
    return 0.5 * (a + b - np.sqrt((a - b) ** 2 + width**2))
