"""Whether the camera stood in one place between two clips: their backgrounds, held against each other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.vision.keyframe import LEAST_CORNERS, MARGIN_M, WIDEST, Key, Picture, boxes_round, evened

FloatArray = NDArray[np.float64]

STOOD_PX = 0.4
"""Half of what lies round both golfers is nearer than this to where it was, at the smaller scale."""

CLOSE_PX, MOST_CLOSE = 1.0, 0.8
"""So many of what is found again is as near as this: people and flags may have moved, the ground has not."""

LEAST_FOUND = 0.5
"""So many of the corners of one picture are found again in the other."""

PARTS, LEAST_PARTS = 3, 5
"""Of three by three parts of the picture so many have something that stayed, else one wall tells all."""


def stood(first: Picture, second: Picture, joints: tuple[FloatArray, FloatArray], *, px_per_m: float) -> bool:
    """Whether two still pictures (H, W) were taken from one place; False where too little can be told.

    ``joints`` are those of the golfer in each, (P, 2) px; what is near them does not count.
    """
    if first.shape != second.shape:
        return False
    scale = min(1.0, WIDEST / first.shape[1])
    pictures = [evened(one, scale) for one in (first, second)]
    near = [boxes_round(one[:, None], MARGIN_M * px_per_m)[0] * scale for one in joints]
    key = Key(pictures[0], near[0][None], [])
    if key.bare():
        return False
    there, held = key.followed(pictures[1], key.corners.astype(np.float64))
    left, top, right, bottom = near[1]
    x, y = key.corners.T
    free = ~((left < x) & (x < right) & (top < y) & (y < bottom))
    if free.sum() < LEAST_CORNERS or held[free].mean() < LEAST_FOUND:
        return False
    kept = held & free
    moved = np.linalg.norm(there - key.corners, axis=1)[kept]
    height, width = pictures[0].shape
    close = key.corners[kept][moved < CLOSE_PX]
    parts = {(int(PARTS * r // height), int(PARTS * c // width)) for c, r in close}
    return (
        len(moved) >= LEAST_CORNERS
        and float(np.median(moved)) < STOOD_PX
        and float((moved < CLOSE_PX).mean()) >= MOST_CLOSE
        and len(parts) >= LEAST_PARTS
    )
