"""Limbs keep their length: what a picture shows of one may be shorter, hardly longer.

A picture shows a limb at most as long as it is, times how much nearer the
camera it hangs than usual. Where a solved limb is longer than the longest
credible one of either side, its two ends share the excess: each moves along
the limb, and no other way, by its own variance's share in that of the excess
(its own, its neighbour's, and that of the limit, which is known no better in
a hundred frames than in one). This is the update of two scalars by one
one-sided measurement, frame by frame (Kalman 1960); since what is wrong with
a limb lasts, no error gets smaller by it: a length tells where the error
lies, it is no new sight of the joint. Where the excess is more than the
stated errors can be, these were too small and are widened until it is twice
what they make likely (Birge 1932, "The calculation of errors by the method of
least squares").
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.pairing import solve_pairs
from kneel.motion.track import PointData, Track

FloatArray = NDArray[np.float64]

LIMBS: Final = (("hip", "knee"), ("knee", "ankle"), ("shoulder", "elbow"), ("elbow", "wrist"))

SURE_PERCENTILE, LONGEST_PERCENTILE = 50, 95
"""Of the surer half of the frames nearly the longest is taken: the limb lies across the view there."""

NEARER = 1.10
"""A leg 0.4 m nearer a camera 4 m away looks a tenth longer."""

LIMIT_SHARE = 0.04
"""How well the limit is known, as a share of it; the same in every frame."""

LIKELY = 2.0
"""An excess of more than so many of its own errors says that these are too small."""

ROUNDS = 3
"""Neighbouring limbs share a joint: a few rounds let the excess run along the chain."""


def solve_body(
    times_s: FloatArray, points: Mapping[str, PointData], view: View = View.FACE_ON
) -> dict[str, Track]:
    """Solve all points as :func:`solve_pairs` does, and mend limbs that came out too long.

    ``times_s`` (T,) are real seconds, ``view`` is where the camera stands. Where no limb
    is too long the answer is that of :func:`solve_pairs`, at no more cost.

    >>> from kneel.motion.example import example
    >>> tracks = solve_body(example().times_s, example().points)
    >>> tracks["left_ankle"].xy[0].round().tolist()
    [706.0, 636.0]
    """
    return mended(solve_pairs(times_s, points, view))


def mended(tracks: Mapping[str, Track]) -> dict[str, Track]:
    """The same tracks, limbs longer than they can be brought to length, no error made smaller.

    >>> from kneel.motion.example import example
    >>> sorted(mended(example().tracks)) == sorted(example().tracks)
    True
    """
    limits = _limits(tracks)
    out = dict(tracks)
    for _ in range(ROUNDS if limits else 0):
        for (a, b), most in limits.items():
            shift = _shifts(out[a], out[b], most)
            if shift is None:
                continue
            moved_a, moved_b, times = shift
            out[a] = replace(out[a], xy=out[a].xy + moved_a, sigma=out[a].sigma * times)
            out[b] = replace(out[b], xy=out[b].xy + moved_b, sigma=out[b].sigma * times)
    return out


def _limits(tracks: Mapping[str, Track]) -> dict[tuple[str, str], float]:
    """The longest that each limb can look, px, by its two ends."""
    out = {}
    for upper, lower in LIMBS:
        pairs = [
            (a, b)
            for side in ("left", "right")
            if (a := f"{side}_{upper}") in tracks and (b := f"{side}_{lower}") in tracks
        ]
        known = [length for a, b in pairs if np.isfinite(length := _longest(tracks[a], tracks[b]))]
        for pair in pairs:
            # Both sides are alike, and one may be bent throughout: the longer tells more.
            out[pair] = NEARER * max(known)
    return out


def _longest(a: Track, b: Track) -> float:
    length, sigma = np.linalg.norm(a.xy - b.xy, axis=1), np.hypot(a.sigma, b.sigma)
    sure = sigma <= np.percentile(sigma, SURE_PERCENTILE)
    return float(np.percentile(length[sure], LONGEST_PERCENTILE))


def _shifts(a: Track, b: Track, most: float) -> tuple[FloatArray, FloatArray, FloatArray] | None:
    """How far each end moves, (T, 2) px each, and how many times too small their errors are, (T,).

    None where the limb is nowhere too long.
    """
    apart = b.xy - a.xy
    length = np.linalg.norm(apart, axis=1)
    excess = np.maximum(length - most, 0.0)
    if not excess.any():
        return None
    along = apart / np.maximum(length, 1e-6)[:, None]
    limit, ends = (LIMIT_SHARE * most) ** 2, a.sigma**2 + b.sigma**2
    needed = np.maximum((excess / LIKELY) ** 2 - limit, ends)
    share = (excess / (needed + limit) * needed / ends)[:, None] * along
    return a.sigma[:, None] ** 2 * share, -(b.sigma[:, None] ** 2) * share, np.sqrt(needed / ends)
