"""The club by its shaft: a thin straight line that leaves the hands and moves.

Round the hands of every frame, rays in all directions are sampled from what
differs from the clip's usual picture. A shaft is a line both of whose sides
look alike and differ from it; an arm's edge is not. The best sequence of
directions is the cheapest way through all frames, where turning costs less the
faster the hands move; how much dearer the cheapest way is that goes by quite
another direction tells how likely this one is wrong.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from kneel.model import Sighting
from kneel.vision.best_way import ways_through

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

BINS = 240
NEAREST_M, FARTHEST_M, LONGEST_M = 0.14, 0.60, 1.25
"""The shaft is looked for between these distances from the hands, its end up to the last."""

ALONG = 30
ASIDE: Final = np.arange(-11, 12)
"""How far beside the hands it may pass, px, with room for its sides."""

SIDE_PX = 4
STRONGEST = 24.0
"""Levels of 255 beyond which a clearer line is no better."""

LEAST_SCORE, CLEAR_SCORE = 3.3, 6.0
"""A direction whose line is weaker on average, in levels, shows no shaft; a clear one shows its end too."""

USUAL_FRAMES = 15
STILL_TURN, HAND_TURN = 5.0, 4.5
"""How fast a club usually turns, rad/s: at rest, and for each m/s of the hands (they lie about a quarter of a
px_per_m from what the club turns round)."""

ANGLE_SIGMA = 0.03
END_SIGMA_M = 0.06

OTHER_BINS = 12
"""A direction so far from this one is another: 18°."""

STANDS_OUT: Final = (4.0, 8.0, 12.0, 18.0, 28.0, 45.0)
WRONG: Final = (0.7, 0.5, 0.3, 0.15, 0.06, 0.004)
"""How often another is the right one, by how much dearer the way by the best of the others is (24 drawn clips
by seed 9300)."""

WRONG_BY_M, MOST_WRONG = 1.8, 0.3
"""How far the clubhead then may be from where it is told, and from how often on it is not told at all."""


@dataclass(frozen=True)
class ClubSeen:
    """Direction of the shaft from the hands in every frame, (T,) radians, y down, NaN where it is not seen.

    ``length`` (T,) px is how far the head lies from the hands, NaN where its end is not seen;
    ``score`` (T,) is how clear the line is, in levels, ``wrong`` (T,) how likely the direction is wrong.
    """

    angle: FloatArray
    length: FloatArray
    score: FloatArray
    wrong: FloatArray

    def clubhead(self, hands: FloatArray, px_per_m: float) -> Sighting:
        """Where the clubhead is, with the hands at (T, 2) px."""
        way = np.stack([np.cos(self.angle), np.sin(self.angle)], axis=1)
        clear = np.isfinite(self.length) & (self.score > CLEAR_SCORE)
        seen = np.isfinite(self.angle) & bool(clear.any())
        if not seen.any():
            return Sighting(np.full_like(hands, np.nan), np.full(len(hands), np.nan))
        known = np.flatnonzero(clear)
        reach = np.interp(np.arange(len(hands)), known, median_filter(self.length[known], 5, mode="nearest"))
        end = np.where(clear, 1.0, 2.0) * END_SIGMA_M * px_per_m
        turn = ANGLE_SIGMA * np.maximum(1.0, CLEAR_SCORE / np.maximum(self.score, 0.1)) * reach
        # Neighbours outvote what is seldom wrong: less than the root of it is left of that.
        astray = self.wrong * WRONG_BY_M * px_per_m
        seen &= self.wrong < MOST_WRONG
        xy = np.where(seen[:, None], hands + reach[:, None] * way, np.nan)
        return Sighting(xy, np.where(seen, np.hypot(np.hypot(end, turn), astray), np.nan))


def find_club(
    luma: Callable[[int], Picture],
    times_s: FloatArray,
    hands: FloatArray,
    *,
    px_per_m: float,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> ClubSeen | None:
    """The club through the clip, or None where no line leaves the hands for long enough.

    ``luma(n)`` gives the brightness (H, W) of frame ``n``, ``hands`` (T, 2) px
    where the grip is, ``px_per_m`` a rough px per metre.
    """
    count = len(times_s)
    if count < 3:
        return None
    some = np.unique(np.linspace(0, count - 1, USUAL_FRAMES).astype(int))
    usual = np.median([luma(int(n)) for n in some], axis=0).astype(np.float32)
    scores = np.zeros((count, BINS))
    for n in range(count):
        if stopped():
            return None
        scores[n] = _line_scores(luma(n).astype(np.float32) - usual, hands[n], px_per_m)
        progress(n + 1, count)
    speed = np.linalg.norm(np.gradient(hands, times_s, axis=0), axis=1) / px_per_m
    costs = _ways(scores, times_s, speed)
    bins = costs.argmin(axis=1)
    score = scores[np.arange(count), bins]
    seen = score > LEAST_SCORE
    if seen.mean() < 0.25:
        return None
    angle = np.where(seen, bins * 2 * np.pi / BINS, np.nan)
    length = np.full(count, np.nan)
    for n in np.flatnonzero(seen).tolist():
        length[n] = _end(luma(n).astype(np.float32) - usual, hands[n], float(angle[n]), px_per_m)
    return ClubSeen(angle, length, score, np.interp(_stands_out(costs), STANDS_OUT, WRONG))


def _rays(angles: FloatArray, distances: FloatArray, hands: FloatArray) -> tuple[NDArray[np.float32], ...]:
    """Places (angles, distances, aside) in the picture along rays from the hands, x and y."""
    cos, sin = np.cos(angles)[:, None, None], np.sin(angles)[:, None, None]
    along, aside = distances[None, :, None], ASIDE[None, None, :].astype(float)
    x, y = hands[0] + along * cos - aside * sin, hands[1] + along * sin + aside * cos
    return x.astype(np.float32), y.astype(np.float32)


def _ridges(changed: NDArray[np.float32], x: NDArray[np.float32], y: NDArray[np.float32]) -> FloatArray:
    """How much each place (..., aside) is a line along its ray, in levels; sides lie ``SIDE_PX`` off."""
    flat = (x.shape[0] * x.shape[1], x.shape[2])
    seen = cv2.remap(
        changed, x.reshape(flat), y.reshape(flat), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    seen = seen.reshape(x.shape)
    line, one, other = seen[..., SIDE_PX:-SIDE_PX], seen[..., : -2 * SIDE_PX], seen[..., 2 * SIDE_PX :]
    ridge = np.abs(line - (one + other) / 2) - np.abs(one - other)
    return np.clip(ridge, -STRONGEST / 2, STRONGEST)


def _line_scores(changed: NDArray[np.float32], hands: FloatArray, px_per_m: float) -> FloatArray:
    """How clear a line leaves the hands in each direction, (BINS,) levels."""
    angles = np.arange(BINS) * 2 * np.pi / BINS
    distances = np.linspace(NEAREST_M, FARTHEST_M, ALONG) * px_per_m
    ridges = _ridges(changed, *_rays(angles, distances, hands))
    return np.asarray(np.maximum(ridges.mean(axis=1), 0.0).max(axis=1), float)


def _stands_out(costs: FloatArray) -> FloatArray:
    """How much dearer than the cheapest direction quite another one is in every frame, (T,)."""
    best = costs.argmin(axis=1)
    apart = np.abs(np.arange(BINS)[None] - best[:, None])
    other = np.where(np.minimum(apart, BINS - apart) > OTHER_BINS, costs, np.inf)
    return np.asarray(other.min(axis=1) - costs.min(axis=1))


def _ways(scores: FloatArray, times_s: FloatArray, speed: FloatArray) -> FloatArray:
    """What each direction in every frame costs, (T, BINS): lines have to be clear, and none turns faster than
    the hands explain.
    """
    usual_score = float(np.median(scores[scores > 0])) if (scores > 0).any() else 1.0
    bins = np.arange(BINS)
    apart = np.abs(bins[:, None] - bins[None])
    turn = np.minimum(apart, BINS - apart) * 2 * np.pi / BINS

    def moves(n: int) -> FloatArray:
        gap = float(times_s[n] - times_s[n - 1])
        usual = (STILL_TURN + HAND_TURN * float(speed[n - 1 : n + 1].mean())) * gap
        return np.asarray(0.5 * (turn / usual) ** 2)

    return ways_through(-scores / max(usual_score, 0.5), moves)


def _end(changed: NDArray[np.float32], hands: FloatArray, angle: float, px_per_m: float) -> float:
    """How far from the hands the line goes on, px; NaN where it goes on beyond what a club is."""
    distances = np.arange(NEAREST_M * px_per_m, LONGEST_M * px_per_m, 2.0)
    spread = np.array([-0.04, -0.02, 0.0, 0.02, 0.04])
    ridges = _ridges(changed, *_rays(angle + spread, distances, hands))
    clear = ridges.max(axis=2).max(axis=0)
    smooth = np.convolve(clear, np.ones(9) / 9, mode="same")
    there = smooth > 0.35 * np.percentile(smooth[: len(smooth) // 2], 80)
    gaps = np.flatnonzero(~there & (distances > FARTHEST_M * 0.6 * px_per_m))
    return float(distances[gaps[0]]) if gaps.size else float("nan")
