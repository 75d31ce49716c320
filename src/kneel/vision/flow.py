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
from kneel.vision.plan import Leg, span

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

# Per joint: radius of the cluster (m); how far cloth and skin wander from the joint
# within a second, as a random walk (m): the front of a hip slides some 7 cm off its
# joint in a full turn (half a pelvis' depth times the sine of 45 degrees), and what
# lies over a shoulder joint changes altogether as the arm is lifted; and how far
# its speed usually strays (m/s) from the mean speed to the next mark, which
# tells a hip from an arm that passes before it.
_TRAITS: Final = {
    "hip": (0.075, 0.045, 0.35),
    "shoulder": (0.045, 0.130, 0.9),
    "knee": (0.045, 0.025, 0.5),
    "ankle": (0.030, 0.018, 0.4),
    "head": (0.060, 0.050, 0.3),
    "elbow": (0.030, 0.025, 3.0),
    "grip": (0.025, 0.025, np.inf),
    "wrist": (0.025, 0.025, np.inf),
    "heel": (0.025, 0.015, 0.6),
    "toe": (0.025, 0.012, 0.3),
    "clubhead": (0.030, 0.040, np.inf),
    "ball": (0.015, 0.002, np.inf),
}
_OTHER: Final = (0.05, 0.03, 0.5)

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
    blind_s: float = 0.0
    lost: bool = False

    @property
    def done(self) -> bool:
        return self.lost or self.at == self.leg.last

    def due(self) -> tuple[float, float]:
        """The step per frame that leads to the mark at the end; none where there is no such mark."""
        left = abs(self.leg.last - self.at)
        if self.leg.end is None or left == 0:
            return 0.0, 0.0
        return (self.leg.end[0] - self.x) / left, (self.leg.end[1] - self.y) / left


def follow(
    legs: Sequence[Leg],
    luma: Callable[[int], Picture],
    times_s: FloatArray,
    *,
    px_per_m: float,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> dict[Leg, Links]:
    """Follow every leg through the clip.

    ``luma(n)`` gives the brightness (H, W) uint8 of frame ``n``; it is asked
    once in rising order for the forward legs and once in falling order for
    the backward ones. A leg that finds nothing to follow for as long as its
    point may take to leave the cluster ends there: what lies at the old place
    is something else. ``times_s`` (T,) are real seconds, ``px_per_m`` is a rough
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
        for frame in span([w.leg for w in walkers], way):
            if stopped():
                break
            here = [w for w in walkers if w.at == frame and not w.done]
            if not here:
                continue
            gap = abs(float(times_s[frame + way] - times_s[frame]))
            _advance(here, (luma(frame), luma(frame + way)), way, gap, px_per_m, steps, sigmas)
            done += len(here)
            progress(done, total)
    return {leg: Links(steps[leg], sigmas[leg]) for leg in legs}


def _advance(
    walkers: Sequence[_Walker],
    pair: tuple[Picture, Picture],
    way: int,
    gap_s: float,
    px_per_m: float,
    steps: dict[Leg, FloatArray],
    sigmas: dict[Leg, FloatArray],
) -> None:
    """Take every walker one frame on and note the step in the direction of time."""
    traits = [_TRAITS.get(w.leg.point.rsplit("_", 1)[-1], _OTHER) for w in walkers]
    spots = np.stack(
        [np.array([w.x, w.y]) + t[0] * px_per_m * _RINGS for w, t in zip(walkers, traits, strict=True)]
    )
    ahead = np.stack([np.broadcast_to((w.vx * gap_s, w.vy * gap_s), spots.shape[1:]) for w in walkers])
    flat, guess = (a.reshape(-1, 2).astype(np.float32) for a in (spots, spots + ahead))
    moved, miss, good = _there_and_back(flat, guess, *pair)
    shape = spots.shape[:2]
    moved, miss, good = moved.reshape(spots.shape), miss.reshape(shape), good.reshape(shape)
    for k, walker in enumerate(walkers):
        _, fastest = moves(walker.leg.point)
        far = np.linalg.norm(moved[k] - spots[k], axis=1) > 1.5 * fastest * px_per_m * gap_s + 1.0
        believed = good[k] & (miss[k] < LOST_MISS_PX) & ~far
        stray = traits[k][2] * px_per_m * gap_s
        step = _common_step((moved[k] - spots[k])[believed], np.array(walker.due()), stray)
        if step is not None:
            shift, spread = step
            creep = traits[k][1] * px_per_m * np.sqrt(gap_s)
            slot = walker.at if way > 0 else walker.at - 1
            steps[walker.leg][slot] = way * shift
            sigmas[walker.leg][slot] = np.sqrt(BEST_SIGMA_PX**2 + spread**2 + creep**2)
            walker.x += shift[0]
            walker.y += shift[1]
            walker.vx, walker.vy = shift / gap_s
            walker.blind_s = 0.0
        else:
            walker.blind_s += gap_s
            walker.lost = walker.blind_s * fastest > traits[k][0]
        walker.at += way


def _common_step(kept: FloatArray, due: FloatArray, stray: float) -> tuple[FloatArray, float] | None:
    """The motion most of a cluster shares (2,) and its error (px), or None where too few agree.

    ``kept`` (N, 2) are the steps of the believed spots. Of the groups that
    move alike the largest is taken, a group counting less the farther its step
    lies from the one ``due`` (2,), in units of ``stray`` px: an arm that
    crosses the joint makes a group of its own, and a faster one.
    """
    if len(kept) < FEWEST:
        return None
    apart = np.linalg.norm(kept[:, None] - kept[None], axis=2)
    alike = apart < ALIKE_PX + ALIKE_SHARE * np.linalg.norm(kept, axis=1)[:, None]
    off = np.linalg.norm(kept - due, axis=1) / stray
    credit = alike.sum(axis=1) / (1 + off**2)
    enough = alike.sum(axis=1) >= FEWEST
    if not enough.any():
        return None
    group = kept[alike[int(np.argmax(np.where(enough, credit, -1.0)))]]
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
    # On the pyramid's own grid, so that a point's step does not hang on what else is followed.
    x0, y0 = x0 - x0 % 2**LEVELS, y0 - y0 % 2**LEVELS
    x1, y1 = np.clip(high, (x0 + 64, y0 + 64), (max(width, x0 + 1), max(height, y0 + 1)))
    return int(x0), int(y0), int(x1), int(y1)
