"""Where one more mark by hand would tell most about a number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.checkpoints import start_of
from kneel.motion.pairs import groups, seen_together
from kneel.motion.places import Places
from kneel.motion.quantity import Single
from kneel.motion.sample import SEEN
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

WORTH_SHARE = 0.07
"""A mark that takes less than this share off the error is not worth asking for."""

WORTH_SAYING = 0.15
"""Nor worth a sentence that nobody asked for."""


ENOUGH_SHARE = 0.7
"""Fewer marks are asked for that take this share of what more would."""


@dataclass(frozen=True)
class Advice:
    """Mark ``points`` (lead/trail names) on ``frames``: the error goes from ``before`` to about ``after``.

    Errors are in the measure's own unit and hold at the checkpoint asked about. ``other`` is whether the
    frames are those of the other camera's clip.
    """

    points: tuple[str, ...]
    frames: tuple[int, ...]
    before: float
    after: float
    other: bool = False

    @property
    def much(self) -> bool:
        """Whether it is worth a sentence: nobody marks to turn ± 12 into ± 11."""
        return self.after < (1 - WORTH_SAYING) * self.before

    @property
    def marks(self) -> list[tuple[str, int]]:
        """Points and frames in the order in which they are marked."""
        return [(point, frame) for frame in self.frames for point in self.points]

    @property
    def frame(self) -> int:
        """Where to begin."""
        return self.frames[0]

    @property
    def words(self) -> str:
        """What to mark, in words with an article."""
        if len(self.points) > 1:
            return f"both {self.points[0].rpartition('_')[2]}s"
        return f"the {self.points[0].replace('_', ' ')}"


def next_mark(study: Study, measure: str, checkpoint: str) -> Advice | None:
    """The mark, or few marks of one point or of a pair, that take most off a measure's error at a checkpoint.

    None where nothing is worth it, or where the value was typed in. With c the
    covariances of the measure with a point's coordinates at some frames, V those
    coordinates' covariance and m a mark's variance, marks take c' (V + m)^-1 c off (linear Gaussian update,
    as in a Kalman filter's gain). What lies off through the whole clip cancels
    in a difference, so that often only marks at both its ends tell something; of a pair that errs together
    often only marks on both.

    >>> from kneel.motion.example import example
    >>> next_mark(example(), "pelvis_shift", "top").points
    ('lead_hip',)
    """
    told, places = study.at(measure, checkpoint), study.places
    if not isinstance(told, Single) or not isinstance(places, Places) or told.sigma <= 0:
        return None
    if study.given(measure, checkpoint):
        return None
    slopes = study.slopes(measure, checkpoint).points
    start = start_of(study.checkpoints)
    at = study.checkpoints[checkpoint].shown
    # A held pose has no address: there is the one frame.
    address = at if start is None else start.shown
    ways = []
    for group in groups(study.track, slopes):
        own = sum(moved**2 for key, moved in told.causes.items() if key[0] in SEEN and key[1] in group)
        ends = [
            (point, frame, slope * places.scale.per_px)
            for point in group
            for frame, slope in zip((at, address), slopes[point], strict=True)
            if slope.any()
        ]
        for points in dict.fromkeys([*((point,) for point in group), group]):
            for frames in ((address,), (at,), (address, at)):
                if len(set(frames)) == len(frames):
                    ways.append((own * _share(study, points, frames, ends), points, frames))
    if not ways:
        return None
    most = max(gain for gain, _, _ in ways)
    enough = [way for way in ways if way[0] >= ENOUGH_SHARE * most]
    gain, points, frames = min(enough, key=lambda way: (len(way[1]) * len(way[2]), -way[0]))
    after = float(np.sqrt(max(told.sigma**2 - gain, 0.0)))
    return Advice(points, frames, told.sigma, after) if after < (1 - WORTH_SHARE) * told.sigma else None


def _share(
    study: Study,
    points: tuple[str, ...],
    frames: tuple[int, ...],
    ends: Sequence[tuple[str, int, FloatArray]],
) -> float:
    """The share of the variance of what hangs on a group of points that marks on some of them take off.

    ``ends`` are points and frames with how far the measure moves by a pixel there, (2,) along x and y.
    """
    if not ends:
        return 0.0
    marks = [(point, frame) for point in points for frame in frames]

    def with_all(point: str, frame: int) -> FloatArray:
        """The covariance of the measure with one of the points, (2,)."""
        return np.sum(
            [slope * seen_together(study.track, q, point, frame)[g] for q, g, slope in ends], axis=0
        )

    spread = np.array([[seen_together(study.track, q, p, f)[g] for q, g in marks] for p, f in marks])
    column = np.array([with_all(point, frame) for point, frame in marks])
    noise = MARK_SIGMA_PX**2 * np.eye(len(marks))
    gain = sum(
        c @ np.linalg.solve(v + noise, c) for c, v in zip(column.T, spread.transpose(2, 0, 1), strict=True)
    )
    whole = sum(slope @ with_all(point, frame) for point, frame, slope in ends)
    return float(gain / whole) if whole > 0 else 0.0
