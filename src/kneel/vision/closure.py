"""Marks as judges of what was followed: a leg that ends beside the next mark was wrong on its way."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

import numpy as np

from kneel.model import Links, Mark
from kneel.vision.plan import Leg

UNCHECKED = 3.0
"""How much less a leg that no mark ends at is believed."""


def closed(followed: Mapping[Leg, Links], marks: Iterable[Mark]) -> dict[str, list[Links]]:
    """Links by point, each leg's errors widened by how far it missed the mark at its end.

    A leg of n steps with standard errors s_k should end within sqrt(sum s_k^2)
    of the mark. Where it misses by more, the excess is spread over its steps.
    Legs that end at the clip's edge have no such judge: their errors are
    widened by :data:`UNCHECKED`, for what they may have been caught by.
    """
    placed = {(m.point, m.frame): m for m in marks}
    links: dict[str, list[Links]] = defaultdict(list)
    for leg, found in followed.items():
        end = placed.get((leg.point, leg.last))
        judged = (
            Links(found.step.copy(), UNCHECKED * found.sigma) if end is None else _widened(leg, found, end)
        )
        links[leg.point].append(judged)
    return links


def _widened(leg: Leg, found: Links, end: Mark) -> Links:
    part = slice(min(leg.first, leg.last), max(leg.first, leg.last))
    step, sigma = found.step[part], found.sigma[part]
    known = np.isfinite(sigma)
    if known.sum() < 0.9 * len(sigma) or not known.any():
        return found
    travelled = np.nansum(step, axis=0) * leg.step
    miss = float(np.hypot(*(np.array([leg.x, leg.y]) + travelled - (end.x, end.y))))
    expected = float(np.nansum(sigma**2)) + end.sigma**2
    excess = miss**2 / 2 - expected
    if excess <= 0:
        return found
    wider = found.sigma.copy()
    wider[part] = np.sqrt(sigma**2 + excess / known.sum())
    return Links(found.step.copy(), wider)
