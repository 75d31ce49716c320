"""Where one more mark by hand would tell most about a number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.checkpoints import start_of
from kneel.motion.places import Places
from kneel.motion.quantity import Single
from kneel.motion.sample import SEEN
from kneel.motion.study import Study
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

WORTH_SHARE = 0.07
"""A mark that takes less than this share off the error is not worth asking for."""

WORTH_SAYING = 0.15
"""Nor worth a sentence that nobody asked for."""


@dataclass(frozen=True)
class Advice:
    """Mark ``point`` (lead/trail name) on ``frames``: the error goes from ``before`` to about ``after``.

    Errors are in the measure's own unit and hold at the checkpoint asked about. ``other`` is whether the
    frames are those of the other camera's clip.
    """

    point: str
    frames: tuple[int, ...]
    before: float
    after: float
    other: bool = False

    @property
    def much(self) -> bool:
        """Whether it is worth a sentence: nobody marks to turn ± 12 into ± 11."""
        return self.after < (1 - WORTH_SAYING) * self.before

    @property
    def frame(self) -> int:
        """Where to begin."""
        return self.frames[0]


def next_mark(study: Study, measure: str, checkpoint: str) -> Advice | None:
    """The mark, or two of one point, that take most off the error of a measure at a checkpoint.

    None where nothing is worth it, or where the value was typed in. With c the
    covariances of the measure with a point's coordinates at some frames, V those
    coordinates' covariance and m a mark's variance, marks take c' (V + m)^-1 c off (linear Gaussian update,
    as in a Kalman filter's gain). What lies off through the whole clip cancels
    in a difference, so that often only marks at both its ends tell something.

    >>> from kneel.motion.example import example
    >>> next_mark(example(), "pelvis_shift", "top").point
    'lead_hip'
    """
    told, places = study.at(measure, checkpoint), study.places
    if not isinstance(told, Single) or not isinstance(places, Places) or told.sigma <= 0:
        return None
    if study.given(measure, checkpoint):
        return None
    slopes = study.slopes(measure, checkpoint)
    start = start_of(study.checkpoints)
    at = study.checkpoints[checkpoint].shown
    # A held pose has no address: there is the one frame.
    address = at if start is None else start.shown
    ways = []
    for point, (now, then) in slopes.points.items():
        track = study.track(point)
        assert track is not None
        own = sum(moved**2 for key, moved in told.causes.items() if key[0] in SEEN and key[1] == point)
        ends = ((at, now * places.scale.per_px), (address, then * places.scale.per_px))
        for frames in ((address,), (at,), (address, at)):
            if len(set(frames)) == len(frames):
                ways.append((own * _share(track, frames, ends), point, frames))
    alone = max((way for way in ways if len(way[2]) == 1), key=lambda way: way[0], default=None)
    if alone is None:
        return None
    best = max(ways, key=lambda way: way[0])
    gain, point, frames = alone if alone[0] > 0.7 * best[0] else best
    after = float(np.sqrt(max(told.sigma**2 - gain, 0.0)))
    return Advice(point, frames, told.sigma, after) if after < (1 - WORTH_SHARE) * told.sigma else None


def _share(track: Track, frames: tuple[int, ...], ends: tuple[tuple[int, FloatArray], ...]) -> float:
    """The share of the variance of what hangs on a point at two ends that marks on some frames take off.

    ``ends`` are frames with how far the measure moves by a pixel there, (2,) along x and y.
    """
    columns = [(slope, track.covariance_with(frame)) for frame, slope in ends if slope.any()]
    spread = np.array([track.covariance_with(f)[list(frames)] for f in frames])
    spread += MARK_SIGMA_PX**2 * np.eye(len(frames))
    gain = whole = 0.0
    for axis in (0, 1):
        c = sum((slope[axis] * column[list(frames)] for slope, column in columns), np.zeros(len(frames)))
        gain += float(c @ np.linalg.solve(spread, c))
        whole += sum(
            slope[axis] * other[axis] * column[frame] for slope, column in columns for frame, other in ends
        )
    return gain / whole if whole > 0 else 0.0
