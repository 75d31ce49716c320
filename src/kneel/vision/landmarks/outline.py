"""The pelvis by its outline: where the body's mask ends on both sides at the height of the hips.

Seen face-on, the network places the hips on the body's front, and so as much
as 3 cm from where they are once the pelvis turns. The middle between both
edges of the outline hardly cares how the pelvis is turned; arms that hang
beside it make a row too wide, and such rows are left out.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates, median_filter

from kneel.vision.landmarks.region import Region

FloatArray = NDArray[np.float64]

ROWS: Final = np.linspace(-0.10, 0.14, 7)
"""Heights looked at, below the hips' middle, as shares of the trunk's length."""

REACH = 0.7
"""How far from the hips' middle an edge is sought, as a share of the trunk's length."""

USUAL_PERCENTILE, TOO_WIDE = 70, 1.07
"""A row much wider than it usually is holds an arm: no turn makes a pelvis wider than square to the camera."""

FEWEST_ROWS = 3
FACE_ON_SHARE, EARLY_SHARE = 0.45, 0.2
"""Shoulders this far apart, as a share of the trunk's length, in this first part of the clip are seen from
the front or the back."""


def hip_edges(mask: FloatArray, region: Region, xy: FloatArray) -> FloatArray:
    """Left and right edge of the body at the hips, (rows, 2) px of the picture, NaN where there is none.

    ``mask`` (S, S) are logits over the region's crop, ``xy`` (39, 2) the landmarks in the picture's px.
    """
    middle = (xy[23] + xy[24]) / 2
    trunk = float(np.linalg.norm((xy[11] + xy[12]) / 2 - middle))
    across = np.arange(-REACH * trunk, REACH * trunk, 1.0)
    edges = np.full((len(ROWS), 2), np.nan)
    centre = len(across) // 2
    for row, height in zip(edges, ROWS * trunk, strict=True):
        points = np.stack([middle[0] + across, np.full_like(across, middle[1] + height)], axis=1)
        x, y = region.to_crop(points, mask.shape[0]).T
        value = map_coordinates(mask, [y - 0.5, x - 0.5], order=1, mode="nearest")
        outside = np.flatnonzero(value <= 0)
        left, right = outside[outside < centre], outside[outside > centre]
        if value[centre] > 0 and left.size and right.size:
            a, b = int(left[-1]), int(right[0])
            row[0] = middle[0] + across[a] + value[a] / (value[a] - value[a + 1])
            row[1] = middle[0] + across[b] - value[b] / (value[b] - value[b - 1])
    return edges


def hips_moved(xy: FloatArray, edges: FloatArray) -> tuple[FloatArray, NDArray[np.bool_]]:
    """How far sideways to move both hips so that they follow the outline, (N,) px, and where it is to be trusted.

    ``xy`` (N, 39, 2) are the landmarks, NaN where none were seen, ``edges``
    (N, rows, 2) their outlines. All zero, and nothing trusted, where the body
    is not seen from the front or the back.
    """
    seen = np.isfinite(xy[:, 23, 0])
    nothing = np.zeros(len(xy)), np.zeros(len(xy), dtype=bool)
    if not seen.any():
        return nothing
    trunk = np.linalg.norm((xy[:, 11] + xy[:, 12] - xy[:, 23] - xy[:, 24]) / 2, axis=1)
    broad = np.abs(xy[:, 11, 0] - xy[:, 12, 0])
    early = np.flatnonzero(seen)[: max(1, int(seen.sum() * EARLY_SHARE))]
    if np.median(broad[early] / trunk[early]) < FACE_ON_SHARE:
        return nothing
    wide = edges[..., 1] - edges[..., 0]
    known = np.isfinite(wide)
    if (known.sum(axis=0) < 0.5 * seen.sum()).any():
        return nothing
    good = known & (wide < TOO_WIDE * np.nanpercentile(wide, USUAL_PERCENTILE, axis=0))
    trusted = good.sum(axis=1) >= FEWEST_ROWS
    if trusted.sum() < FEWEST_ROWS:
        return nothing
    middles = np.where(good, edges.mean(axis=2), np.nan)[trusted]
    # Rows differ by where the body bulges; what is left is how it moves.
    bulge = np.nanmedian(middles - np.nanmedian(middles, axis=1, keepdims=True), axis=0)
    along = np.nanmedian(middles - bulge, axis=1)
    off = along - (xy[trusted, 23, 0] + xy[trusted, 24, 0]) / 2
    steady = median_filter(off, size=3, mode="nearest")
    return np.interp(np.arange(len(xy)), np.flatnonzero(trusted), steady), trusted
