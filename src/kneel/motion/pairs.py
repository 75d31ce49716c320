"""Both hips, both shoulders: their middle, and half of what lies between them, are solved for each by itself.

Where a network sees two ends fall on one another, or takes them for each
other, it is what lies between them that it tells badly, and of hips how far
they lie apart across the picture, not up it; their middle it tells as well as
ever (``Sighting.doubt_together``). Of the two ends taken one by one that could
not be said: each would be as unsure as both are apart. With m the middle and h
half the difference the ends are m + h and m - h, so that their errors have the
variance of both and the covariance of the one less the other.

A mark on both ends in one frame is a mark of the middle and of the difference.
One on a single end tells of both, and is put to them after the others as an
update of rank one by Kalman's gain (1960), which is exact.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Sighting
from kneel.motion.track import LEAST_PX, PointData, Track, solve_tracks
from kneel.motion.witnesses import one_witness

FloatArray = NDArray[np.float64]

JOINTS: Final = ("hip", "shoulder")

PARTS: Final = ("middle across", "middle up", "half across", "half up")
SIZES: Final = {"hip": (0.85, 1.15, 0.7, 0.5), "shoulder": (1.3, 1.2, 0.7, 0.7)}
"""How large, of a body model's error of one end, that of each part is: it sees both too high or too low
together (46 drawn clips, docs/accuracy.md)."""


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

    def marked(self, frame: int, way: float, xy: FloatArray, sigma: float) -> Pair:
        """The pair with one end marked, (2,) px."""
        one, other = (self.covariance(end, way, frame) for end in (1.0, -1.0))
        middle, half = (one + other) / 2, (one - other) / 2
        total = middle[frame] + way * half[frame] + sigma**2
        pull = (xy - self.xy[0, frame] - way * self.xy[1, frame]) / total
        return replace(
            self,
            xy=self.xy + np.stack([middle, half]) * pull,
            singles=(*self.singles, Single(frame, way, middle, half, total, sigma)),
            _drawn={},
        )

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

    def alike(self, other: Paired, frame: int) -> tuple[FloatArray, FloatArray]:
        """How the errors of this end and an ``other`` of its pair (or itself) hang together, by axis.

        In every frame, as a share of the product of both ends' ``sigma`` (T, 2); and the covariance (T, 2)
        px² of every frame's with the other's in ``frame``.
        """
        assert self.pair is not None
        one, two = (self.pair.variance(way, way).mean(axis=1) for way in (self.way, other.way))
        share = self.pair.variance(self.way, other.way) / np.sqrt(one * two)[:, None]
        return share, self.pair.covariance(self.way, other.way, frame)

    def covariance_with(self, frame: int) -> FloatArray:
        assert self.pair is not None
        column = self.pair.covariance(self.way, self.way, frame).mean(axis=1)
        for learnt, total in self._learnt:
            column = column - learnt * (learnt[frame] / total)
        return np.asarray(column)

    def draws(
        self, count: int, seed: int | list[int], frames: NDArray[np.int64], *, lasting: bool = True
    ) -> FloatArray:
        assert self.pair is not None
        return self.pair.draws(self.way, count, seed, frames, lasting=lasting)


def solve_pairs(times_s: FloatArray, points: Mapping[str, PointData]) -> dict[str, Track]:
    """Solve all points as :func:`solve_tracks` does, hips and shoulders that one look saw by pairs.

    ``times_s`` (T,) are real seconds. Pairs of which something else is seen as well, such as tape on one hip,
    are solved end by end.

    >>> from kneel.motion.example import example
    >>> tracks = solve_pairs(example().times_s, example().points)
    >>> tracks["left_ankle"].xy[0].round().tolist()
    [706.0, 636.0]
    """
    known, ends = dict(points), {}
    for joint in JOINTS:
        both = [points.get(f"{side}_{joint}") for side in ("left", "right")]
        if all(one is not None and _by_one_look(one) for one in both):
            left, right = (known.pop(f"{side}_{joint}") for side in ("left", "right"))
            known |= {f"{part} {joint}": _part(left, right, joint, part) for part in PARTS}
            ends[joint] = left, right
    tracks = solve_tracks(times_s, known)
    for joint, (left, right) in ends.items():
        pair = Pair.of(*(tracks.pop(f"{part} {joint}") for part in PARTS))
        for way, mine, other in ((1.0, left, right), (-1.0, right, left)):
            for frame, xy, sigma in _singles(mine, other):
                pair = pair.marked(frame, way, xy, sigma)
        tracks |= {f"left_{joint}": Paired.of(pair, 1.0), f"right_{joint}": Paired.of(pair, -1.0)}
    return {name: tracks[name] for name in points if name in tracks}


def _by_one_look(data: PointData) -> bool:
    """Whether besides marks by hand there is one look at it that saw the other end too."""
    looks = [one for one in data.sightings if not one.by_hand]
    return len(looks) == 1 and looks[0].doubt_together is not None and bool(np.isfinite(looks[0].xy).any())


def _part(left: PointData, right: PointData, joint: str, part: str) -> PointData:
    """The middle, or half the difference, of two ends as a point of its own."""
    middle = part.startswith("middle")
    way = 1.0 if middle else -1.0
    (a,), (b,) = ([one for one in data.sightings if not one.by_hand] for data in (left, right))
    size = SIZES[joint][PARTS.index(part)]
    # Hips that fall on one another do so across the picture.
    as_ever = middle or (part == "half up" and joint == "hip")
    looks = replace(
        _of_both(a, b, way),
        offset=size * (a.offset + b.offset) / 2,
        wander=size * (a.wander + b.wander) / 2,
        wander_s=a.wander_s,
        clock=a.clock,
        doubt=a.doubt_together if as_ever else np.hypot(a.doubts, b.doubts) / np.sqrt(2),
        by_hand=False,
    )
    links = []
    if left.links and right.links:
        one, other = one_witness(left.links), one_witness(right.links)
        links = [Links((one.step + way * other.step) / 2, np.hypot(one.sigma, other.sigma) / 2)]
    marks = _of_both(_marks(left), _marks(right), way)
    each = 1 / np.sqrt(2)
    return PointData((marks, looks), links, each * left.restless, each * left.fastest)


def _marks(data: PointData) -> Sighting:
    """All marks by hand on a point."""
    count = len(data.sightings[0].sigma)
    xy, sigma = np.full((count, 2), np.nan), np.full(count, np.nan)
    for one in data.sightings:
        if one.by_hand:
            there = np.isfinite(one.xy[:, 0])
            xy[there], sigma[there] = one.xy[there], one.sigma[there]
    return Sighting(xy, sigma, by_hand=True)


def _of_both(left: Sighting, right: Sighting, way: float) -> Sighting:
    """Middle or half the difference where both ends are known, as a mark by hand."""
    return Sighting((left.xy + way * right.xy) / 2, np.hypot(left.sigma, right.sigma) / 2, by_hand=True)


def _singles(mine: PointData, other: PointData) -> Iterator[tuple[int, FloatArray, float]]:
    """Marks of frames in which the other end has none."""
    marks, twin = _marks(mine), _marks(other)
    for frame in np.flatnonzero(np.isfinite(marks.xy[:, 0]) & ~np.isfinite(twin.xy[:, 0])).tolist():
        yield frame, marks.xy[frame], float(marks.sigma[frame])


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
        return a.alike(b, frame)[1]
    return np.repeat(a.covariance_with(frame)[:, None], 2, axis=1)
