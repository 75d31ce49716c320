"""What is told of a body in space, at each moment, with its error."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.motion.space.body import ADDRESS, Body

FloatArray = NDArray[np.float64]

Joints = Mapping[str, FloatArray]
"""By lead/trail name a place (3,) cm."""

SLIGHT_CM = 1e-3
DEFINED = {"deg": 1.0, "cm": 0.2}
"""What the definitions leave open: where in a joint its middle is (common practice, no source)."""


UNTOLD = {"deg": 45.0, "cm": 20.0}
"""What is no surer than this is not told."""


@dataclass(frozen=True)
class Quantity:
    """A number of the body: its key, what it is called, its unit, and of which joints now and at address."""

    key: str
    title: str
    unit: str
    needs: tuple[str, ...]
    positive: str
    compute: Callable[[Joints, Joints], float]


@dataclass(frozen=True)
class InSpace:
    """A number at a moment, with its standard error."""

    key: str
    unit: str
    value: float
    sigma: float


def _heading(joints: Joints, joint: str) -> float:
    """How far the line of a pair is open to the target, degrees: its lead end away from the ball."""
    line = joints[f"lead_{joint}"] - joints[f"trail_{joint}"]
    return float(np.degrees(np.arctan2(-line[2], line[0])))


def _middle(joints: Joints, joint: str) -> FloatArray:
    return (joints[f"lead_{joint}"] + joints[f"trail_{joint}"]) / 2


def _went(axis: int, joint: str = "hip") -> Callable[[Joints, Joints], float]:
    return lambda now, then: float((_middle(now, joint) - _middle(then, joint))[axis])


def _turn(joint: str) -> Callable[[Joints, Joints], float]:
    def turn(now: Joints, then: Joints) -> float:
        return (_heading(now, joint) - _heading(then, joint) + 180) % 360 - 180

    return turn


def _separation(now: Joints, then: Joints) -> float:
    return (_turn("shoulder")(now, then) - _turn("hip")(now, then) + 180) % 360 - 180


def _tilt(now: Joints, _: Joints) -> float:
    """The pelvis' line from level, + lead hip higher."""
    line = now["lead_hip"] - now["trail_hip"]
    return float(np.degrees(np.arctan2(line[1], np.hypot(line[0], line[2]))))


def _side_tilt(now: Joints, _: Joints) -> float:
    """The trunk's lean away from the target in the plane of the target line, as seen face-on."""
    trunk = _middle(now, "shoulder") - _middle(now, "hip")
    return float(np.degrees(np.arctan2(-trunk[0], trunk[1])))


def _flex(side: str) -> Callable[[Joints, Joints], float]:
    def flex(now: Joints, _: Joints) -> float:
        thigh = now[f"{side}_hip"] - now[f"{side}_knee"]
        shank = now[f"{side}_ankle"] - now[f"{side}_knee"]
        cosine = float(thigh @ shank / (np.linalg.norm(thigh) * np.linalg.norm(shank)))
        return 180 - float(np.degrees(np.arccos(np.clip(cosine, -1, 1))))

    return flex


def _knees_cross(now: Joints, _: Joints) -> float:
    """How much nearer to the ball the trail knee is than the lead knee."""
    return float(now["trail_knee"][2] - now["lead_knee"][2])


def _hip_way(now: Joints, then: Joints) -> float:
    """Which way the lead hip has gone since address, 0 toward the target, + away from the ball."""
    way = now["lead_hip"] - then["lead_hip"]
    return float(np.degrees(np.arctan2(-way[2], way[0])))


HIPS, SHOULDERS = ("lead_hip", "trail_hip"), ("lead_shoulder", "trail_shoulder")
LEAST_WAY_CM = 2.0
"""A hip that has gone less than this has no heading."""

QUANTITIES = {
    one.key: one
    for one in (
        Quantity("pelvis_turn_3d", "Pelvis turn in space", "deg", HIPS, "open to the target", _turn("hip")),
        Quantity(
            "chest_turn_3d", "Chest turn in space", "deg", SHOULDERS, "open to the target", _turn("shoulder")
        ),
        Quantity(
            "separation_3d",
            "Chest turn less pelvis turn in space",
            "deg",
            (*HIPS, *SHOULDERS),
            "chest more open",
            _separation,
        ),
        Quantity("pelvis_shift_3d", "Pelvis shift in space", "cm", HIPS, "toward the target", _went(0)),
        Quantity("pelvis_thrust_3d", "Pelvis thrust in space", "cm", HIPS, "toward the ball line", _went(2)),
        Quantity("pelvis_lift_3d", "Pelvis lift in space", "cm", HIPS, "up", _went(1)),
        Quantity("pelvis_tilt_3d", "Pelvis tilt in space", "deg", HIPS, "lead hip higher", _tilt),
        Quantity(
            "side_tilt_3d",
            "Side tilt in space",
            "deg",
            (*HIPS, *SHOULDERS),
            "leaning away from the target",
            _side_tilt,
        ),
        *(
            Quantity(
                f"{side}_knee_flex_3d",
                f"{side.capitalize()} knee flex in space",
                "deg",
                (f"{side}_hip", f"{side}_knee", f"{side}_ankle"),
                "more bent",
                _flex(side),
            )
            for side in ("lead", "trail")
        ),
        Quantity(
            "lead_hip_heading_3d",
            "Way of the lead hip in space",
            "deg",
            ("lead_hip",),
            "away from the ball",
            _hip_way,
        ),
        Quantity(
            "knees_cross_3d",
            "Trail knee nearer to the ball than the lead knee, in space",
            "cm",
            ("lead_knee", "trail_knee"),
            "trail knee nearer to the ball",
            _knees_cross,
        ),
    )
}


def told(
    body: Body, time_sigma_s: Mapping[str, float], keys: Collection[str] = tuple(QUANTITIES)
) -> dict[tuple[str, str], InSpace]:
    """Every quantity at some moments, by key and moment; ``time_sigma_s`` is how unsure each of those is.

    >>> import numpy as np
    >>> line = np.array([[[9.0, 90, 0], [-9, 90, 0]], [[4, 90, 8], [-14, 90, -8]]])
    >>> body = Body(("address", "top"), HIPS, line, np.eye(12), np.zeros((2, 2, 3)), 0.2)
    >>> round(told(body, {"top": 0.01})["pelvis_shift_3d", "top"].value, 1)
    -5.0
    """
    found = {}
    for key, one in QUANTITIES.items():
        if key not in keys or not {*one.needs} <= {*body.points}:
            continue
        for moment in (name for name in body.moments if name in time_sigma_s):
            told_one = _at(body, one, moment, time_sigma_s[moment])
            if told_one is not None and told_one.sigma < UNTOLD[one.unit]:
                found[key, moment] = told_one
    return found


def _at(body: Body, one: Quantity, moment: str, time_sigma_s: float) -> InSpace | None:
    now = body.moments.index(moment)
    if one.key == "lead_hip_heading_3d":
        way = body.at("lead_hip", moment) - body.at("lead_hip", ADDRESS)
        if float(np.hypot(way[0], way[2])) < LEAST_WAY_CM:
            return None
    base, slope = slope_of(body, one, moment)
    flat = slope.ravel()
    moved = np.flatnonzero(flat)
    variance = float(flat[moved] @ body.covariance[np.ix_(moved, moved)] @ flat[moved])
    # The moment itself is unsure, and by then the body has gone on.
    gone = float((slope[now] * body.pace[now]).sum()) * time_sigma_s if moment != ADDRESS else 0.0
    variance += gone**2 + DEFINED[one.unit] ** 2 * (moment != ADDRESS or "turn" not in one.key)
    return InSpace(one.key, one.unit, base, float(np.sqrt(max(variance, 0.0))))


def slope_of(body: Body, one: Quantity, moment: str) -> tuple[float, FloatArray]:
    """A quantity at a moment, and how it moves with each joint at each moment, (K, P, 3), its unit a cm.

    >>> import numpy as np
    >>> line = np.array([[[9.0, 90, 0], [-9, 90, 0]], [[4, 90, 8], [-14, 90, -8]]])
    >>> body = Body(("address", "top"), HIPS, line, np.eye(12), np.zeros((2, 2, 3)), 0.2)
    >>> shift, slope = slope_of(body, QUANTITIES["pelvis_shift_3d"], "top")
    >>> slope[1, :, 0].round(3).tolist()
    [0.5, 0.5]
    """
    now, then = body.moments.index(moment), body.moments.index(ADDRESS)
    at = {point: body.points.index(point) for point in one.needs}
    sides = {k: {point: body.xyz[k, p] for point, p in at.items()} for k in (now, then)}
    base = one.compute(sides[now], sides[then])
    slope = np.zeros(body.xyz.shape)
    for k, side in sides.items():
        for point, p in at.items():
            stands = side[point]
            for axis in range(3):
                side[point] = stands + SLIGHT_CM * np.eye(3)[axis]
                moved = one.compute(sides[now], sides[then])
                slope[k, p, axis] = ((moved - base + 180) % 360 - 180) / SLIGHT_CM
            side[point] = stands
    return base, slope
