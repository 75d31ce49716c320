"""The lower body: planted feet, knees by inverse kinematics, a pelvis that hangs where the legs put it.

The legs' flexes are what moves; height and tilt of the pelvis follow from
them. So a braced trail leg leaves the hips level, and no knee bends backward.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.sim.golfer import Golfer

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

UP = np.array([0.0, 0.0, 1.0])
TARGET = np.array([1.0, 0.0, 0.0])
OUT = np.array([0.0, 1.0, 0.0])
SIDES = ("lead", "trail")
SIGN = {"lead": 1.0, "trail": -1.0}

SIT_BACK = 0.037
"""How far behind the ankles the hip joints hang at address, as a share of stature."""

LEAST_FLEX_DEG = 2.0
"""A leg never straightens further, so no knee bends backward."""

SOLE_CM = 1.5
"""Height of heel and toe joints above the ground."""


def feet(golfer: Golfer, c: Rows) -> dict[str, FloatArray]:
    """Ankle, heel and toe of both feet, (T, 3) each: toes planted, heels rolling and swivelling."""
    joints = {}
    for side in SIDES:
        sign = SIGN[side]
        base = golfer.lead_flare_deg if side == "lead" else golfer.trail_flare_deg
        ahead = _heading(sign * np.radians(base + c[f"{side}_flare"]))
        ankle = np.array([sign * golfer.half_stance, 0.0, golfer.ankle_height])
        ground = ankle * (1, 1, 0) + SOLE_CM * UP
        toe = ground + 0.74 * golfer.foot * ahead
        # The heel goes outward, so the foot points more inward.
        turned = _heading(sign * np.radians(base + c[f"{side}_flare"] - c[f"{side}_spin"]))
        back = 0.74 * golfer.foot
        roll = np.radians(c[f"{side}_heel"])[:, None]
        joints[f"{side}_toe"] = toe
        joints[f"{side}_ankle"] = _rolled(toe, turned, roll, back, golfer.ankle_height - SOLE_CM)
        joints[f"{side}_heel"] = _rolled(toe, turned, roll, back + 0.24 * golfer.foot, 0.0)
    return joints


def _heading(angle: FloatArray) -> FloatArray:
    return np.stack([np.sin(angle), np.cos(angle), np.zeros_like(angle)], axis=1)


def _rolled(toe: FloatArray, ahead: FloatArray, roll: FloatArray, back: float, rise: float) -> FloatArray:
    """A point of the foot ``back`` behind the toe and ``rise`` above it, the heel rolled up."""
    along = -back * np.cos(roll) + rise * np.sin(roll)
    above = rise * np.cos(roll) + back * np.sin(roll)
    return toe + along * ahead + above * UP


def pelvis_frame(turn: FloatArray, tilt: FloatArray) -> FloatArray:
    """Rows lead side, front, up (T, 3, 3) from turn and tilt (T,) radians."""
    lead = np.stack([np.cos(tilt) * np.cos(turn), -np.cos(tilt) * np.sin(turn), -np.sin(tilt)], axis=1)
    front = np.stack([np.sin(turn), np.cos(turn), np.zeros_like(turn)], axis=1)
    return np.stack([lead, front, np.cross(lead, front)], axis=1)


def flat_place(golfer: Golfer, c: Rows) -> FloatArray:
    """Where the middle of the hips is over the ground, (T, 2)."""
    y = c["pelvis_thrust"] + c["stand"] - SIT_BACK * golfer.stature_cm
    return np.stack([c["pelvis_shift"] + c["setup_shift"], y], axis=1)


def leg_lengths(golfer: Golfer, flex_deg: FloatArray) -> FloatArray:
    """From hip to ankle at a flex of the knee."""
    thigh, shank = golfer.thigh, golfer.shank
    return np.sqrt(thigh**2 + shank**2 + 2 * thigh * shank * np.cos(np.radians(flex_deg)))


def flexes(golfer: Golfer, rows: Rows) -> dict[str, FloatArray]:
    """Flex of both knees, degrees, that carries the pelvis at the height and tilt the rows ask for."""
    g = golfer
    place = feet(g, rows)
    flat = flat_place(g, rows)
    frame = pelvis_frame(np.radians(rows["pelvis_turn"]), np.radians(rows["pelvis_tilt"]))
    height = rest_height(g, rows) + rows["pelvis_lift"]
    centre = np.column_stack([flat, height])
    found = {}
    for side in SIDES:
        hip = centre + SIGN[side] * g.half_hips * frame[:, 0]
        length = np.linalg.norm(hip - place[f"{side}_ankle"], axis=1)
        cosine = (length**2 - g.thigh**2 - g.shank**2) / (2 * g.thigh * g.shank)
        flex = np.degrees(np.arccos(np.clip(cosine, -1, 1))) + rows[f"{side}_flex"]
        found[side] = np.maximum(flex, LEAST_FLEX_DEG)
    return found


def rest_height(golfer: Golfer, rows: Rows) -> float:
    """Height of the hips at address from the knee flex asked for, cm."""
    g = golfer
    length = leg_lengths(g, g.knee_flex_deg + rows["knee_flex"][:1])[0]
    aside = np.hypot(g.half_stance - g.half_hips, rows["stand"][0] - SIT_BACK * g.stature_cm)
    return float(g.ankle_height + np.sqrt(length**2 - aside**2))


def hang_pelvis(golfer: Golfer, c: Rows, place: dict[str, FloatArray]) -> tuple[FloatArray, FloatArray]:
    """Middle of the hips (T, 3) and the pelvis' frame from the legs' flexes ``lead_knee``, ``trail_knee``.

    Newton on height and tilt, so that both hips are as far from their ankles
    as the legs are long.
    """
    g = golfer
    flat = flat_place(g, c)
    turn, hh = np.radians(c["pelvis_turn"]), g.half_hips
    height = np.full(len(turn), g.ankle_height + 0.97 * (g.thigh + g.shank))
    tilt = np.zeros(len(turn))
    lengths = {s: leg_lengths(g, np.maximum(c[f"{s}_knee"], LEAST_FLEX_DEG)) for s in SIDES}
    along, away = np.cos(turn), -np.sin(turn)
    (x, y), ankles = flat.T, {side: place[f"{side}_ankle"].T for side in SIDES}
    for _ in range(12):
        # Coordinate by coordinate: a dozen of rounds over some hundred frames, for every body that is drawn.
        level, sunk = np.cos(tilt), -np.sin(tilt)
        miss, by_height, by_tilt = [], [], []
        for side in SIDES:
            half, ankle = SIGN[side] * hh, ankles[side]
            arm_x = x + half * (level * along) - ankle[0]
            arm_y = y + half * (level * away) - ankle[1]
            arm_z = height + half * sunk - ankle[2]
            miss.append(arm_x**2 + arm_y**2 + arm_z**2 - lengths[side] ** 2)
            by_height.append(2 * arm_z)
            by_tilt.append(2 * half * (arm_x * (sunk * along) + arm_y * (sunk * away) - arm_z * level))
        determinant = by_height[0] * by_tilt[1] - by_height[1] * by_tilt[0]
        height -= (miss[0] * by_tilt[1] - miss[1] * by_tilt[0]) / determinant
        tilt -= (by_height[0] * miss[1] - by_height[1] * miss[0]) / determinant
        tilt = np.clip(tilt, -0.9, 0.9)
        if max(np.abs(m).max() for m in miss) < 1e-10:
            break
    return np.column_stack([flat, height]), pelvis_frame(turn, tilt)


def within_reach(
    golfer: Golfer, lower: FloatArray, pelvis: FloatArray, place: dict[str, FloatArray]
) -> FloatArray:
    """The middle of the hips (T, 3) sunk as far as both feet ask for, wherever they stand."""
    longest = leg_lengths(golfer, np.array([LEAST_FLEX_DEG]))[0]
    sinks = np.zeros(len(lower))
    for side in SIDES:
        hip = lower + SIGN[side] * golfer.half_hips * pelvis[:, 0]
        off = hip - place[f"{side}_ankle"]
        reach = np.sqrt(np.maximum(longest**2 - (off[:, :2] ** 2).sum(axis=1), 1.0))
        sinks = np.maximum(sinks, off[:, 2] - reach)
    return lower - sinks[:, None] * UP


def knee(
    golfer: Golfer,
    side: str,
    hip: FloatArray,
    place: dict[str, FloatArray],
    front: FloatArray,
    swivel_deg: FloatArray,
) -> FloatArray:
    """One knee (T, 3): over the foot, some way with the pelvis, swivelled inward by so much."""
    ankle, toe, heel = (place[f"{side}_{name}"] for name in ("ankle", "toe", "heel"))
    ahead = (toe - heel) * (1, 1, 0)
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    down = ankle - hip
    down /= np.linalg.norm(down, axis=1, keepdims=True)
    pole = 0.75 * ahead + 0.25 * front
    pole -= (pole * down).sum(axis=1, keepdims=True) * down
    pole /= np.linalg.norm(pole, axis=1, keepdims=True)
    inward = -SIGN[side] * np.cross(down, pole)
    angle = np.radians(swivel_deg)[:, None]
    return joint_between(
        hip, ankle, golfer.thigh, golfer.shank, np.cos(angle) * pole + np.sin(angle) * inward
    )


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
