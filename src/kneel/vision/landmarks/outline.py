"""The pelvis by its outline: where the body's mask ends on both sides at the height of the hips.

Seen face-on, the network places the hips on the body's front, and so as much
as 3 cm from where they are once the pelvis turns. The middle between both
edges of the outline hardly cares how the pelvis is turned; arms that hang
beside it make a row too wide, and such rows are left out. Only rows above the
hips are taken: below them the outline is that of the thighs, and goes with a
leg that is held out.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates, median_filter

from kneel.vision.landmarks.region import Region

FloatArray = NDArray[np.float64]

ROWS: Final = np.linspace(-0.22, 0.14, 10)
"""Heights looked at, below the hips' middle, as shares of the trunk's length."""

ABOVE: Final = ROWS < 0.03
"""Those that belong to the pelvis and not to the thighs; the others only show where the seat is."""

SEAT_FROM = -0.12
"""Rows higher than this belong to the back, not the seat."""

LEANS_TIMES = 0.5
"""Rows above the hips lie beside the pelvis, which leans about half as much as the trunk on it."""

OUTLINE_SHARE = 0.7
"""How far the hips are moved to where the outline has them: each of the two tells some (simulated swings and
two filmed cameras; docs/accuracy.md)."""

REACH = 0.7
"""How far from the hips' middle an edge is sought, as a share of the trunk's length."""

USUAL_PERCENTILE, TOO_WIDE = 70, 1.07
"""A row much wider than it usually is holds an arm: nothing is wider than a pelvis square to the camera."""

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
    if centre < 2:
        return edges
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


def face_on(xy: FloatArray) -> bool:
    """Whether a body starts square to the camera or with its back to it; (N, 39, 2) px, NaN where unseen."""
    seen = np.flatnonzero(np.isfinite(xy[:, 23, 0]))
    if seen.size == 0:
        return False
    early = xy[seen[: max(1, int(seen.size * EARLY_SHARE))]]
    trunk = np.linalg.norm((early[:, 11] + early[:, 12] - early[:, 23] - early[:, 24]) / 2, axis=1)
    broad = np.abs(early[:, 11, 0] - early[:, 12, 0])
    return bool(np.median(broad / trunk) > FACE_ON_SHARE)


def hips_moved(xy: FloatArray, edges: FloatArray) -> tuple[FloatArray, NDArray[np.bool_]]:
    """How far sideways to move both hips to follow the outline, (N,) px, and where it is to be trusted.

    ``xy`` (N, 39, 2) are the landmarks of a body seen from the front or the
    back, NaN where none were seen, ``edges`` (N, rows, 2) their outlines. All
    zero, and nothing trusted, where the outline is too seldom seen.
    """
    seen = np.isfinite(xy[:, 23, 0])
    nothing = np.zeros(len(xy)), np.zeros(len(xy), dtype=bool)
    edges = edges[:, ABOVE]
    wide = edges[..., 1] - edges[..., 0]
    known = np.isfinite(wide)
    if not seen.any() or (known.sum(axis=0) < 0.5 * seen.sum()).any():
        return nothing
    good = known & (wide < TOO_WIDE * np.nanpercentile(wide, USUAL_PERCENTILE, axis=0))
    trusted = good.sum(axis=1) >= FEWEST_ROWS
    if trusted.sum() < FEWEST_ROWS:
        return nothing
    middles = np.where(good, edges.mean(axis=2), np.nan)
    # A trunk that leans carries the rows above the hips with it.
    leans = (xy[:, 11, 0] + xy[:, 12, 0] - xy[:, 23, 0] - xy[:, 24, 0]) / 2
    middles = (middles + LEANS_TIMES * leans[:, None] * np.minimum(ROWS[ABOVE], 0.0))[trusted]
    # Rows differ by where the body bulges; what is left is how it moves.
    bulge = np.nanmedian(middles - np.nanmedian(middles, axis=1, keepdims=True), axis=0)
    along = np.nanmedian(middles - bulge, axis=1)
    off = along - (xy[trusted, 23, 0] + xy[trusted, 24, 0]) / 2
    # Only how it moves is taken from the outline: of a body half turned its middle lies beside the hips.
    steady = median_filter(off - np.median(off), size=3, mode="nearest")
    return OUTLINE_SHARE * np.interp(np.arange(len(xy)), np.flatnonzero(trusted), steady), trusted


def seat_of(xy: FloatArray, edges: FloatArray) -> FloatArray:
    """The rearmost point of the pelvis of a body seen from the side, (N, 2) px, NaN where unseen.

    The rear is where the toes do not point; its height is taken to be the hips'.
    """
    ahead = np.sign(np.nanmedian(xy[:, 31:33, 0] - xy[:, 29:31, 0]))
    side = edges[:, ROWS > SEAT_FROM, 0 if ahead > 0 else 1]
    height = (xy[:, 23, 1] + xy[:, 24, 1]) / 2
    seen = np.isfinite(side).all(axis=1) & np.isfinite(height)
    rear = np.where(seen, ahead * (ahead * side).min(axis=1), np.nan)
    return np.stack([rear, np.where(seen, height, np.nan)], axis=1)
