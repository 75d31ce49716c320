"""One coloured or bright spot in a picture: tape on a knee, a white mark, a glove.

One click chooses it. What is learned there is a colour, how it stands out from
what surrounds it, and a size; whether it is a spot at all is told by the
connected region of like colour, which must stay the same over a range of
thresholds and end before it is larger than tape is (after Matas and others
2002, "Robust wide baseline stereo from maximally stable extremal regions").
Its centre is the centroid of how much of each pixel is spot.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
Lab = NDArray[np.float32]
FloatArray = NDArray[np.float64]
Mask = NDArray[np.bool_]

SMALLEST_M, LARGEST_M = 0.006, 0.080
"""Radius of a disc as large as the spot, m: a dot of 12 mm up to a band of tape round a thigh."""

LONGEST = 2.6
"""A spot reaches no farther from its centre than this many radii of the disc as large as it."""

LEAST_CONTRAST = 20.0
"""How far its colour must lie from what surrounds it, in CIE Lab units (well beyond what shading does)."""

COLOURED, BRIGHT, BRIGHTER = 31.0, 72.0, 22.0
"""Tape has at least this chroma (skin has less), or this lightness and so much more than what surrounds it:
a piece of cloth between two arms is neither."""

OFF_CENTRE = 0.5
"""The click is nearer to its centre than this many radii: one on a shoe's edge means the ankle."""

OFF_CENTRE_PX = 3.0

THRESHOLDS: Final = np.arange(5.0, 41.0, 2.5)
STEADY, STEADY_PX = 0.22, 1.0
"""A region is one thing where it grows by less than this share, or its edge by less than this, from a
threshold to the one two on: the edge of a small spot is a large part of it."""

LEAST_AREA_PX = 6.0


@dataclass(frozen=True)
class Spot:
    """One spot as last seen: centre (px), ``colour`` in Lab, ``contrast`` to its surroundings.

    ``area`` (px²) is how much of it there is, ``length`` (px) the standard
    deviation along its longest axis. ``light`` is how much lightness counts
    beside hue: all of it for a mark that is only bright, less for a coloured
    one, which stays itself in the shade.
    """

    x: float
    y: float
    colour: FloatArray
    contrast: float
    area: float
    length: float
    light: float

    @property
    def radius(self) -> float:
        return float(np.sqrt(self.area / np.pi))

    def oddness(self, usual: Spot) -> float:
        """How far it differs from what it usually is, as a share; 0 also where it is only turned away.

        A spot that turns keeps its length and loses area; one that runs into
        another of its colour, or is covered in part, does not.
        """
        grown, longer = np.log(self.area / usual.area), np.log(self.length / usual.length)
        return float(max(grown, 1.5 * abs(longer)))

    def like(self, usual: Spot) -> bool:
        """Whether it may be the same spot come back: much of its area and its length."""
        return 0.55 < self.area / usual.area < 1.5 and 0.7 < self.length / usual.length < 1.4


def spot_at(picture: Picture, x: float, y: float, *, px_per_m: float) -> Spot | None:
    """The spot that was clicked, or None where the click is on nothing that stands out.

    ``picture`` is (H, W, 3) RGB, ``px_per_m`` a rough px per metre.
    """
    reach = LARGEST_M * px_per_m * (1 + LONGEST)
    cut = cut_out(picture, x, y, reach)
    if cut is None:
        return None
    lab, left, top = cut
    row, column = round(y - top), round(x - left)
    if not (0 <= row < lab.shape[0] and 0 <= column < lab.shape[1]):
        return None
    near = lab[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2].reshape(-1, 3)
    colour = np.median(near, axis=0).astype(float)
    light = 1.0 - 0.6 * min(float(np.hypot(colour[1], colour[2])) / 35, 1.0)
    region = _steady_region(_distance(lab, colour, light), row, column)
    if region is None:
        return None
    colour = lab[region].mean(axis=0).astype(float)
    around = _ring(region)
    contrast = float(np.median(_distance(lab[around][None], colour, light))) if around.any() else 0.0
    bright = colour[0] > BRIGHT and colour[0] - np.median(lab[around][:, 0]) > BRIGHTER
    if contrast < LEAST_CONTRAST or not (bright or np.hypot(colour[1], colour[2]) > COLOURED):
        return None
    guess = Spot(x, y, colour, contrast, float(region.sum()), 1.0, light)
    found = _refined(guess, lab, left, top, region)
    reaches = np.linalg.norm(np.argwhere(region) - (found.y - top, found.x - left), axis=1).max()
    fits = SMALLEST_M * px_per_m <= found.radius + 1 and found.radius <= LARGEST_M * px_per_m
    compact = reaches <= LONGEST * found.radius + 1.5
    meant = np.hypot(found.x - x, found.y - y) <= max(OFF_CENTRE * found.radius, OFF_CENTRE_PX)
    return found if fits and compact and meant and found.area >= LEAST_AREA_PX else None


def spots_near(due: Spot, lab: Lab, left: int, top: int, slack: float) -> list[Spot]:
    """Regions of the spot's colour about as large as it, the likeliest first."""
    inside = (_distance(lab, due.colour, due.light) < 0.5 * due.contrast).astype(np.uint8)
    count, labels, stats, centres = cv2.connectedComponentsWithStats(inside, connectivity=8)
    priced = []
    for k in range(1, count):
        ratio = stats[k, cv2.CC_STAT_AREA] / due.area
        off = float(np.hypot(centres[k][0] + left - due.x, centres[k][1] + top - due.y))
        if 0.25 < ratio < 4 and off <= slack + due.radius:
            priced.append(((off / slack) ** 2 + abs(np.log(ratio)), k))
    return [_refined(due, lab, left, top, labels == k) for _, k in sorted(priced)]


def cut_out(picture: Picture, x: float, y: float, reach: float) -> tuple[Lab, int, int] | None:
    """The square round a place in Lab, and the picture's x and y of its corner; None outside the picture."""
    height, width = picture.shape[:2]
    left, top = max(int(x - reach), 0), max(int(y - reach), 0)
    right, bottom = min(int(x + reach) + 2, width), min(int(y + reach) + 2, height)
    if right - left < 4 or bottom - top < 4:
        return None
    part = np.ascontiguousarray(picture[top:bottom, left:right]).astype(np.float32) / 255
    return np.asarray(cv2.cvtColor(part, cv2.COLOR_RGB2LAB), np.float32), left, top


def _distance(lab: Lab, colour: FloatArray, light: float) -> FloatArray:
    off = lab - colour.astype(np.float32)
    return np.sqrt((light * off[..., 0]) ** 2 + off[..., 1] ** 2 + off[..., 2] ** 2).astype(float)


def _steady_region(distance: FloatArray, row: int, column: int) -> Mask | None:
    """The region of like colour round a pixel that changes least from threshold to threshold."""
    regions: list[Mask] = []
    for threshold in THRESHOLDS:
        labels = cv2.connectedComponents((distance < threshold).astype(np.uint8), connectivity=4)[1]
        label = labels[row, column]
        if label == 0:
            continue
        region = labels == label
        if region[[0, -1]].any() or region[:, [0, -1]].any():
            break
        regions.append(region)
    areas = np.array([r.sum() for r in regions], float)
    if len(areas) < 3:
        return None
    growth = (areas[2:] - areas[:-2]) / np.maximum(areas[1:-1], 1)
    radius = np.sqrt(areas[1:-1] / np.pi)
    growth = growth / np.maximum(STEADY, (1 + STEADY_PX / radius) ** 2 - 1)
    growth[areas[1:-1] < LEAST_AREA_PX] = np.inf
    best = int(np.argmin(growth))
    return regions[best + 1] if growth[best] <= 1 else None


def _ring(region: Mask) -> Mask:
    """What surrounds a region, a little way off its blurred edge."""
    mask = region.astype(np.uint8)
    inner, outer = (cv2.dilate(mask, np.ones((n, n), np.uint8)) for n in (5, 11))
    return (outer > 0) & (inner == 0)


def _share(distance: FloatArray, contrast: float) -> FloatArray:
    """How much of each pixel is spot: 1 well inside, 0 outside, one half where its edge runs."""
    return np.clip((0.75 - distance / contrast) / 0.5, 0.0, 1.0)


def _refined(spot: Spot, lab: Lab, left: int, top: int, region: Mask) -> Spot:
    """Centre, area and length by the share of every pixel in and next to a region."""
    near = cv2.dilate(region.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    share = np.where(near, _share(_distance(lab, spot.colour, spot.light), spot.contrast), 0.0)
    moments = cv2.moments(share)
    area = max(moments["m00"], 1.0)
    spread = np.array([[moments["mu20"], moments["mu11"]], [moments["mu11"], moments["mu02"]]]) / area
    sure = share > 0.95
    return replace(
        spot,
        x=moments["m10"] / area + left,
        y=moments["m01"] / area + top,
        area=area,
        length=float(np.sqrt(max(np.linalg.eigvalsh(spread)[-1], 0.1))),
        colour=lab[sure].mean(axis=0).astype(float) if sure.any() else spot.colour,
    )
