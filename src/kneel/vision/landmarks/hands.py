"""Where the hands are together, when the network loses one of them.

Both hold one club, so they lie within a hand's breadth of each other. Where
the network has them far apart one is behind the head or an arm and guessed;
the other one moves on smoothly. The cheapest way through all frames by "both",
"left alone" or "right alone" tells which.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.vision.best_way import cheapest_way
from kneel.vision.landmarks.sides import USUAL_STEP_S

FloatArray = NDArray[np.float64]

LEFT: Final = (15, 17, 19, 21)
RIGHT: Final = (16, 18, 20, 22)

TOGETHER = 0.07
"""Hands on one grip are no farther apart, as a share of the body's height."""

ALONE_COSTS = 0.02
"""What it takes to leave one hand out for 1/60 s, as a share of the body's height."""


def grip_of(
    xy: FloatArray, height: float, step_s: float | FloatArray = USUAL_STEP_S
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """The grip (N, 2) px, and in which frames one hand alone tells it.

    ``xy`` (N, 39, 2) are the landmarks, NaN where none were seen; ``height`` px
    is the body's, ``step_s`` the time from one look to the next, of each (N,) where they
    differ.
    """
    place = np.full((len(xy), 2), np.nan)
    alone = np.zeros(len(xy), dtype=bool)
    seen = np.flatnonzero(np.isfinite(xy[:, LEFT[0], 0]))
    if seen.size == 0:
        return place, alone
    left, right = xy[seen][:, LEFT].mean(axis=1), xy[seen][:, RIGHT].mean(axis=1)
    ways = np.stack([(left + right) / 2, left, right], axis=1)
    apart = np.linalg.norm(left - right, axis=1)
    price = np.full((len(seen), 3), ALONE_COSTS * height)
    price[:, 0] = np.maximum(apart - TOGETHER * height, 0.0)
    price *= np.broadcast_to(np.asarray(step_s, dtype=float), (len(xy),))[seen, None] / USUAL_STEP_S
    chosen = cheapest_way(price, lambda n: np.linalg.norm(ways[n][None] - ways[n - 1][:, None], axis=2))
    place[seen] = ways[np.arange(len(seen)), chosen]
    alone[seen] = chosen > 0
    return place, alone
