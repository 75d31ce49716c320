"""Cross-examining what was followed: by the marks it should end at, and by the other way round."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Mark
from kneel.vision.plan import Leg

FloatArray = NDArray[np.float64]

UNCHECKED = 3.0
"""How much less a leg that no mark ends at is believed."""

FEWEST_SHARE = 0.4
"""With fewer of its steps known than this a leg cannot be held against the mark at its end."""

FAST_POINTS = ("grip", "clubhead", "ball", "left_wrist", "right_wrist")
"""Points that are themselves the fastest thing about: for all others the slower witness is believed."""

SLOWER_ERRS = 0.35
FASTER_ERRS = 1.5
"""How much of a disagreement between the two ways is put down to the slower and the faster of them."""


def closed(followed: Mapping[Leg, Links], marks: Iterable[Mark]) -> dict[str, list[Links]]:
    """Links by point, their errors widened by what speaks against them.

    A leg of n steps with standard errors s_k should end within sqrt(sum s_k^2)
    of the mark at its end, give or take what both marks are off by; where it
    misses by more, the excess is spread over its steps. A leg that ends at the
    clip's edge has no such judge and is widened by :data:`UNCHECKED`.
    Where the way forward and the way back over the same
    frames disagree on a step, something passed before the joint, most often an
    arm: the faster of the two is believed less.
    """
    placed = {(m.point, m.frame): m for m in marks}
    sigmas = {leg: _closed_sigma(leg, found, placed) for leg, found in followed.items()}
    pairs: dict[tuple[str, int, int], list[Leg]] = defaultdict(list)
    for leg in followed:
        pairs[leg.point, min(leg.first, leg.last), max(leg.first, leg.last)].append(leg)
    for legs in pairs.values():
        if len(legs) == 2:
            _reconcile(legs[0], legs[1], followed, sigmas)
    links: dict[str, list[Links]] = defaultdict(list)
    for leg, found in followed.items():
        links[leg.point].append(Links(found.step.copy(), sigmas[leg]))
    return links


def _closed_sigma(leg: Leg, found: Links, placed: Mapping[tuple[str, int], Mark]) -> FloatArray:
    start, end = (placed.get((leg.point, frame)) for frame in (leg.first, leg.last))
    if end is None:
        return UNCHECKED * found.sigma
    part = slice(min(leg.first, leg.last), max(leg.first, leg.last))
    wider = found.sigma.copy()
    step, sigma = found.step[part], found.sigma[part]
    known = np.isfinite(sigma)
    if known.sum() < FEWEST_SHARE * len(sigma):
        return UNCHECKED * found.sigma
    index = np.arange(len(sigma))
    filled = [np.interp(index, index[known], step[known, k]) for k in (0, 1)]
    travelled = np.sum(filled, axis=1) * leg.step
    miss = float(np.hypot(*(np.array([leg.x, leg.y]) + travelled - (end.x, end.y))))
    marks = end.sigma**2 + (start.sigma**2 if start else 0.0)
    excess = miss**2 / 2 - float(np.nansum(sigma**2)) - marks
    if excess > 0:
        wider[part] = np.sqrt(sigma**2 + excess / known.sum())
    return wider


def _reconcile(a: Leg, b: Leg, followed: Mapping[Leg, Links], sigmas: dict[Leg, FloatArray]) -> None:
    """Widen both witnesses of each step by their disagreement, the less credible one more."""
    one, two = followed[a].step, followed[b].step
    apart = np.linalg.norm(one - two, axis=1) / np.sqrt(2)
    doubt = np.where(np.isfinite(apart), apart, 0.0)
    slower = np.linalg.norm(one, axis=1) <= np.linalg.norm(two, axis=1)
    if a.point in FAST_POINTS:
        share_a = share_b = np.ones(len(doubt))
    else:
        share_a = np.where(slower, SLOWER_ERRS, FASTER_ERRS)
        share_b = np.where(slower, FASTER_ERRS, SLOWER_ERRS)
    sigmas[a] = np.hypot(sigmas[a], share_a * doubt)
    sigmas[b] = np.hypot(sigmas[b], share_b * doubt)
