"""Whether a camera stood still, told by edges where there are too few corners to follow.

Before smooth grass, sky or a bare wall nothing can be followed, but that the
edges there are (a horizon, a mat, a post) lie where they lay can be seen. How
far each picture is shifted against the first follows from their slopes by
least squares (Lucas and Kanade 1981), what else moves left out by Huber's
weights: for shifts of a pixel or two, no farther.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

SMOOTHED_PX: Final = 1.5
INDEPENDENT_PX: Final = 4 * np.pi * SMOOTHED_PX**2
"""Smoothed white noise is as good as so many pixels that hang together."""

STRONG, LEAST_SLOPE = 4.0, 1.5
"""An edge slopes by more than so many times what a pixel changes by from picture to picture, and by so many
grey levels a pixel."""

LEAST_EDGES: Final = 200
BORDER_PX: Final = 6
DRAWN: Final = 0.7
"""A line that runs straight along rows or columns through so much of the picture is a bar's, or a horizon's
that tells little."""

STANDS_PX, STANDS_SHARE = 0.5, 0.85
"""Of 20 drawn cameras on a stand, before little and coded coarsely, the pictures are shifted by at most 0.4
(one by 1.9 in one picture), by most of 20 in a hand 1.5 and more (docs/accuracy.md)."""

SURE_PX: Final = 0.5
SWEEPS: Final = 6
HUBER: Final = 1.5


def stands_by_edges(pictures: Sequence[Picture], boxes: FloatArray) -> bool:
    """Whether edges show that a camera stood: False where they move, or tell too little.

    ``pictures`` are a first one and some later ones, (H, W) each, their light evened; ``boxes`` (N, K, 4)
    what lies round those who move in each, left, top, right, bottom px.
    """
    smooth = [np.asarray(cv2.GaussianBlur(one.astype(np.float32), (0, 0), SMOOTHED_PX)) for one in pictures]
    first = smooth[0]
    slopes = np.stack([cv2.Sobel(first, cv2.CV_32F, *way, ksize=3) / 8 for way in ((1, 0), (0, 1))], axis=-1)
    steep = np.hypot(slopes[..., 0], slopes[..., 1])
    shifts = [
        _shift(later - first, slopes, steep, _free(first.shape, (boxes[0], box)))
        for later, box in zip(smooth[1:], boxes[1:], strict=True)
    ]
    still = [shift is not None and bool(np.hypot(*shift) < STANDS_PX) for shift in shifts]
    return bool(shifts) and float(np.mean(still)) >= STANDS_SHARE


def _free(shape: tuple[int, ...], boxes: Sequence[FloatArray]) -> NDArray[np.bool_]:
    """What of a picture lies outside all boxes and not at its border."""
    free = np.zeros(shape, dtype=bool)
    free[BORDER_PX:-BORDER_PX, BORDER_PX:-BORDER_PX] = True
    for left, top, right, bottom in np.concatenate(boxes).round().astype(int).tolist():
        free[max(top, 0) : max(bottom, 0), max(left, 0) : max(right, 0)] = False
    return free


def _shift(
    change: NDArray[np.floating],
    slopes: NDArray[np.floating],
    steep: NDArray[np.floating],
    free: NDArray[np.bool_],
) -> FloatArray | None:
    """How far a picture is shifted (2,) px; None where edges do not tell it both ways."""
    if not free.any():
        return None
    noise = 1.4826 * float(np.median(np.abs(change[free])))
    strong = free & (steep > max(STRONG * noise, LEAST_SLOPE))
    for axis in (0, 1):
        lines = strong.sum(axis=axis) > DRAWN * np.maximum(free.sum(axis=axis), 1)
        near = np.convolve(lines, np.ones(5), "same") > 0
        strong &= ~(near[None] if axis == 0 else near[:, None])
    if strong.sum() < LEAST_EDGES:
        return None
    along, off = slopes[strong].astype(np.float64), -change[strong].astype(np.float64)
    say = np.ones(len(off))
    for _ in range(SWEEPS):
        weighed = along * say[:, None]
        normal = weighed.T @ along
        if np.linalg.cond(normal) > 1e8:
            return None
        shift = np.linalg.solve(normal, weighed.T @ off)
        left = off - along @ shift
        spread = 1.4826 * float(np.median(np.abs(left))) + 1e-3
        say = 1 / np.maximum(1.0, np.abs(left) / (HUBER * spread))
    error = np.sqrt(np.linalg.eigvalsh(np.linalg.inv(normal)).max() * INDEPENDENT_PX) * spread
    return np.asarray(shift) if error < SURE_PX else None
