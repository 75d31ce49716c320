"""Following points by pyramidal Lucas-Kanade flow, checked forward and backward.

Bouguet (2001), "Pyramidal implementation of the affine Lucas Kanade feature
tracker". A joint is no feature but a place in a limb, and an arm may hang
before it; so a small cluster of spots round it is followed, each there and
back, and what the largest group that moves alike does is its step (Kalal, Mikolajczyk and
Matas 2010, "Forward-backward error"). A step's sigma also holds what no flow
can see: cloth creeping over the joint as the body turns beneath it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.model import Links
from kneel.motion.body import moves
from kneel.vision.plan import Leg

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

WINDOW = 17
LEVELS = 3
BEST_SIGMA_PX = 0.12
"""Error of one step on well-textured cloth, from warped photographs (see docs/accuracy.md)."""

LOST_MISS_PX = 1.5
"""A spot whose way back misses its start by more is not believed."""

ALIKE_PX = 0.35
ALIKE_SHARE = 0.12
"""Two spots move alike when their steps differ by no more than this, plus this share of the step."""

FEWEST = 4
"""Fewer believed spots than this say nothing of the joint."""

# Per joint: radius of the cluster (m), and how far cloth and skin wander from the
# joint within a second, as a random walk (m): the front of a hip slides some 7 cm
# off its joint in a full turn (half a pelvis' depth times the sine of 45 degrees).
_CLUSTER: Final = {
    "hip": (0.075, 0.045),
    "shoulder": (0.045, 0.050),
    "knee": (0.045, 0.015),
    "ankle": (0.030, 0.012),
    "head": (0.060, 0.020),
    "elbow": (0.030, 0.025),
    "grip": (0.025, 0.025),
    "wrist": (0.025, 0.025),
    "heel": (0.025, 0.015),
    "toe": (0.025, 0.012),
    "clubhead": (0.030, 0.040),
    "ball": (0.015, 0.002),
}
_OTHER: Final = (0.05, 0.03)

_SPOKES = np.arange(8) * np.pi / 4
_RINGS: Final = np.concatenate(
    [[[0.0, 0.0]]] + [r * np.stack([np.cos(_SPOKES + r), np.sin(_SPOKES + r)], axis=1) for r in (0.65, 1.0)]
)

_STOP = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 30, 0.01)


@dataclass
class _Walker:
    leg: Leg
    x: float
    y: float
    at: int
    vx: float = 0.0
    vy: float = 0.0

    @property
    def done(self) -> bool:
        return self.at == self.leg.last


def follow(
    legs: Sequence[Leg],
    luma: Callable[[int], Picture],
    times_s: FloatArray,
    *,
    metre: float,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> dict[Leg, Links]:
    """Follow every leg through the clip.

    ``luma(n)`` gives the brightness (H, W) uint8 of frame ``n``; it is asked
    once in rising order for the forward legs and once in falling order for
    the backward ones. ``times_s`` (T,) are real seconds, ``metre`` is a rough
    px per metre. Gives links of full length (T-1) per leg, NaN outside it.
    ``stopped`` is asked between frames; once it says yes, what has been
    followed so far is given.
    """
    total = sum(abs(leg.last - leg.first) for leg in legs)
    steps = {leg: np.full((len(times_s) - 1, 2), np.nan) for leg in legs}
    sigmas = {leg: np.full(len(times_s) - 1, np.nan) for leg in legs}
    done = 0
    for way in (1, -1):
        walkers = [_Walker(leg, leg.x, leg.y, leg.first) for leg in legs if leg.step == way]
        for frame in _span(walkers, way):
            if stopped():
                break
            here = [w for w in walkers if w.at == frame and not w.done]
            if not here:
                continue
            gap = abs(float(times_s[frame + way] - times_s[frame]))
            _advance(here, (luma(frame), luma(frame + way)), way, gap, metre, steps, sigmas)
            done += len(here)
            progress(done, total)
    return {leg: Links(steps[leg], sigmas[leg]) for leg in legs}


def _span(walkers: Sequence[_Walker], way: int) -> range:
    if not walkers:
        return range(0)
    starts = [w.leg.first for w in walkers]
    ends = [w.leg.last for w in walkers]
    return range(min(starts), max(ends)) if way > 0 else range(max(starts), min(ends), -1)


def _advance(
    walkers: Sequence[_Walker],
    pair: tuple[Picture, Picture],
    way: int,
    gap_s: float,
    metre: float,
    steps: dict[Leg, FloatArray],
    sigmas: dict[Leg, FloatArray],
) -> None:
    """Take every walker one frame on and note the step in the direction of time."""
    traits = [_CLUSTER.get(w.leg.point.rsplit("_", 1)[-1], _OTHER) for w in walkers]
    spots = np.stack(
        [
            np.array([w.x, w.y]) + radius * metre * _RINGS
            for w, (radius, _) in zip(walkers, traits, strict=True)
        ]
    )
    ahead = np.stack([np.broadcast_to((w.vx * gap_s, w.vy * gap_s), spots.shape[1:]) for w in walkers])
    flat, guess = (a.reshape(-1, 2).astype(np.float32) for a in (spots, spots + ahead))
    moved, miss, good = _there_and_back(flat, guess, *pair)
    moved, miss, good = (
        moved.reshape(spots.shape),
        miss.reshape(spots.shape[:2]),
        good.reshape(spots.shape[:2]),
    )
    for k, walker in enumerate(walkers):
        _, fastest = moves(walker.leg.point)
        step = _common_step(moved[k] - spots[k], miss[k], good[k], 1.5 * fastest * metre * gap_s)
        if step is not None:
            shift, spread = step
            creep = traits[k][1] * metre * np.sqrt(gap_s)
            slot = walker.at if way > 0 else walker.at - 1
            steps[walker.leg][slot] = way * shift
            sigmas[walker.leg][slot] = np.sqrt(BEST_SIGMA_PX**2 + spread**2 + creep**2)
            walker.x += shift[0]
            walker.y += shift[1]
            walker.vx, walker.vy = shift / gap_s
        walker.at += way


def _common_step(
    moved: FloatArray, miss: FloatArray, good: NDArray[np.bool_], farthest: float
) -> tuple[FloatArray, float] | None:
    """The motion most of a cluster shares (2,) and its error (px), or None where too few agree.

    The largest group of spots that move alike is taken; an arm that crosses
    the joint makes a smaller group of its own.
    """
    believed = good & (miss < LOST_MISS_PX) & (np.linalg.norm(moved, axis=1) < farthest + 1.0)
    if believed.sum() < FEWEST:
        return None
    kept = moved[believed]
    apart = np.linalg.norm(kept[:, None] - kept[None], axis=2)
    alike = apart < ALIKE_PX + ALIKE_SHARE * np.linalg.norm(kept, axis=1)[:, None]
    # Of two groups of one size the slower is the body, the faster what passes before it.
    best = np.lexsort((np.linalg.norm(kept, axis=1), -alike.sum(axis=1)))[0]
    group = kept[alike[best]]
    if len(group) < FEWEST:
        return None
    scatter = float(np.sqrt(group.var(axis=0).mean()))
    return group.mean(axis=0), scatter / np.sqrt(len(group))


def _there_and_back(
    starts: NDArray[np.float32], guess: NDArray[np.float32], here: Picture, there: Picture
) -> tuple[NDArray[np.float32], FloatArray, NDArray[np.bool_]]:
    """End points (N, 2), forward-backward miss (N,) px, and whether both ways succeeded (N,)."""
    x0, y0, x1, y1 = _region(np.concatenate([starts, guess]), here.shape)
    corner = np.array([x0, y0], dtype=np.float32)
    a, b = np.ascontiguousarray(here[y0:y1, x0:x1]), np.ascontiguousarray(there[y0:y1, x0:x1])
    origin, aim = ((points - corner).reshape(-1, 1, 2) for points in (starts, guess))
    lk: dict[str, Any] = {"winSize": (WINDOW, WINDOW), "maxLevel": LEVELS, "criteria": _STOP}
    lk["flags"] = cv2.OPTFLOW_USE_INITIAL_FLOW
    moved, forth, _ = cv2.calcOpticalFlowPyrLK(a, b, origin, aim.copy(), **lk)
    back, home, _ = cv2.calcOpticalFlowPyrLK(b, a, moved, moved - aim + origin, **lk)
    miss = np.linalg.norm((back - origin).reshape(-1, 2).astype(float), axis=1)
    good = (forth.ravel() == 1) & (home.ravel() == 1) & np.isfinite(miss)
    return moved.reshape(-1, 2) + corner, miss, good


def _region(points: NDArray[np.float32], shape: tuple[int, ...]) -> tuple[int, int, int, int]:
    """The part of the picture that holds the points, their windows and a fast step."""
    height, width = shape[:2]
    margin = max(WINDOW * 2**LEVELS // 2, height // 8)
    low = np.floor(points.min(axis=0)).astype(int) - margin
    high = np.ceil(points.max(axis=0)).astype(int) + margin
    x0, y0 = np.clip(low, 0, (max(width - 64, 0), max(height - 64, 0)))
    x1, y1 = np.clip(high, (x0 + 64, y0 + 64), (max(width, x0 + 1), max(height, y0 + 1)))
    return int(x0), int(y0), int(x1), int(y1)
