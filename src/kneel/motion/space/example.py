"""One plain swing by two cameras for the examples in docstrings: the second clip began a tenth earlier."""

from __future__ import annotations

from functools import cache

import numpy as np

from kneel.model import PointRows, Stature, View
from kneel.motion.analysis import analyse
from kneel.motion.example import PINNED
from kneel.motion.measures.example import across, along
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.study import Study

RATE, FRAMES, LATE_S = 60.0, 120, 0.1
PX_PER_CM, GROUND = 3.0, (640.0, 660.0)
KNOTS = {"address": (0.0, 6.0), "top": (48.0,), "impact": (63.0, 119.0)}


@cache
def example_pair() -> tuple[Study, Study]:
    """A swing face-on and down the line, seen from far off; 0.1 s are to be added for the second's clock.

    >>> [study.setup.view.value for study in example_pair()]
    ['face-on', 'down-the-line']
    """
    frames = np.arange(FRAMES)
    made = []
    for view, shown, late in ((View.FACE_ON, across, 0.0), (View.DOWN_THE_LINE, along, LATE_S)):
        knots = [frame + late * RATE for of in KNOTS.values() for frame in of]
        names = [name for name, of in KNOTS.items() for _ in of]
        points = {}
        for point in shown("top"):
            side, _, joint = point.partition("_")
            known = {"lead": "left_", "trail": "right_"}.get(side, side if not joint else "") + joint
            if known.split("_")[-1] in ("elbow", "wrist", "heel", "toe") or known in ("seat", "tailbone"):
                continue
            places = np.array([shown(name)[point] for name in names])
            cm = np.stack([np.interp(frames, knots, axis) for axis in places.T], axis=1)
            points[known] = np.array(GROUND) + PX_PER_CM * cm * (1.0, -1.0)
        pinned = {name: frame + late * RATE for name, frame in PINNED.items()}
        setup = Setup(view, scale=Stature(175.0), pinned=pinned, width_px=1280, height_px=720)
        sigma = {name: np.full(FRAMES, 1.0) for name in points}
        rows = PointRows(frames, frames / RATE, points, sigma)
        made.append(analyse(rows.times_s, from_rows(rows), setup))
    return made[0], made[1]
