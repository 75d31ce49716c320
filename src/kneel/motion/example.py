"""One plain swing for the examples in docstrings: flat points of a made-up golfer, face-on, all pinned."""

from __future__ import annotations

from functools import cache

import numpy as np

from kneel.model import Hand, PointRows, Stature, View
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.signal import Path, even_path
from kneel.motion.study import Study

RATE, FRAMES = 60.0, 120
PINNED = {"address": 6.0, "half_back": 30.0, "top": 48.0, "half_down": 57.0, "impact": 63.0, "finish": 100.0}
PX_PER_CM, GROUND = 3.0, (640.0, 660.0)
STILL_CM = {
    "left_ankle": (22.0, 8.0),
    "right_ankle": (-22.0, 8.0),
    "left_knee": (19.0, 48.0),
    "right_knee": (-19.0, 48.0),
    "left_hip": (9.0, 90.0),
    "right_hip": (-9.0, 90.0),
    "left_shoulder": (18.0, 138.0),
    "right_shoulder": (-18.0, 136.0),
    "head": (0.0, 162.0),
}
SIGMA_PX = 1.5
HANDS_DEG = (0.0, 0.0, 65.0, 125.0, 60.0, -5.0, -130.0, -130.0)
"""How far the hands have swung at the first frame, the pinned ones and the last."""


@cache
def example(shift_cm: float = -6.0, hand: Hand = Hand.RIGHT) -> Study:
    """A swing whose pelvis goes so far toward the target until the top and comes back by impact.

    >>> round(example(-8.0).at("pelvis_shift", "top").value, 1)
    -8.1
    """
    frames = np.arange(FRAMES)
    knots = (0.0, *PINNED.values(), FRAMES - 1.0)
    way = np.interp(frames, knots, (0.0, 0.0, shift_cm / 2, shift_cm, shift_cm / 2, 0.0, 0.0, 0.0))
    swung = np.radians(np.interp(frames, knots, HANDS_DEG))
    places = {name: np.tile(at, (FRAMES, 1)).astype(float) for name, at in STILL_CM.items()}
    for side in ("left", "right"):
        places[f"{side}_hip"][:, 0] += way
        places[f"{side}_knee"][:, 0] += way / 2
    places["grip"] = np.stack([-62 * np.sin(swung), 138 - 62 * np.cos(swung)], axis=1)
    mirror = 1.0 if hand is Hand.RIGHT else -1.0
    other = {"left": "right", "right": "left"}
    points = {}
    for name, cm in places.items():
        side, _, joint = name.partition("_")
        known = name if hand is Hand.RIGHT or not joint else f"{other[side]}_{joint}"
        xy = np.array(GROUND) + PX_PER_CM * cm * (mirror, -1.0)
        points[known] = xy
    setup = Setup(View.FACE_ON, hand=hand, scale=Stature(175.0), pinned=PINNED, width_px=1280, height_px=720)
    sigma = {name: np.full(FRAMES, SIGMA_PX) for name in points}
    rows = PointRows(frames, frames / RATE, points, sigma)
    return analyse(rows.times_s, from_rows(rows), setup)


def example_hands(until: int = FRAMES) -> tuple[Path, Middle, float]:
    """The hands of that swing up to a frame, how well they are known, and pixels per metre.

    >>> hands, error, px_per_m = example_hands()
    >>> round(float(np.ptp(hands.plain[:, 1]) / px_per_m), 1), round(error.sigma(0.5), 1)
    (1.0, 1.5)
    """
    grip = example().tracks["grip"]
    return even_path(grip.times_s[:until], grip.xy[:until], smooth_s=0.016), Middle([grip]), 100 * PX_PER_CM
