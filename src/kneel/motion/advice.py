"""Where one more mark by hand would tell most about a number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model.swing import MARK_SIGMA_PX
from kneel.motion.analysis import Analysis
from kneel.motion.measures import REGISTRY

FloatArray = NDArray[np.float64]

WORTH_SHARE = 0.15
"""A mark that takes less than this share off the error is not worth asking for."""


@dataclass(frozen=True)
class Advice:
    """Mark ``point`` (lead/trail name) on ``frame``: the error goes from ``before`` to about ``after``.

    Errors are in the measure's own unit and hold at the checkpoint asked about.
    """

    point: str
    frame: int
    before: float
    after: float


def next_mark(analysis: Analysis, measure: str, checkpoint: str) -> Advice | None:
    """The mark that takes most off the error of a measure at a checkpoint, or None where none is worth it.

    The measure is taken as the mean of its points since address. With c the
    covariance of that difference with a coordinate at some frame, and v that
    coordinate's variance, a mark of variance m takes c²/(v + m) off (linear
    Gaussian update, as in a Kalman filter's gain).
    """
    if measure not in analysis.measures or not {"address", checkpoint} <= set(analysis.checkpoints):
        return None
    series = analysis.measures[measure]
    at, address = (round(analysis.checkpoints[name].frame) for name in (checkpoint, "address"))
    _, before = series.at(analysis.checkpoints[checkpoint])
    px_error = _px_error(analysis, measure, before)
    best: tuple[float, str, int] | None = None
    for point in REGISTRY[measure].needs:
        track = analysis.track(point)
        if track is None:
            return None
        share = 1.0 / len(REGISTRY[measure].needs)
        covariance = share * (track.covariance_with(at) - track.covariance_with(address))
        gain = covariance**2 / (track.sigma**2 + MARK_SIGMA_PX**2)
        frame = _handy(gain, (at, address))
        if best is None or gain[frame] > best[0]:
            best = float(gain[frame]), point, frame
    if best is None:
        return None
    left = max(px_error**2 - best[0], 0.0)
    after = before * float(np.sqrt(left) / px_error) if px_error > 0 else before
    if after > (1 - WORTH_SHARE) * before:
        return None
    return Advice(best[1], best[2], before, after)


def _px_error(analysis: Analysis, measure: str, error: float) -> float:
    """The error of a measure in pixels, its scale taken off."""
    scale = analysis.scale
    kind = REGISTRY[measure].kind
    return error / scale.per_px if kind == "length" and hasattr(scale, "per_px") else error


def _handy(gain: FloatArray, frames: tuple[int, int]) -> int:
    """The frame of the largest gain, or one of ``frames`` where it tells nearly as much."""
    best = int(np.argmax(gain))
    near = [f for f in frames if gain[f] >= 0.9 * gain[best]]
    return max(near, key=lambda f: gain[f]) if near else best
