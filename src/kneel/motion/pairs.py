"""Both hips, both shoulders: their middle, and half of what lies between them, are solved for each by itself.

Where a network sees two ends fall on one another, or takes them for each
other, it is what lies between them that it tells badly, and of hips how far
they lie apart across the picture, not up it; their middle it tells as well as
ever (``Sighting.doubt_together``). Of the two ends taken one by one that could
not be said: each would be as unsure as both are apart. With m the middle and h
half the difference the ends are m + h and m - h, so that their errors have the
variance of both and the covariance of the one less the other.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.motion.track import LEAST_PX, Track

FloatArray = NDArray[np.float64]

JOINTS: Final = ("hip", "shoulder")


@dataclass(frozen=True)
class Single:
    """A mark by hand on one end, ``way`` +1 or -1, of ``frame``: what it tells of both.

    ``middle`` and ``half`` (T, 2) px² are the covariances of each with that end there, ``total`` (2,) its
    variance and the mark's, all by axis, ``sigma`` the mark's error, px.
    """

    frame: int
    way: float
    middle: FloatArray
    half: FloatArray
    total: FloatArray
    sigma: float

    def of(self, way: float) -> FloatArray:
        """The covariance (T, 2) of the end ``way`` with the one that is marked."""
        return self.middle + way * self.half


@dataclass(frozen=True)
class Pair:
    """Two ends by their middle and half the way from the other (``way`` -1) to the one (+1): the tracks of
    each, of which the first is true across and the second up. ``xy`` (2, T, 2) px are middle and half.
    """

    middle: tuple[Track, Track]
    half: tuple[Track, Track]
    xy: FloatArray
    singles: tuple[Single, ...] = ()
    _drawn: dict[tuple[object, ...], tuple[FloatArray, ...]] = field(default_factory=dict, compare=False)
    _columns: dict[int, tuple[FloatArray, ...]] = field(default_factory=dict, compare=False)

    @staticmethod
    def of(*parts: Track) -> Pair:
        """A pair of which no single end is marked, of tracks in the order of ``PARTS``."""
        xy = [np.stack([parts[k].xy[:, 0], parts[k + 1].xy[:, 1]], axis=1) for k in (0, 2)]
        return Pair((parts[0], parts[1]), (parts[2], parts[3]), np.stack(xy))

    def covariance(self, one: float, other: float, frame: int) -> FloatArray:
        """Covariance (T, 2) px² of the end ``one`` in every frame with the end ``other`` in ``frame``."""
        if frame not in self._columns:
            self._columns[frame] = tuple(
                np.stack([track.covariance_with(frame) for track in part], axis=1)
                for part in (self.middle, self.half)
            )
        middle, half = self._columns[frame]
        found = middle + one * other * half
        for single in self.singles:
            found = found - single.of(one) * (single.of(other)[frame] / single.total)
        return np.asarray(found)

    def variance(self, one: float, other: float) -> FloatArray:
        """Covariance (T, 2) px² of the ends ``one`` and ``other``, each in the same frame."""
        middle, half = (
            np.stack([track.sigma**2 for track in part], axis=1) for part in (self.middle, self.half)
        )
        found = middle + one * other * half
        for single in self.singles:
            found = found - single.of(one) * single.of(other) / single.total
        return np.maximum(found, LEAST_PX**2) if one == other else np.asarray(found)

    def marked(self, frame: int, way: float, off: FloatArray, sigma: float) -> Pair:
        """The pair with one end marked, (2,) px from where it is taken to be."""
        one, other = (self.covariance(end, way, frame) for end in (1.0, -1.0))
        middle, half = (one + other) / 2, (one - other) / 2
        total = middle[frame] + way * half[frame] + sigma**2
        pull = off / total
        return replace(
            self,
            xy=self.xy + np.stack([middle, half]) * pull,
            singles=(*self.singles, Single(frame, way, middle, half, total, sigma)),
            _drawn={},
        )

    def longer(self, one: int, other: int) -> tuple[FloatArray, FloatArray]:
        """Covariances (2, T, 2) px² of middle and half with how much longer the half is in the frame ``one``
        than in the ``other``, and the variance (2,) px² of that.
        """
        found = self.with_half(one) - self.with_half(other)
        return found, found[1, one] - found[1, other]

    def with_half(self, frame: int) -> FloatArray:
        """Covariances (2, T, 2) px² of middle and half in every frame with the half in ``frame``."""
        one, other = (
            (self.covariance(end, 1.0, frame) - self.covariance(end, -1.0, frame)) / 2 for end in (1.0, -1.0)
        )
        return np.stack([one + other, one - other]) / 2

    def draws(
        self, way: float, count: int, seed: int | list[int], frames: NDArray[np.int64], *, lasting: bool
    ) -> FloatArray:
        """Errors of one end, (count, K, 2) px, drawn together with those of the other."""
        key = (count, str(seed), frames.tobytes(), lasting)
        if key not in self._drawn:
            lots = seed if isinstance(seed, list) else [seed]
            self._drawn[key] = self._draw(count, lots, frames, lasting=lasting)
        middle, half = self._drawn[key]
        return np.asarray(middle + way * half)

    def _draw(
        self, count: int, lots: list[int], frames: NDArray[np.int64], *, lasting: bool
    ) -> tuple[FloatArray, FloatArray]:
        every = np.unique([*frames.tolist(), *(single.frame for single in self.singles)]).astype(np.int64)
        drawn = [
            track.draws(count, [*lots, k], every, lasting=lasting)[..., k % 2]
            for k, track in enumerate((*self.middle, *self.half))
        ]
        middle, half = np.stack(drawn[:2], axis=2), np.stack(drawn[2:], axis=2)
        rng = np.random.default_rng([*lots, len(drawn)])
        for single in self.singles:
            # What a mark takes off an error is what it takes off the path (Matheron's rule).
            at = int(np.searchsorted(every, single.frame))
            mark = rng.standard_normal((count // 2, 1, 2)) * single.sigma
            told = middle[:, at : at + 1] + single.way * half[:, at : at + 1]
            told = (told - np.concatenate([mark, -mark])) / single.total
            middle, half = middle - single.middle[every] * told, half - single.half[every] * told
        wanted = np.searchsorted(every, frames)
        return middle[:, wanted], half[:, wanted]


@dataclass(frozen=True)
class Paired(Track):
    """The track of one end of a pair: its ``sigma`` and covariances are the means of both axes'."""

    pair: Pair | None = None
    way: float = 1.0

    @staticmethod
    def of(pair: Pair, way: float) -> Paired:
        """The end ``way`` (+1 or -1) of a pair."""
        middle, half = pair.middle[0], pair.half[0]
        return Paired(
            pair.xy[0] + way * pair.xy[1],
            np.sqrt(pair.variance(way, way).mean(axis=1)),
            middle.times_s,
            np.hypot(middle.lasting, half.lasting),
            middle._factor,
            middle._slot,
            np.concatenate([middle.lasts, way * half.lasts], axis=1),
            middle._each,
            pair=pair,
            way=way,
        )

    def alike(self, other: Paired) -> FloatArray:
        """How the errors of this end and an ``other`` of its pair (or itself) hang together in every frame,
        by axis, as a share of the product of both ends' ``sigma`` (T, 2).
        """
        assert self.pair is not None
        one, two = (self.pair.variance(way, way).mean(axis=1) for way in (self.way, other.way))
        return np.asarray(self.pair.variance(self.way, other.way) / np.sqrt(one * two)[:, None])

    def together(self, other: Paired, frame: int) -> FloatArray:
        """Covariance (T, 2) px² by axis of every frame with an ``other`` end of its pair in ``frame``."""
        assert self.pair is not None
        return self.pair.covariance(self.way, other.way, frame)

    def covariance_with(self, frame: int) -> FloatArray:
        assert self.pair is not None
        return np.asarray(self.pair.covariance(self.way, self.way, frame).mean(axis=1))

    def with_other(self, pair: Pair, moved: FloatArray) -> Paired:
        """The same end by a pair of which more is known, ``moved`` (2, T, 2) px: its middle and half."""
        assert self.pair is not None
        before, after = (np.sqrt(one.variance(self.way, self.way).mean(axis=1)) for one in (self.pair, pair))
        xy = self.xy + moved[0] + self.way * moved[1]
        return replace(self, xy=xy, sigma=self.sigma * after / before, pair=pair)

    def draws(
        self, count: int, seed: int | list[int], frames: NDArray[np.int64], *, lasting: bool = True
    ) -> FloatArray:
        assert self.pair is not None
        return self.pair.draws(self.way, count, seed, frames, lasting=lasting)


def with_mark(
    tracks: Mapping[str, Track],
    name: str,
    frame: int,
    xy: FloatArray,
    sigma: float,
    instead_of: FloatArray | None = None,
) -> dict[str, Track]:
    """The tracks that change by one more mark (2,) px on a point, or by one that is moved, see
    :meth:`Track.marked`: of a pair both ends.
    """
    track = tracks[name]
    if not isinstance(track, Paired):
        return {name: track.marked(frame, xy, sigma, instead_of)}
    assert track.pair is not None
    ends = {one: end for one in both_of(name) if isinstance(end := tracks.get(one), Paired)}
    if instead_of is None:
        pair = track.pair.marked(frame, track.way, xy - track.xy[frame], sigma)
        return {one: end.with_other(pair, pair.xy - track.pair.xy) for one, end in ends.items()}
    pull = (xy - instead_of) / sigma**2
    return {
        one: replace(end, xy=end.xy + track.pair.covariance(end.way, track.way, frame) * pull)
        for one, end in ends.items()
    }


def both_of(name: str) -> tuple[str, str]:
    """Both ends of the pair that a point, named by left and right, is one of, or of a joint.

    >>> both_of("right_hip")
    ('left_hip', 'right_hip')
    """
    joint = name.rpartition("_")[2]
    return f"left_{joint}", f"right_{joint}"


def middle_and_apart(one: Track, other: Track) -> tuple[FloatArray, FloatArray]:
    """Standard errors (T, 2) px by axis of the middle of two points, and of what lies between them.

    >>> from kneel.motion.example import example
    >>> tracks = example().tracks
    >>> middle, apart = middle_and_apart(tracks["left_ankle"], tracks["right_ankle"])
    >>> bool(np.allclose(apart, 2 * middle))
    True
    """
    alone = np.repeat((one.sigma**2 + other.sigma**2)[:, None], 2, axis=1)
    shared = np.zeros_like(alone)
    if isinstance(one, Paired) and isinstance(other, Paired):
        each = [end.alike(end) * end.sigma[:, None] ** 2 for end in (one, other)]
        alone = each[0] + each[1]
        shared = 2 * one.alike(other) * (one.sigma * other.sigma)[:, None]
    middle, apart = (np.maximum(square, LEAST_PX**2) for square in (alone + shared, alone - shared))
    return np.sqrt(middle) / 2, np.sqrt(apart)


def longer_sigma(one: Track, other: Track, frame: int) -> FloatArray:
    """Standard error (T,) px of how much longer what lies between two points across is in ``frame``.

    >>> from kneel.motion.example import example
    >>> tracks = example().tracks
    >>> sigma = longer_sigma(tracks["left_hip"], tracks["right_hip"], 20)
    >>> bool(sigma[20] < sigma[25] < sigma[60])
    True
    """
    if isinstance(one, Paired) and isinstance(other, Paired):
        assert one.pair is not None
        apart = middle_and_apart(one, other)[1][:, 0] ** 2
        with_it = 4 * one.pair.with_half(frame)[1, :, 0]
    else:
        apart = one.sigma**2 + other.sigma**2
        with_it = one.covariance_with(frame) + other.covariance_with(frame)
    return np.sqrt(np.maximum(apart + apart[frame] - 2 * with_it, LEAST_PX**2))


Known = Callable[[str], Track | None]
"""The track of a point by its lead or trail name."""


def groups(track: Known, points: Iterable[str]) -> list[tuple[str, ...]]:
    """Points, those whose errors hang together in one.

    >>> groups(lambda point: None, ["lead_hip", "trail_hip"])
    [('lead_hip',), ('trail_hip',)]
    """
    found: dict[str, tuple[str, ...]] = {}
    for point in points:
        name = point.rpartition("_")[2] if isinstance(track(point), Paired) else point
        found[name] = (*found.get(name, ()), point)
    return list(found.values())


def seen_together(track: Known, one: str, other: str, frame: int) -> FloatArray:
    """Covariance (T, 2) px² by axis of a point in every frame with another of its group in ``frame``."""
    a, b = track(one), track(other)
    assert a is not None and b is not None
    if isinstance(a, Paired) and isinstance(b, Paired):
        return a.together(b, frame)
    return np.repeat(a.covariance_with(frame)[:, None], 2, axis=1)
