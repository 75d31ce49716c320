"""The upper body: trunk, shoulders, arms and club on their tilted planes, head."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq, least_squares

from kneel.sim.golfer import AT_THE_BALL, Golfer
from kneel.sim.legs import OUT, SIDES, SIGN, TARGET, UP, joint_between

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

HANG_DEG = 14.0
"""How far in front of the shoulders the hands hang at address."""

HEAD_RESTS_CM = 2.0
"""Height of the clubhead's middle when it stands on the ground."""

STEEPEST_LIE_DEG = 74.0
FULL_REACH = 0.985
"""Arms are never quite straight."""

NECK = 0.118
"""From the upper centre to the middle of the head, as a share of stature."""


@dataclass(frozen=True)
class Trunk:
    """Upper centre (T, 3), the chest's frame (rows lead side, front, up), both shoulders."""

    upper: FloatArray
    chest: FloatArray
    shoulders: dict[str, FloatArray]


@dataclass(frozen=True)
class Address:
    """How the club stands at the ball: angles in degrees, the clubhead (3,)."""

    arms: float
    shaft: float
    hang: float
    plane: float
    clubhead: FloatArray


def trunk(golfer: Golfer, c: Rows, lower: FloatArray) -> Trunk:
    """The trunk on its base: side tilt and forward bend are those of the two views."""
    aside, bend = np.radians(c["side_tilt"]), np.radians(golfer.forward_bend_deg + c["forward_bend"])
    spine = np.stack([-np.tan(aside), np.tan(bend), np.ones_like(bend)], axis=1)
    spine /= np.linalg.norm(spine, axis=1, keepdims=True)
    across = TARGET - spine[:, :1] * spine
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    front = np.cross(spine, across)
    turn, roll = np.radians(c["shoulder_turn"])[:, None], np.radians(c["shoulder_roll"])[:, None]
    lead = np.cos(turn) * across - np.sin(turn) * front
    ahead = np.cos(turn) * front + np.sin(turn) * across
    rolled = np.cos(roll) * lead - np.sin(roll) * spine
    up = np.cos(roll) * spine + np.sin(roll) * lead
    upper = lower + golfer.trunk * spine
    shoulders = {side: upper + SIGN[side] * golfer.half_shoulders * rolled for side in SIDES}
    return Trunk(upper, np.stack([rolled, ahead, up], axis=1), shoulders)


def at_address(golfer: Golfer, body: Trunk) -> Address:
    """The club put to the ground by a body at address (one frame)."""
    arms, shaft = AT_THE_BALL[golfer.club]

    def above(plane: float) -> float:
        return float(club(golfer, body, _angles(arms, shaft, HANG_DEG, plane))[1][0, 2]) - HEAD_RESTS_CM

    # A golfer too tall for the club holds it as upright as can be and hovers it.
    plane = brentq(above, 20.0, STEEPEST_LIE_DEG) if above(STEEPEST_LIE_DEG) < 0 else STEEPEST_LIE_DEG
    return Address(
        arms, shaft, HANG_DEG, plane, club(golfer, body, _angles(arms, shaft, HANG_DEG, plane))[1][0]
    )


def at_impact(golfer: Golfer, body: Trunk, shaft: float, start: Address) -> tuple[float, float, float]:
    """Arms, hang and plane (deg) that bring the clubhead to the ball from a body at impact (one frame).

    The lean of the shaft is given. Where arms cannot reach, the nearest.
    """

    def miss(x: FloatArray) -> FloatArray:
        return club(golfer, body, _angles(x[0], shaft, x[1], x[2]))[1][0] - start.clubhead

    bounds = ([-50.0, -25.0, 25.0], [60.0, 60.0, 85.0])
    found = least_squares(
        miss,
        [6.0, start.hang, start.plane],
        bounds=bounds,
        x_scale=(10, 10, 10),
        xtol=1e-12,
        ftol=1e-14,
        gtol=1e-12,
    )
    return float(found.x[0]), float(found.x[1]), float(found.x[2])


def _angles(arms: float, shaft: float, hang: float, plane: float) -> Rows:
    return {
        "arms": np.array([arms]),
        "shaft": np.array([shaft]),
        "hang": np.array([hang]),
        "plane": np.array([plane]),
    }


def club(golfer: Golfer, body: Trunk, c: Rows) -> tuple[FloatArray, FloatArray]:
    """Hands and clubhead, (T, 3) each."""
    hands = _on_plane(c["arms"], np.radians(c["hang"]) - np.pi / 2)
    grip = body.upper + _reach(golfer, body, hands)[:, None] * hands
    return grip, grip + golfer.shaft * _on_plane(c["shaft"], -np.radians(c["plane"]))


def _on_plane(angle_deg: FloatArray, lie: FloatArray) -> FloatArray:
    """Unit vectors round a plane through the target line; 0 is its lowest direction, ``lie`` radians up."""
    angle = np.radians(angle_deg)[:, None]
    lowest = np.stack([np.zeros_like(lie), np.cos(lie), np.sin(lie)], axis=1)
    return np.asarray(np.cos(angle) * lowest + np.sin(angle) * TARGET)


def _reach(golfer: Golfer, body: Trunk, way: FloatArray) -> FloatArray:
    """As far from the upper centre along ``way`` as both arms reach."""
    full = FULL_REACH * (golfer.upper_arm + golfer.forearm)
    far = []
    for shoulder in body.shoulders.values():
        offset = shoulder - body.upper
        along = (offset * way).sum(axis=1)
        across = (offset**2).sum(axis=1) - along**2
        far.append(along + np.sqrt(np.maximum(full**2 - across, 1.0)))
    return _soft_min(far[0], far[1])


def _soft_min(a: FloatArray, b: FloatArray, width: float = 1.0) -> FloatArray:
    """A smooth minimum that is never above the true one; rounds within ``width`` cm."""
    return np.asarray(0.5 * (a + b - np.sqrt((a - b) ** 2 + width**2)))


def arm(golfer: Golfer, body: Trunk, side: str, grip: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Elbow and wrist of one arm, (T, 3) each."""
    lead, front, up = body.chest[:, 0], body.chest[:, 1], body.chest[:, 2]
    pole = SIGN[side] * 0.5 * lead - 0.6 * up + 0.2 * front
    elbow = joint_between(body.shoulders[side], grip, golfer.upper_arm, golfer.forearm, pole)
    return elbow, grip + 0.12 * (elbow - grip)


def head(golfer: Golfer, body: Trunk, turn_deg: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Middle of the head (T, 3) and its frame (rows lead side, front, up)."""
    neck = 0.75 * body.chest[:, 2] + 0.25 * UP
    neck /= np.linalg.norm(neck, axis=1, keepdims=True)
    turn = np.radians(turn_deg)[:, None]
    front = np.cross(neck, np.cos(turn) * TARGET - np.sin(turn) * OUT)
    front /= np.linalg.norm(front, axis=1, keepdims=True)
    return body.upper + NECK * golfer.stature_cm * neck, np.stack(
        [np.cross(front, neck), front, neck], axis=1
    )
