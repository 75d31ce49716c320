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
LEVELS, LEVELS_SLOW, SLOW_PX = 3, 2, 25.0
"""What moves no farther than so many px a frame needs fewer levels of the pyramid and less of the picture."""

BEST_SIGMA_PX = 0.12
"""Error of one step on well-textured cloth, from warped photographs (see docs/accuracy.md)."""

LOST_MISS_PX = 1.5
"""A spot whose way back misses its start by more is not believed."""

ALIKE_PX = 0.35
ALIKE_SHARE = 0.12
"""Two spots move alike when their steps differ by no more than this, plus this share of the step."""

EDGE_PX, MOST_REACH_PX = 14, 260
"""How far a pyramid carries a patch's edge inward, and half the largest patch looked at."""

LEAST_SPEED_SHARE = 0.2
"""A point out of sight may gather this share of its top speed."""

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
    for walker in walkers:
        radius, creeps, strays = _TRAITS.get(walker.leg.point.rsplit("_", 1)[-1], _OTHER)
        _, fastest = moves(walker.leg.point)
        place = np.array([walker.x, walker.y])
        spots = place + radius * px_per_m * _RINGS
        reach = 1.5 * fastest * px_per_m * gap_s + 1.0
        levels = LEVELS_SLOW if reach < SLOW_PX else LEVELS
        patch = _patch(place, radius * px_per_m + reach, levels, pair[0].shape)
        ahead = np.array([walker.vx, walker.vy]) * gap_s
        moved, miss, good = _there_and_back(spots, ahead, patch, levels, *pair)
        believed = good & (miss < LOST_MISS_PX) & (np.linalg.norm(moved - spots, axis=1) <= reach)
        stray = strays * px_per_m * gap_s
        step = _common_step((moved - spots)[believed], np.array(walker.due()), stray)
        if step is not None:
            shift, spread = step
            creep = creeps * px_per_m * np.sqrt(gap_s)
            slot = walker.at if way > 0 else walker.at - 1
            steps[walker.leg][slot] = way * shift
            sigmas[walker.leg][slot] = np.sqrt(BEST_SIGMA_PX**2 + spread**2 + creep**2)
            walker.x += shift[0]
            walker.y += shift[1]
            walker.vx, walker.vy = shift / gap_s
            walker.blind_s = 0.0
        else:
            walker.blind_s += gap_s
            speed = float(np.hypot(walker.vx, walker.vy)) / px_per_m
            walker.lost = walker.blind_s * max(speed, LEAST_SPEED_SHARE * fastest) > radius
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
    spots: FloatArray, ahead: FloatArray, patch: _Patch, levels: int, here: Picture, there: Picture
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """End points (N, 2), forward-backward miss (N,) px, and whether both ways succeeded (N,)."""
    x0, y0, x1, y1 = patch
    corner = np.array([x0, y0])
    a, b = np.ascontiguousarray(here[y0:y1, x0:x1]), np.ascontiguousarray(there[y0:y1, x0:x1])
    origin, aim = ((at - corner).astype(np.float32).reshape(-1, 1, 2) for at in (spots, spots + ahead))
    lk: dict[str, Any] = {"winSize": (WINDOW, WINDOW), "maxLevel": levels, "criteria": _STOP}
    lk["flags"] = cv2.OPTFLOW_USE_INITIAL_FLOW
    moved, forth, _ = cv2.calcOpticalFlowPyrLK(a, b, origin, aim.copy(), **lk)
    back, home, _ = cv2.calcOpticalFlowPyrLK(b, a, moved, moved - aim + origin, **lk)
    miss = np.linalg.norm((back - origin).reshape(-1, 2).astype(float), axis=1)
    good = (forth.ravel() == 1) & (home.ravel() == 1) & np.isfinite(miss)
    return moved.reshape(-1, 2).astype(float) + corner, miss, good


_Patch = tuple[int, int, int, int]


def _patch(place: FloatArray, reach: float, levels: int, shape: tuple[int, ...]) -> _Patch:
    """The part of the picture that one walker needs: its spots, their windows and a fast step.

    It hangs on nothing but the walker, so that a leg's steps are the same
    whatever else is followed.
    """
    height, width = shape[:2]
    size = min(round(reach) + WINDOW * 2**levels // 2 + EDGE_PX, MOST_REACH_PX)
    low = np.floor(place).astype(int) - size
    x0, y0 = (int(v) for v in np.clip(low, 0, (max(width - 64, 0), max(height - 64, 0))))
    x1, y1 = (
        int(v) for v in np.clip(low + 2 * size + 1, (x0 + 64, y0 + 64), (max(width, 1), max(height, 1)))
    )
    return x0, y0, x1, y1
