"""Cloth, skin and tape: how surfaces are coloured, and how loose cloth lags behind the joint."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from kneel.sim.look import Colour, Weave
from kneel.sim.pose import Motion
from kneel.sim.surface import FloatArray, Paint

Wide = NDArray[np.float64]

TILE = 256
LAG_S = 0.05
"""Cloth follows the joint this much later."""

PRINTS_A_RING, PRINTS_ROUND = 0.8, 9
"""Stripes from one ring of a loft to the next, and checks round it."""

CLOTHED = ("lead_hip", "trail_hip", "lead_knee", "trail_knee")


@cache
def _tile(seed: int) -> FloatArray:
    """Smooth noise, -1..1 about, that repeats at its edges."""
    noise = np.random.default_rng(seed).normal(0, 1, (TILE, TILE))
    fine, broad = gaussian_filter(noise, 1.1, mode="wrap"), gaussian_filter(noise, 5.0, mode="wrap")
    mixed = fine / fine.std() + 0.8 * broad / broad.std()
    return (mixed / 3.0).astype(np.float32)


def woven(colour: Colour, seed: int, strength: float = 0.07) -> Paint:
    """Cloth of one colour with a weave and folds that belong to it."""
    base, tile = np.array(colour, np.float32), _tile(seed)

    def paint(along: FloatArray, angle: FloatArray) -> FloatArray:
        return np.asarray(base * (1 + strength * _noise(tile, along, angle))[:, None], np.float32)

    return paint


def printed(colour: Colour, seed: int, weave: Weave) -> Paint:
    """Cloth with what is printed on it: stripes round the limb, or checks."""
    if weave is Weave.PLAIN:
        return woven(colour, seed)
    ground = woven(colour, seed)
    red, green, blue = (int(0.55 * v) + (90 if max(colour) < 110 else 0) for v in colour)
    other = woven((red, green, blue), seed + 1)

    def paint(along: FloatArray, angle: FloatArray) -> FloatArray:
        dark = np.sin(2 * np.pi * PRINTS_A_RING * along) > 0.35
        if weave is Weave.CHECKS:
            dark ^= np.sin(PRINTS_ROUND * angle) > 0
        return np.where(dark[:, None], other(along, angle), ground(along, angle))

    return paint


def _noise(tile: FloatArray, along: FloatArray, angle: FloatArray) -> FloatArray:
    row = (along * 14).astype(np.int64) % TILE
    column = (angle * (TILE / (2 * np.pi))).astype(np.int64) % TILE
    return tile[row, column]


def plain(colour: Colour, seed: int = 99) -> Paint:
    """Skin, leather, steel: one colour, hardly any grain."""
    return woven(colour, seed, 0.025)


def banded(paints: tuple[tuple[float, Paint], ...]) -> Paint:
    """Different paints along a loft: each holds up to its ring number."""

    def paint(along: FloatArray, angle: FloatArray) -> FloatArray:
        out = np.empty((len(along), 3), np.float32)
        start = -np.inf
        for end, part in paints:
            inside = (along >= start) & (along < end)
            out[inside] = part(along[inside], angle[inside])
            start = end
        return out

    return paint


def lag(motion: Motion, times_s: Wide) -> dict[str, Wide]:
    """How far the cloth over hips and knees is off the joint, (T, 3) cm each.

    It hangs where the joint was a moment ago, never farther than the look's
    ``loose_cm``.
    """
    loose = motion.golfer.look.loose_cm
    if not loose:
        return {name: np.zeros((len(times_s), 3)) for name in CLOTHED}
    now, then = motion.pose(times_s).joints, motion.pose(times_s - LAG_S).joints
    off = {name: then[name] - now[name] for name in CLOTHED}
    return {
        name: loose * xyz / (loose + np.linalg.norm(xyz, axis=1, keepdims=True)) for name, xyz in off.items()
    }
