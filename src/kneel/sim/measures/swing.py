"""Measures of the whole swing: times, shares, where the arc is lowest."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.sim.measures.points import FloatArray, Measured, Points

Mask = NDArray[np.bool_]

SWING_UNITS: Final = {
    "backswing_time": "s",
    "downswing_time": "s",
    "tempo": "ratio",
    "pelvis_lead_time": "ms",
    "shift_share": "ratio",
    "turn_share": "ratio",
    "extension_share": "ratio",
    "tilt_turn_ratio": "ratio",
    "low_point": "cm",
    "head_lift_start": "ms",
    "chest_lift_start": "ms",
    "lead_heel_landing": "ms",
    "pelvis_peak_time": "ms",
    "chest_peak_time": "ms",
    "hand_direction": "deg",
    "lead_hip_heading": "deg",
}

LEAVES_CM, UP_CM = 1.5, 0.5
"""Head or chest has left its height beyond this; a heel is up beyond that."""

NONE = float("nan")


def timing(
    measured: Measured, points: Points, times_s: FloatArray, at: Mapping[str, float]
) -> dict[str, float]:
    """Measures of the whole swing, in :data:`SWING_UNITS`; NaN where there is none.

    ``measured`` and ``points`` (T, 3) cm are those of the body at ``times_s``
    (T,), finely sampled; ``at`` are the checkpoints in s. Times of lifts are
    in ms after the top, those of peaks and of the heel in ms before impact.
    """
    back, down = at["top"] - at["address"], at["impact"] - at["top"]
    shift, turns = measured["pelvis_shift"], measured["pelvis_turn"]

    def value(key: str, name: str) -> float:
        return float(np.interp(at[name], times_s, measured[key]))

    def part(start: str, end: str, early_s: float = 0.0) -> Mask:
        return np.asarray((times_s >= at[start] - early_s) & (times_s <= at[end]))

    going = part("half_back", "delivery", 0.2)
    start, low = float(times_s[going][np.argmin(shift[going])]), float(shift[going].min())
    travel = float(shift[part("top", "follow")].max()) - low
    turn, opened = value("pelvis_turn", "top"), value("pelvis_turn", "follow") - value("pelvis_turn", "top")
    coming = part("top", "impact")

    def way(joint: str, start: str, end: str) -> FloatArray:
        ends = [[np.interp(at[n], times_s, xyz) for xyz in points[joint].T] for n in (start, end)]
        return np.asarray(np.diff(ends, axis=0)[0])

    hands, hip = way("grip", "top", "half_down"), way("lead_hip", "top", "impact")
    return {
        "backswing_time": back,
        "downswing_time": down,
        "tempo": back / down,
        "pelvis_lead_time": 1000 * (at["top"] - start),
        "shift_share": (value("pelvis_shift", "delivery") - low) / travel if travel > 0.5 else NONE,
        "turn_share": (value("pelvis_turn", "follow") - value("pelvis_turn", "delivery")) / opened
        if opened > 1
        else NONE,
        "extension_share": _extension(measured["lead_knee_flex"], turns, part("top", "follow")),
        "tilt_turn_ratio": value("pelvis_tilt", "top") / abs(turn) if abs(turn) > 1 else NONE,
        "low_point": _low_point(points, part("delivery", "follow")),
        "head_lift_start": _first(times_s, at["top"], np.abs(measured["head_lift"]) > LEAVES_CM),
        "chest_lift_start": _first(times_s, at["top"], np.abs(measured["chest_lift"]) > LEAVES_CM),
        "lead_heel_landing": _landing(
            measured["lead_heel_lift"], times_s, at["impact"], part("address", "impact")
        ),
        "pelvis_peak_time": _peak(turns, times_s, at["impact"], coming),
        "chest_peak_time": _peak(measured["shoulder_turn"], times_s, at["impact"], coming),
        "hand_direction": float(np.degrees(np.arctan2(hands[1], -hands[2]))),
        "lead_hip_heading": float(np.degrees(np.arctan2(hip[1], hip[0]))),
    }


def _extension(flex: FloatArray, turn: FloatArray, coming: Mask) -> float:
    """Share of the lead leg's straightening that is done before the pelvis is square."""
    inside = flex[coming]
    square = int(np.argmax(turn[coming] >= 0))
    most = float(inside.max())
    whole = most - float(inside[int(inside.argmax()) :].min())
    return (most - float(inside[square])) / whole if whole > 1 and turn[coming][square] >= 0 else NONE


def _low_point(points: Points, near: Mask) -> float:
    """Where the club is lowest, + past the ball toward the target."""
    head = points["clubhead"][near]
    return float(head[np.argmin(head[:, 2]), 0] - points["ball"][0, 0])


def _first(times_s: FloatArray, top_s: float, left: Mask) -> float:
    return 1000 * (float(times_s[np.argmax(left)]) - top_s) if left.any() else NONE


def _landing(lift: FloatArray, times_s: FloatArray, impact_s: float, inside: Mask) -> float:
    up = np.flatnonzero(inside & (lift > UP_CM))
    return 1000 * (impact_s - float(times_s[up[-1]])) if up.size else NONE


def _peak(turn: FloatArray, times_s: FloatArray, impact_s: float, coming: Mask) -> float:
    speed = np.gradient(turn, times_s)[coming]
    return 1000 * (impact_s - float(times_s[coming][np.argmax(speed)]))
