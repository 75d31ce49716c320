"""Which frames are worth looking at: every one where the hands are quick, few elsewhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.looks import Landmarks

FloatArray = NDArray[np.float64]

MOST_LOOKS_PER_S, BETWEEN_PER_S = 125.0, 40.0
"""At most so many looks a second where the hands are quick, and about so many elsewhere: flow carries on
between them. The first, coarse look is at every other one of these."""

SIDES_APART = 0.07
"""Left and right are apart in the picture from this share of the body's height on."""

QUICK, BEFORE_S, AFTER_S = 0.6, 0.30, 0.10
"""Hands so quick, of the quickest, are coming down: a downswing lasts 0.25 to 0.33 s (common practice, no
source), so that the top lies within so long before and impact within so long after."""


def stride(times_s: FloatArray) -> int:
    """Every which frame is looked at where the hands are quick; ``times_s`` (T,)."""
    if len(times_s) < 2:
        return 1
    rate = 1 / float(np.median(np.diff(times_s)))
    return max(1, round(rate / MOST_LOOKS_PER_S))


def some_of(times_s: FloatArray, frames: NDArray[np.int64]) -> NDArray[np.int64]:
    """Some of the frames, evenly: those looked at where nothing is quick."""
    if len(frames) < 2:
        return frames
    step = float(np.median(np.diff(times_s[frames])))
    return frames[:: max(round(1 / (BETWEEN_PER_S * step)), 1)]


def worth_looking(coarse: Landmarks, frames: NDArray[np.int64], times_s: FloatArray) -> NDArray[np.int64]:
    """Which of ``frames`` (N,) to look at, by a coarse look at the whole: all of them where the hands are
    quick, from before the top to past impact, and between these as many as flow can carry on from. All of
    them where the hands are not seen, and where the network takes a front for a back: which is which is told
    by how little joints move from one look to the next.
    """
    seen = np.flatnonzero(coarse.seen)
    if seen.size < 3 or _turns_about(coarse.xy[seen], coarse.height_px):
        return frames
    at = times_s[coarse.frames[seen]]
    hands = coarse.xy[seen, 15:17].mean(axis=1)
    speed = np.linalg.norm(np.diff(hands, axis=0), axis=1) / np.diff(at)
    quick = (at[:-1] + at[1:])[speed >= QUICK * speed.max()] / 2
    near = np.zeros(len(frames), dtype=bool)
    for moment in quick:
        near |= (times_s[frames] > moment - BEFORE_S) & (times_s[frames] < moment + AFTER_S)
    return np.union1d(frames[near], some_of(times_s, frames))


def _turns_about(xy: FloatArray, height_px: float) -> bool:
    """Whether shoulders and hips change sides from one look to the next, which no body does."""
    apart = np.stack([xy[:, right, 0] - xy[:, left, 0] for left, right in ((11, 12), (23, 24))])
    plain = np.abs(apart) > SIDES_APART * height_px
    turned = plain[:, 1:] & plain[:, :-1] & (np.sign(apart[:, 1:]) != np.sign(apart[:, :-1]))
    return bool(turned.all(axis=0).any())
