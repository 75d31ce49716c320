"""Where one more mark by hand would tell most about a number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.analysis import Analysis
from kneel.motion.measures import REGISTRY
from kneel.motion.track import Track

WORTH_SHARE = 0.07
"""A mark that takes less than this share off the error is not worth asking for."""


@dataclass(frozen=True)
class Advice:
    """Mark ``point`` (lead/trail name) on ``frames``: the error goes from ``before`` to about ``after``.

    Errors are in the measure's own unit and hold at the checkpoint asked about.
    """

    point: str
    frames: tuple[int, ...]
    before: float
    after: float

    @property
    def frame(self) -> int:
        """Where to begin."""
        return self.frames[0]


def next_mark(analysis: Analysis, measure: str, checkpoint: str) -> Advice | None:
    """The mark, or two of one point, that take most off the error of a measure at a checkpoint.

    None where nothing is worth it. The measure is taken as the mean of its
    points since address. With c the covariances of that difference with
    coordinates at some frames, V those coordinates' covariance and m a mark's
    variance, marks take c' (V + m)^-1 c off (linear Gaussian update, as in a
    Kalman filter's gain). What lies off through the whole clip cancels in a
    difference, so that often only marks at both its ends tell something.
    """
    if measure not in analysis.measures or not {"address", checkpoint} <= set(analysis.checkpoints):
        return None
    at, address = (analysis.checkpoints[name].shown for name in (checkpoint, "address"))
    _, before = analysis.measures[measure].at(analysis.checkpoints[checkpoint])
    px_error = _px_error(analysis, measure, before)
    needs = REGISTRY[measure].needs
    tracks = {point: track for point in needs if (track := analysis.track(point)) is not None}
    if len(tracks) < len(needs) or px_error <= 0:
        return None
    ways = [
        (_gain(track, frames, (at, address), 1.0 / len(needs)), point, frames)
        for point, track in tracks.items()
        for frames in ((address,), (at,), (address, at))
        if len(set(frames)) == len(frames)
    ]
    alone = max((way for way in ways if len(way[2]) == 1), key=lambda way: way[0])
    best = max(ways, key=lambda way: way[0])
    gain, point, frames = alone if alone[0] > 0.7 * best[0] else best
    after = before * float(np.sqrt(max(px_error**2 - gain, 0.0)) / px_error)
    return Advice(point, frames, before, after) if after < (1 - WORTH_SHARE) * before else None


def _gain(track: Track, frames: tuple[int, ...], ends: tuple[int, int], share: float) -> float:
    """How much variance (px²) of the difference between two ends marks on some frames take away."""
    at, address = (track.covariance_with(end) for end in ends)
    c = share * np.array([at[f] - address[f] for f in frames])
    spread = np.array([track.covariance_with(f)[list(frames)] for f in frames])
    return float(c @ np.linalg.solve(spread + MARK_SIGMA_PX**2 * np.eye(len(frames)), c))


def _px_error(analysis: Analysis, measure: str, error: float) -> float:
    """The error of a measure in pixels, its scale taken off."""
    scale = analysis.scale
    kind = REGISTRY[measure].kind
    return error / scale.per_px if kind == "length" and hasattr(scale, "per_px") else error
