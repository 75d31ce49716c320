"""One right-hander at three moments, for the examples of the measures: a sway of 5 cm at the top."""

from __future__ import annotations

import numpy as np

from kneel.motion.measures.geometry import FloatArray, Points

MOMENTS = ("address", "top", "impact")

_SPACE = {
    "ball": [(-3, 73, 2), (-3, 73, 2), (-3, 73, 2)],
    "clubhead": [(-3, 73, 2), (36, -26, 196), (-3, 73, 2)],
    "grip": [(3, 33, 77), (-37, -4, 160), (9, 32, 76)],
    "head": [(-3, 27, 153), (-5, 28, 151), (-5, 31, 150)],
    "lead_ankle": [(22, 0, 7), (22, 0, 7), (22, 0, 7)],
    "lead_elbow": [(19, 22, 107), (-23, 17, 135), (18, 24, 109)],
    "lead_heel": [(19, -6, 2), (19, -6, 2), (19, -6, 2)],
    "lead_hip": [(9, -7, 91), (1, 0, 88), (16, -10, 93)],
    "lead_knee": [(18, 5, 51), (9, 12, 48), (21, 0, 51)],
    "lead_shoulder": [(17, 19, 135), (-5, 36, 122), (16, 21, 138)],
    "lead_toe": [(30, 18, 2), (30, 18, 2), (30, 18, 2)],
    "lead_wrist": [(5, 32, 80), (-36, -1, 157), (10, 31, 80)],
    "seat": [(0, -17, 91), (-10, -20, 91), (14, -18, 93)],
    "tailbone": [(0, -16, 91), (2, -13, 89), (3, -13, 91)],
    "trail_ankle": [(-22, 0, 7), (-22, 0, 7), (-23, 0, 8)],
    "trail_elbow": [(-15, 23, 106), (-17, -22, 137), (-18, 24, 98)],
    "trail_heel": [(-20, -6, 2), (-20, -6, 1), (-22, -6, 3)],
    "trail_hip": [(-9, -7, 91), (-11, -13, 90), (1, 0, 90)],
    "trail_knee": [(-17, 6, 51), (-20, 2, 51), (-8, 8, 49)],
    "trail_shoulder": [(-21, 18, 134), (-5, 3, 142), (-20, 24, 126)],
    "trail_toe": [(-27, 19, 2), (-27, 19, 2), (-27, 19, 2)],
    "trail_wrist": [(1, 32, 80), (-35, -6, 157), (6, 31, 78)],
}
"""Toward the target, toward the ball line, up; cm from the middle of the stance."""


def across(moment: str) -> Points:
    """As face-on sees it.

    >>> across("top")["lead_hip"].tolist()
    [1.0, 88.0]
    """
    return {name: _at(name, moment)[[0, 2]] for name in _SPACE}


def along(moment: str) -> Points:
    """As down-the-line sees it.

    >>> along("top")["lead_hip"].tolist()
    [0.0, 88.0]
    """
    return {name: _at(name, moment)[[1, 2]] for name in _SPACE}


def _at(name: str, moment: str) -> FloatArray:
    return np.array(_SPACE[name][MOMENTS.index(moment)], dtype=np.float64)
