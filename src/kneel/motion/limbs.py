"""Limbs keep their length: what a picture shows of one may be shorter, never longer.

A joint seen too far from its neighbour is wrong by at least what is too much.
After a first solve each limb's longest credible length is read off the frames
in which both its ends are sure; where the path makes it longer, the less sure
end gets a weak sighting at that length, and the paths are solved again. This
is the active-set form of a one-sided quadratic penalty on the length,
linearised along the limb (Gauss-Newton).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Sighting
from kneel.motion.track import PointData, Track, solve_tracks

FloatArray = NDArray[np.float64]

LIMBS: Final = (("hip", "knee"), ("knee", "ankle"), ("shoulder", "elbow"), ("elbow", "wrist"))

SURE_PERCENTILE, LONGEST_PERCENTILE = 50, 95
"""Of the surer half of the frames nearly the longest is taken: the limb lies across the view there."""

SLACK = 1.06
"""A limb nearer the camera looks longer, and its ends are never marked quite alike (common practice)."""

WEAK_SHARE = 0.03
"""Error of a sighting made from a length, as a share of it."""

WORTH_SIGMAS = 2.0
"""Lengths that are too long by less than so many of their own errors are left alone."""

ROUNDS = 2


def solve_body(times_s: FloatArray, points: Mapping[str, PointData]) -> dict[str, Track]:
    """Solve all points as :func:`solve_tracks` does, and mend limbs that came out too long.

    ``times_s`` (T,) are real seconds. Where no limb is too long the answer is
    that of :func:`solve_tracks`, at no more cost.
    """
    tracks = solve_tracks(times_s, points)
    mended = dict(points)
    for _ in range(ROUNDS):
        wanted = _too_long(tracks)
        if not wanted:
            break
        for name, sighting in wanted.items():
            mended[name] = replace(points[name], sightings=(*points[name].sightings, sighting))
        tracks = solve_tracks(times_s, mended)
    return tracks


def _too_long(tracks: Mapping[str, Track]) -> dict[str, Sighting]:
    """Weak sightings for the less sure ends of limbs that are too long, by point."""
    pulls: dict[str, list[tuple[FloatArray, FloatArray]]] = {}
    for upper, lower in LIMBS:
        pairs = [
            (a, b)
            for side in ("left", "right")
            if (a := f"{side}_{upper}") in tracks and (b := f"{side}_{lower}") in tracks
        ]
        known = [length for a, b in pairs if np.isfinite(length := _longest(tracks[a], tracks[b]))]
        if not known:
            continue
        # Both sides are alike: the shorter estimate is as good as the longer.
        most = SLACK * float(np.mean(known))
        for pair in pairs:
            for name, place in _pulled(tracks, pair, most):
                pulls.setdefault(name, []).append((place, np.full(len(place), WEAK_SHARE * most)))
    out = {}
    for name, found in pulls.items():
        xy, sigma = found[0]
        for other, its in found[1:]:
            use = np.isnan(xy[:, 0]) & np.isfinite(other[:, 0])
            xy, sigma = np.where(use[:, None], other, xy), np.where(use, its, sigma)
        out[name] = Sighting(xy, np.where(np.isfinite(xy[:, 0]), sigma, np.nan))
    return out


def _length(a: Track, b: Track) -> tuple[FloatArray, FloatArray]:
    """The limb's length in every frame and its standard error, (T,) px."""
    return np.linalg.norm(a.xy - b.xy, axis=1), np.hypot(a.sigma, b.sigma)


def _longest(a: Track, b: Track) -> float:
    length, sigma = _length(a, b)
    sure = sigma <= np.percentile(sigma, SURE_PERCENTILE)
    return float(np.percentile(length[sure], LONGEST_PERCENTILE))


def _pulled(tracks: Mapping[str, Track], pair: tuple[str, str], most: float) -> list[tuple[str, FloatArray]]:
    """Where the less sure end of a limb would lie were it no longer than ``most``, NaN where it is not."""
    a, b = (tracks[name] for name in pair)
    length, _ = _length(a, b)
    excess = length - most
    worth = excess > np.maximum(WORTH_SIGMAS * np.minimum(a.sigma, b.sigma), WEAK_SHARE * most)
    if not worth.any():
        return []
    way = (b.xy - a.xy) / np.maximum(length, 1e-6)[:, None]
    first = a.sigma > b.sigma
    out = []
    for name, own, place in (
        (pair[0], worth & first, b.xy - most * way),
        (pair[1], worth & ~first, a.xy + most * way),
    ):
        if own.any():
            out.append((name, np.where(own[:, None], place, np.nan)))
    return out
