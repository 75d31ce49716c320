"""Feet as witnesses of the camera: one of them stands at any time, so what both do the camera does."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from kneel.model import CameraPath
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

FEET = ("left_ankle", "right_ankle")

FRAMES = 7
"""Places of feet are taken as the median of so many frames: single ones are found beside the foot."""

SLIDES_M, SLIDES_SIGMAS = 0.03, 3.0
"""Feet that both go farther than this, and than so many of their errors, slide with the picture (until the
strike both go 0.01 to 0.025 m in pictures from a stand: 60 drawn clips)."""


def way_of_both(feet: FloatArray, first: int) -> FloatArray | None:
    """How far the foot that goes less has gone since frame ``first``, (T,) px, of ``feet`` (N, T, 2), NaN
    where not known; None where none is known.

    >>> stays, steps = np.zeros((9, 2)), np.stack([np.arange(9.0), np.zeros(9)], axis=1)
    >>> way_of_both(np.stack([stays, steps]), 0).max().item(), way_of_both(np.stack([steps]), 0).max().item()
    (0.0, 8.0)
    """
    ways = []
    for xy in feet:
        known = np.flatnonzero(np.isfinite(xy).all(axis=1))
        if len(known):
            whole = np.stack([np.interp(np.arange(len(xy)), known, xy[known, k]) for k in (0, 1)], axis=1)
            padded = np.pad(whole, ((FRAMES // 2, FRAMES // 2), (0, 0)), mode="edge")
            places = np.median(sliding_window_view(padded, FRAMES, axis=0), axis=-1)
            ways.append(np.linalg.norm(places - places[first], axis=1))
    return np.min(ways, axis=0) if ways else None


def doubted(
    camera: CameraPath | None,
    tracks: Mapping[str, Track],
    checkpoints: Mapping[str, Checkpoint],
    px_per_m: float,
) -> CameraPath | None:
    """A camera's path as unsure as feet slide from address to impact once its motion is taken out of them; as
    it is where they stand, or where it stood.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> still = CameraPath(np.tile(np.eye(2, 3), (120, 1, 1)), np.zeros(120))
    >>> doubted(still, study.tracks, study.checkpoints, study.px_per_m) is still
    True
    """
    feet = [tracks[name] for name in FEET if name in tracks]
    if camera is None or len(feet) < len(FEET) or not {"address", "impact"} <= set(checkpoints):
        return camera
    first, last = (checkpoints[name].shown for name in ("address", "impact"))
    if camera.untold:
        # As below: after the strike feet go by themselves.
        return replace(camera, sigma=np.minimum(camera.sigma, camera.sigma[: last + 1].max()))
    way = way_of_both(np.stack([foot.xy for foot in feet]), first)
    assert way is not None
    unsure = np.hypot(camera.sigma, np.min([_moved_sigma(foot, first) for foot in feet], axis=0))
    standing = slice(first, last + 1)
    slides = (way > SLIDES_M * px_per_m) & (way > SLIDES_SIGMAS * unsure)
    if not slides[standing].any():
        return camera
    # After the strike feet turn and lift: what they did until then stands for it.
    off = np.where(np.arange(len(way)) > last, way[standing].max(), way)
    return replace(camera, sigma=np.hypot(camera.sigma, off))


def _moved_sigma(foot: Track, first: int) -> FloatArray:
    """Standard error of how far a foot has gone since a frame, (T,) px."""
    together = foot.covariance_with(first)
    return np.asarray(np.sqrt(np.maximum(foot.sigma**2 + foot.sigma[first] ** 2 - 2 * together, 0.0)))
