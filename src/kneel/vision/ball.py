"""The ball at rest, and the frame in which it leaves.

Between the backswing, when the club is away from it, and some time after the
strike nothing on the ground near the feet changes but one thing: something
bright and round, of a ball's size, is gone. That place found, every frame
tells how much of the ball is there, and the step from there to gone is impact.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.model import Sighting

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

BALL_M = 0.0427
"""Diameter, metres: not less than 42.67 mm (Rules of Golf)."""

SAMPLES = 7
BEFORE_S = 0.35
"""While the club comes back nothing covers the ball."""

AFTER_S = (0.12, 0.8)
"""The ball is gone for good, and the club has passed, this long after the strike."""

SEARCH_S = 0.12
"""The step is sought this near the strike as the hands tell it."""

ASIDE_M, ABOVE_M, BELOW_M = 1.3, 0.25, 0.9
"""How far from the ankles in the picture the ball may lie."""

LEAST_LEVELS = 14.0
"""It is at least so much brighter than what is there once it is gone."""

SIZES = (0.6, 1.5)
"""What share of a ball's diameter at the ankles' distance it measures: nearer balls look larger."""

STILL_AROUND = 0.4
"""What surrounds it changes by less than this share of that."""

THERE, GONE, MOST_COVERED = 0.2, 0.06, 5
"""A frame shows the ball, or its absence, when it is this near to what usually shows; the club may cover it
for a few frames in between."""

AROUND, STRANGE = 1.1, 0.15
"""Over so many diameters about the ball nothing is left of a frame in which it is gone but noise, up to this
share of what went with the ball: a club may be as bright as the ground, and looks like it nowhere else.
"""


@dataclass(frozen=True)
class BallSeen:
    """Where the ball lay (px) and its diameter (px).

    ``there`` (T,) are the frames with it in place, ``covered`` (T,) those
    among them, up to the first that shows it gone, in which the club hides it.
    """

    x: float
    y: float
    diameter: float
    there: NDArray[np.bool_]
    covered: NDArray[np.bool_]

    @property
    def last(self) -> int:
        """The last frame before the first that shows the ball gone."""
        return int(np.flatnonzero(self.there)[-1])

    def sighting(self) -> Sighting:
        """The ball while it is in place; lit from above, its middle is told to about a seventh of it."""
        xy = np.where(self.there[:, None], (self.x, self.y), np.nan)
        sigma = np.where(self.covered, 0.5, 0.15) * self.diameter
        return Sighting(xy, np.where(self.there, sigma, np.nan))


def find_ball(
    luma: Callable[[int], Picture],
    times_s: FloatArray,
    ankles: FloatArray,
    *,
    top_s: float,
    impact_s: float,
    px_per_m: float,
) -> BallSeen | None:
    """The ball, or None where nothing behaves like one.

    ``luma(n)`` gives the brightness (H, W) of frame ``n``, ``ankles`` (2, 2) is
    where both ankles stand at address in px, ``top_s`` and ``impact_s`` are
    rough times of the swing, ``px_per_m`` is a rough px per metre.
    """
    height, width = luma(0).shape[:2]
    box = place_of(ankles, px_per_m, width, height)
    if box is None or not times_s[0] <= top_s < impact_s < times_s[-1]:
        return None
    before = _usual(luma, box, some_frames(times_s, max(times_s[0], top_s - BEFORE_S), top_s))
    after = _usual(luma, box, some_frames(times_s, impact_s + AFTER_S[0], impact_s + AFTER_S[1]))
    if before is None or after is None:
        return None
    found = _vanished(before, after, px_per_m)
    if found is None:
        return None
    x, y, diameter = found
    near = np.flatnonzero(np.abs(times_s - impact_s) < SEARCH_S)
    if near.size < 3:
        return None
    last = int(near[-1])
    share, left = _shares(luma, box, found, before, after, range(last + 1))
    leaves = _leaves(share[near[0] :], left[near[0] :])
    if leaves is None:
        return None
    seen, gone = int(near[0]) + leaves[0], int(near[0]) + leaves[1]
    there = np.zeros(len(times_s), dtype=bool)
    there[: seen + 1] = np.abs(share[: seen + 1] - 1) < THERE
    there[seen:gone] = True
    covered = np.arange(len(times_s)) > seen
    return BallSeen(x + box[0], y + box[1], diameter, there, covered)


def _leaves(share: FloatArray, left: FloatArray) -> tuple[int, int] | None:
    """The last frame that shows the ball and the first that shows it gone for good, or None.

    Between them the clubhead may cover it: seen along the target line it comes from before it.
    """
    seen = np.flatnonzero(np.abs(share - 1) < THERE)
    clean = np.abs(share) < GONE
    if seen.size == 0 or not clean.any():
        return None
    clean &= left < 2 * np.median(left[clean]) + STRANGE
    dirty = np.flatnonzero(~clean)
    gone = int(dirty[-1]) + 1
    last = int(seen[-1])
    return (last, gone) if 0 < gone - last <= MOST_COVERED and gone < len(share) else None


def place_of(
    ankles: FloatArray, px_per_m: float, width: int, height: int
) -> tuple[int, int, int, int] | None:
    """The part of the picture in which a ball may lie, x0, y0, x1, y1; None where that is hardly any.

    ``ankles`` (2, 2) px.
    """
    (left, top), (right, low) = ankles.min(axis=0), ankles.max(axis=0)
    x0, x1 = max(int(left - ASIDE_M * px_per_m), 0), min(int(right + ASIDE_M * px_per_m), width)
    y0, y1 = max(int(top - ABOVE_M * px_per_m), 0), min(int(low + BELOW_M * px_per_m), height)
    return (x0, y0, x1, y1) if x1 - x0 > 20 and y1 - y0 > 20 else None


def some_frames(times_s: FloatArray, start: float, end: float) -> list[int]:
    """A few frames spread over a stretch of time."""
    inside = np.flatnonzero((times_s >= start) & (times_s <= end))
    if inside.size < 2:
        return []
    return np.unique(inside[np.linspace(0, inside.size - 1, SAMPLES).astype(int)]).tolist()


def _usual(
    luma: Callable[[int], Picture], box: tuple[int, int, int, int], frames: list[int]
) -> FloatArray | None:
    """What is usually seen in a box over some frames: the median."""
    if len(frames) < 2:
        return None
    x0, y0, x1, y1 = box
    return np.median([luma(n)[y0:y1, x0:x1].astype(np.float32) for n in frames], axis=0).astype(float)


def _vanished(before: FloatArray, after: FloatArray, px_per_m: float) -> tuple[float, float, float] | None:
    """Middle and diameter of the bright round thing that was there and is gone."""
    gone = before - after
    # Nearer or farther than the ankles, and the scale itself is rough.
    best, score = None, 0.0
    for times in (0.75, 1.0, 1.3):
        radius = times * BALL_M * px_per_m / 2
        if radius < 1.5:
            continue
        disc, ring = _disc(radius * 0.85), _ring(radius)
        inside, around = cv2.filter2D(gone, -1, disc), cv2.filter2D(np.abs(gone), -1, ring)
        shown = cv2.filter2D(before, -1, disc) - cv2.filter2D(before, -1, ring)
        fit = np.where((around < STILL_AROUND * inside) & (shown > 0.5 * inside), inside - 2 * around, 0.0)
        y, x = np.unravel_index(int(np.argmax(fit)), fit.shape)
        if inside[y, x] > LEAST_LEVELS and fit[y, x] > score:
            best, score = _measured(gone, float(x), float(y), radius), float(fit[y, x])
    if best is None or not SIZES[0] < best[2] / (BALL_M * px_per_m) < SIZES[1]:
        return None
    return best if _alone(before, best) else None


def _alone(before: FloatArray, ball: tuple[float, float, float]) -> bool:
    """Whether it stood out on all sides while it was there; the edge of a shoe that moved did not."""
    x, y, diameter = ball
    ys, xs = np.mgrid[0 : before.shape[0], 0 : before.shape[1]]
    away = np.hypot(xs - x, ys - y) / diameter
    around = before[(away > 0.85) & (away < 1.25)]
    inside = float(np.median(before[away < 0.4]))
    return bool(np.percentile(around, 90) < inside - 0.4 * (inside - np.median(around)) - LEAST_LEVELS / 4)


def _measured(gone: FloatArray, x: float, y: float, radius: float) -> tuple[float, float, float] | None:
    """Centroid and diameter of what has gone near a place; None where it is not round."""
    reach = int(np.ceil(2 * radius)) + 1
    y0, x0 = max(int(y) - reach, 0), max(int(x) - reach, 0)
    part = gone[y0 : int(y) + reach + 1, x0 : int(x) + reach + 1]
    level = np.percentile(part, 97)
    labels = cv2.connectedComponents((part > 0.4 * level).astype(np.uint8))[1]
    own = labels == labels[int(y) - y0, int(x) - x0]
    if labels[int(y) - y0, int(x) - x0] == 0:
        return None
    weight = np.where(own, np.clip(part, 0, level), 0.0)
    moments = cv2.moments(weight)
    area = float(own.sum())
    spread = np.array([[moments["mu20"], moments["mu11"]], [moments["mu11"], moments["mu02"]]])
    narrow, wide = np.sqrt(np.maximum(np.linalg.eigvalsh(spread / moments["m00"]), 1e-3))
    expected = np.pi * radius**2
    if not (0.35 * expected < area < 2.8 * expected and wide < 1.7 * narrow + 0.5):
        return None
    return (
        moments["m10"] / moments["m00"] + x0,
        moments["m01"] / moments["m00"] + y0,
        2 * np.sqrt(area / np.pi),
    )


def _shares(
    luma: Callable[[int], Picture],
    box: tuple[int, int, int, int],
    ball: tuple[float, float, float],
    before: FloatArray,
    after: FloatArray,
    frames: range,
) -> tuple[FloatArray, FloatArray]:
    """How much of the ball is in place in each frame, about 1 there, 0 gone; and how much there and around it
    is not as it is without the ball, as a share of what went with it.
    """
    x, y, diameter = ball
    ys, xs = np.mgrid[0 : before.shape[0], 0 : before.shape[1]]
    away = np.hypot(xs - x, ys - y)
    around = away < AROUND * diameter + 0.5
    own = away[around] < 0.55 * diameter + 0.5
    change, gone = (before - after)[around], after[around]
    rows, columns = np.nonzero(around)
    rows, columns = rows + box[1], columns + box[0]
    off = np.array([luma(n)[rows, columns] - gone for n in frames])
    share = off[:, own] @ change[own] / (change[own] @ change[own])
    return share, np.sqrt((off**2).mean(axis=1) / (change @ change / len(change)))


def _disc(radius: float) -> FloatArray:
    return _between(-1.0, radius)


def _ring(radius: float) -> FloatArray:
    return _between(1.7 * radius + 1, 2.4 * radius + 2)


def _between(inner: float, outer: float) -> FloatArray:
    """A kernel that takes the mean between two radii; ``inner`` -1 makes it a full disc."""
    reach = int(np.ceil(outer))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    distance = np.hypot(x, y)
    inside = np.clip(outer + 0.5 - distance, 0, 1) * np.clip(distance - inner + 0.5, 0, 1)
    return np.asarray(inside / inside.sum(), float)
