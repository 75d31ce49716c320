"""Legs that the network took for each other, put right."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.vision.best_way import cheapest_way

FloatArray = NDArray[np.float64]

HIPS: Final = ((23, 24),)
LEGS: Final = ((25, 26), (27, 28), (29, 30), (31, 32))

SWAP_COSTS = 0.006
"""What it takes to believe that the network confused the legs in a frame, as a share of the body's height."""


def unswapped(xy: FloatArray, height: float) -> FloatArray:
    """Landmarks (N, 39, 2) with left and right legs exchanged where the network took one for the other.

    The cheapest way through all frames, where each frame may be as seen or
    exchanged and joints move as little as they can; most frames are taken to
    be right. ``height`` px is the body's.
    """
    out = xy.copy()
    seen = np.flatnonzero(np.isfinite(xy[:, 0, 0]))
    if seen.size == 0:
        return out
    for group in (HIPS, LEGS):
        a, b = (xy[seen][:, [pair[side] for pair in group]] for side in (0, 1))
        kept = _distance(a[1:], a[:-1]) + _distance(b[1:], b[:-1])
        crossed = _distance(a[1:], b[:-1]) + _distance(b[1:], a[:-1])
        price = np.zeros((len(seen), 2))
        price[:, 1] = len(group) * SWAP_COSTS * height
        moves = np.stack([np.stack([kept, crossed], axis=1), np.stack([crossed, kept], axis=1)], axis=1)
        where = seen[cheapest_way(price, [*moves[:1], *moves].__getitem__) == 1]
        for p, q in group:
            out[where, p], out[where, q] = xy[where, q], xy[where, p]
    return out


def _distance(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.asarray(np.linalg.norm(a - b, axis=2).sum(axis=1))
