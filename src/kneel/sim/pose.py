"""From a plan to a skeleton: joints in cm over time, with limbs of constant length."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kneel.motion.signal import first_crossing
from kneel.sim import legs, upper
from kneel.sim.about import About
from kneel.sim.golfer import Golfer
from kneel.sim.swing import IMPACT, NINE, SwingPlan, smooth

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

TORSO_DEEP = 0.060
TORSO_WIDE = 0.094
"""Half axes of the pelvis' outline at the hips as shares of stature (from memory)."""

TORSO_BACK = 0.002
"""How far its middle lies behind the hip joints, so that the seat stands about a clubface behind the heel."""

FINE_RATE = 1000.0
"""Checkpoints are read off the motion sampled this often a second."""

# How the change that brings the club to the ball fades in before impact and out after it.
_REACHING = np.array([0, 0, 0, 0, 0.35, 0.7, 1.0, 0.6, 0.1])


@dataclass(frozen=True)
class Skeleton:
    """Joints by lead/trail name, each (T, 3) cm; frames of pelvis, chest and head for drawing.

    A frame is (T, 3, 3): rows lead side, front, up. ``ball`` (3,) is where it lies.
    """

    times_s: FloatArray
    joints: dict[str, FloatArray]
    pelvis: FloatArray
    chest: FloatArray
    head: FloatArray
    ball: FloatArray


class Motion:
    """One golfer's swing: its quantities as smooth curves, and the body they move.

    ``rows`` are the plan's quantities at the nine knots, faults included.
    """

    def __init__(self, golfer: Golfer, plan: SwingPlan, rows: Rows) -> None:
        self.golfer, self.plan = golfer, plan
        flexes = legs.flexes(golfer, rows)
        self.rows = rows | {f"{side}_knee": flexes[side] for side in legs.SIDES}
        self.knots_s = plan.knots_s
        self._grip_the_club()
        self._curves = smooth(self.knots_s, np.stack(list(self.rows.values()), axis=1))
        self.about = About(golfer, plan, plan.routine, self.rows) if plan.routine else None

    def _grip_the_club(self) -> None:
        """Angles of arms and club made absolute: to the ball at address and at impact."""
        rows = self.rows = {name: values.copy() for name, values in self.rows.items()}
        self.address = start = upper.at_address(self.golfer, self._trunk_at(0))
        rows["arms"][0], rows["shaft"][0] = start.arms, start.shaft
        rows["shaft"][IMPACT] += start.shaft
        rows["hang"] += start.hang
        rows["plane"] += start.plane
        arms, hang, plane = upper.at_impact(
            self.golfer, self._trunk_at(IMPACT), float(rows["shaft"][IMPACT]), start
        )
        for name, value in (("arms", arms), ("hang", hang), ("plane", plane)):
            rows[name] += (value - rows[name][IMPACT]) * (_REACHING if name != "arms" else _REACHING**2)

    def _trunk_at(self, knot: int) -> upper.Trunk:
        c = {name: values[knot : knot + 1] for name, values in self.rows.items()}
        lower, _ = legs.hang_pelvis(self.golfer, c, legs.feet(self.golfer, c))
        return upper.trunk(self.golfer, c, lower)

    def curves(self, times_s: FloatArray) -> Rows:
        """Every quantity at ``times_s`` (T,), held still before the first knot and after the last."""
        inside = np.clip(times_s, self.knots_s[0], self.knots_s[-1])
        together = np.ascontiguousarray(self._curves(inside).T)
        if self.about is not None:
            own, bent = self.about.bent(times_s)
            together[:, own] = bent.T
        values = dict(zip(self.rows, together, strict=True))
        values["shaft"] = values["shaft"] + self.plan.waggle_deg(times_s)
        return values

    def pose(self, times_s: FloatArray) -> Skeleton:
        """The body at ``times_s`` (T,)."""
        g, c = self.golfer, self.curves(times_s)
        joints = legs.feet(g, c)
        lower, pelvis = legs.hang_pelvis(g, c, joints)
        if self.about is not None:
            joints = self.about.stepped(joints, times_s)
            lower = legs.within_reach(g, lower, pelvis, joints)
        body = upper.trunk(g, c, lower)
        grip, clubhead = upper.club(g, body, c)
        for side in legs.SIDES:
            hip = lower + legs.SIGN[side] * g.half_hips * pelvis[:, 0]
            joints[f"{side}_knee"] = legs.knee(g, side, hip, joints, pelvis[:, 1], c[f"{side}_swivel"])
            joints[f"{side}_hip"] = hip
            joints[f"{side}_shoulder"] = body.shoulders[side]
            joints[f"{side}_elbow"], joints[f"{side}_wrist"] = upper.arm(g, body, side, grip)
        joints |= {"grip": grip, "clubhead": clubhead}
        joints["head"], head = upper.head(g, body, c["head_turn"])
        joints["belt"] = lower + 0.055 * g.stature_cm * body.chest[:, 2]
        joints["seat"] = _seat(g, lower, pelvis)
        joints["tailbone"] = lower - 0.9 * TORSO_DEEP * g.stature_cm * g.girth * pelvis[:, 1]
        chest = body.chest
        if self.about is not None:
            joints = {name: self.about.placed(xyz, times_s) for name, xyz in joints.items()}
            pelvis, chest, head = (self.about.turned(frame, times_s) for frame in (pelvis, chest, head))
        return Skeleton(times_s, joints, pelvis, chest, head, self.address.clubhead)

    @cached_property
    def checkpoints_s(self) -> dict[str, float]:
        """Times (s) of the checkpoints by their definitions, from the moving body itself."""
        knots = dict(zip(NINE, self.knots_s.tolist(), strict=True))
        fine = np.arange(knots["address"], knots["finish"], 1 / FINE_RATE)
        joint = self.pose(fine).joints

        def crossing(high: str, low: str, start: float, end: float, *, rising: bool) -> float:
            part = (fine >= start) & (fine <= end)
            time = first_crossing(fine[part], (joint[high] - joint[low])[part, 2], rising=rising)
            if time is None:
                raise ValueError("the simulated swing lacks a checkpoint")
            return time

        top = _slowest(fine, joint["grip"], knots["top"])
        past_ball = joint["clubhead"][:, 0] - self.address.clubhead[0]
        part = (fine >= knots["delivery"]) & (fine <= knots["follow"])
        impact = first_crossing(fine[part], past_ball[part], rising=True)
        if impact is None:
            raise ValueError("the simulated swing misses the ball")
        return {
            "address": knots["address"],
            "takeaway": crossing("clubhead", "grip", knots["address"], top, rising=True),
            "half_back": crossing("grip", "lead_shoulder", knots["address"], top, rising=True),
            "top": top,
            "half_down": crossing("grip", "lead_shoulder", top, impact, rising=False),
            "delivery": crossing("clubhead", "grip", top, impact, rising=False),
            "impact": impact,
            "through": crossing("clubhead", "grip", impact, knots["finish"], rising=True),
            "follow": crossing("grip", "trail_shoulder", impact, knots["finish"], rising=True),
            "finish": knots["finish"],
        }


def _slowest(times_s: FloatArray, grip: FloatArray, near_s: float) -> float:
    """When the hands are slowest near a time: they reverse."""
    part = (times_s > near_s - 0.15) & (times_s < near_s + 0.1)
    speed = np.linalg.norm(np.gradient(grip, times_s, axis=0), axis=1)[part] ** 2
    k = int(np.clip(np.argmin(speed), 1, len(speed) - 2))
    before, at, after = speed[k - 1 : k + 2]
    curve = before - 2 * at + after
    offset = 0.5 * (before - after) / curve if curve > 0 else 0.0
    return float(times_s[part][k] + offset * (times_s[1] - times_s[0]))


def _seat(golfer: Golfer, lower: FloatArray, pelvis: FloatArray) -> FloatArray:
    """Rearmost point of the pelvis' outline, an ellipse in the pelvis' level plane."""
    size = golfer.stature_cm * golfer.girth
    wide, deep = TORSO_WIDE * size * pelvis[:, 0], TORSO_DEEP * size * pelvis[:, 1]
    reach = np.hypot(wide[:, 1], deep[:, 1])[:, None]
    middle = lower - TORSO_BACK * golfer.stature_cm * pelvis[:, 1]
    return np.asarray(middle - (wide[:, 1:2] * wide + deep[:, 1:2] * deep) / reach)
