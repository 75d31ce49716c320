"""From rows of a points file, or marks by hand, to what the solver takes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Mark, PointRows, Sighting
from kneel.motion.body import LEG, NOMINAL_STATURE_CM, moves, rough_px_per_m
from kneel.motion.signal import white_sigma
from kneel.motion.track import PointData

FloatArray = NDArray[np.float64]

UNSTATED_LASTING = 0.01
"""Lasting error of a point whose file states none, as a share of leg length (common practice, no source)."""

SMALLEST_WHITE_PX = 0.1

CLEARLY_MORE = 1.3
"""Jitter that is so many times what a file states is more than it states."""

MEASURED_SPREAD = 1.5
"""Relative spread of jitter that is read off N third differences, times the root of N (by simulation)."""

TOP_SIGMAS = 3.0
"""A usual top speed is so many times the speed in the long run, as of a normal velocity."""


def from_rows(rows: PointRows, *, height_px: float | None = None) -> dict[str, PointData]:
    """Make the points of a file ready for the solver.

    A file's sigma is split in two: what shows as noise from frame to frame,
    which smoothing reduces, and the rest, which is taken to last. Where the
    file is silent the noise is measured and a lasting error of 1 % of the
    leg's length is supposed; where it states less than what shows, that counts.

    >>> silent = np.full(9, np.nan)
    >>> rows = PointRows(np.arange(9), np.arange(9) / 60, {"ball": np.ones((9, 2))}, {"ball": silent})
    >>> points = from_rows(rows, height_px=720.0)
    >>> points["ball"].sightings[0].xy.shape
    (9, 2)
    """
    px_per_m = rough_px_per_m(rows.xy, height_px=height_px)
    unstated = UNSTATED_LASTING * LEG * NOMINAL_STATURE_CM / 100 * px_per_m
    points = {}
    for name, xy in rows.xy.items():
        noise = white_sigma(xy)
        stated = rows.sigma[name]
        white = np.where(np.isfinite(stated), stated, noise if np.isfinite(noise) else 0.5 * unstated)
        lasting = np.where(np.isfinite(stated), 0.0, unstated)
        if np.isfinite(noise):
            usual = float(np.median(stated[np.isfinite(stated)])) if np.isfinite(stated).any() else noise
            # What jitters more than its file says is believed to: the file is wrong about itself.
            stated = stated * noise / usual if noise > CLEARLY_MORE * usual else stated
            # Only what is clearly less jitter than stated leaves something that lasts.
            most = noise * (1 + 2 * MEASURED_SPREAD / np.sqrt(np.isfinite(xy).sum()))
            white = np.where(np.isfinite(stated), np.minimum(stated, most), white)
            rest = np.sqrt(np.maximum(stated**2 - white**2, 0.0))
            lasting = np.where(np.isfinite(stated), rest, unstated)
        white = np.maximum(white, SMALLEST_WHITE_PX)
        filled = _fill(np.where(np.isfinite(xy[:, 0]), lasting, np.nan))
        points[name] = _data(name, (Sighting(xy.copy(), white, filled),), (), px_per_m)
    return points


def from_marks(
    marks: Iterable[Mark],
    frames: int,
    links: Mapping[str, Sequence[Links]],
    *,
    height_px: float | None = None,
    px_per_m: float | None = None,
    sightings: Mapping[str, Sequence[Sighting]] | None = None,
) -> dict[str, PointData]:
    """Make hand-placed marks, and what was seen and followed, ready for the solver.

    ``frames`` is the number T of frames of the clip; marks outside it are
    left out. ``links`` maps a point to what was followed for it, ``sightings``
    to where other sources saw it. ``px_per_m`` is a rough picture scale; where
    it is not given it is read off the points, else off the picture's ``height_px``.

    >>> points = from_marks([Mark("head", 3, 10.0, 20.0)], 8, {}, px_per_m=300.0)
    >>> points["head"].sightings[0].xy[3].tolist()
    [10.0, 20.0]
    """
    seen = sightings or {}
    placed: dict[str, tuple[FloatArray, FloatArray]] = {}
    for mark in marks:
        if not 0 <= mark.frame < frames:
            continue
        if mark.point not in placed:
            placed[mark.point] = (np.full((frames, 2), np.nan), np.full(frames, np.nan))
        xy, sigma = placed[mark.point]
        xy[mark.frame] = (mark.x, mark.y)
        sigma[mark.frame] = mark.sigma
    rough = {name: entries[0].xy for name, entries in seen.items() if entries}
    rough |= {name: xy for name, (xy, _) in placed.items() if name not in rough}
    px_per_m = px_per_m or rough_px_per_m(rough, height_px=height_px)
    by_hand = {name: (Sighting(xy, sigma, by_hand=True),) for name, (xy, sigma) in placed.items()}
    return {
        name: _data(name, (*by_hand.get(name, ()), *seen.get(name, ())), links.get(name, ()), px_per_m)
        for name in (*placed, *(n for n in seen if n not in placed))
    }


def _data(name: str, sightings: Sequence[Sighting], links: Sequence[Links], px_per_m: float) -> PointData:
    restless, fastest = moves(name)
    long_run = fastest / TOP_SIGMAS
    return PointData(sightings, links, restless * px_per_m, long_run * px_per_m)


def _fill(values: FloatArray) -> FloatArray:
    """Carry known values across gaps, (T,)."""
    known = np.flatnonzero(np.isfinite(values))
    if known.size == 0:
        return np.zeros_like(values)
    return np.interp(np.arange(len(values)), known, values[known])
