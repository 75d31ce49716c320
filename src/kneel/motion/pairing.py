"""From what one look saw of both hips, or shoulders, to the pair of them (:mod:`kneel.motion.pairs`).

A mark on both ends in one frame is a mark of the middle and of the difference.
One on a single end tells of both, and is put to them after the others as an
update of rank one by Kalman's gain (1960), which is exact.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Sighting, View
from kneel.motion.pairs import JOINTS, Pair, Paired
from kneel.motion.track import PointData, Track, solve_tracks
from kneel.motion.witnesses import one_witness

FloatArray = NDArray[np.float64]

PARTS: Final = ("middle across", "middle up", "half across", "half up")
SIZES: Final = {"hip": (0.85, 1.15, 0.7, 0.6), "shoulder": (1.3, 1.2, 0.7, 0.7)}
"""How large, of a body model's error of one end, that of each part is: it sees both too high or too low
together (46 drawn clips, docs/accuracy.md)."""

LEVEL: Final = 0.5
"""Of that so much lasts through a clip of how far one hip is higher: whoever stands square has both level."""


def solve_pairs(
    times_s: FloatArray, points: Mapping[str, PointData], view: View = View.FACE_ON
) -> dict[str, Track]:
    """Solve all points as :func:`solve_tracks` does, hips and shoulders that one look saw by pairs.

    ``times_s`` (T,) are real seconds, ``view`` is where the camera stands. Pairs of which something
    else is seen as well, such as tape on one hip, are solved end by end.

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
            known |= {f"{part} {joint}": _part(left, right, joint, part, view) for part in PARTS}
            ends[joint] = left, right
    tracks = solve_tracks(times_s, known)
    for joint, (left, right) in ends.items():
        pair = Pair.of(*(tracks.pop(f"{part} {joint}") for part in PARTS))
        for way, mine, other in ((1.0, left, right), (-1.0, right, left)):
            for frame, xy, sigma in _singles(mine, other):
                pair = pair.marked(frame, way, xy - pair.xy[0, frame] - way * pair.xy[1, frame], sigma)
        tracks |= {f"left_{joint}": Paired.of(pair, 1.0), f"right_{joint}": Paired.of(pair, -1.0)}
    return {name: tracks[name] for name in points if name in tracks}


def _by_one_look(data: PointData) -> bool:
    """Whether besides marks by hand there is one look at it that saw the other end too."""
    looks = [one for one in data.sightings if not one.by_hand]
    return len(looks) == 1 and looks[0].doubt_together is not None and bool(np.isfinite(looks[0].xy).any())


def _part(left: PointData, right: PointData, joint: str, part: str, view: View) -> PointData:
    """The middle, or half the difference, of two ends as a point of its own."""
    middle = part.startswith("middle")
    way = 1.0 if middle else -1.0
    (a,), (b,) = ([one for one in data.sightings if not one.by_hand] for data in (left, right))
    size = SIZES[joint][PARTS.index(part)]
    # Hips that fall on one another do so across the picture.
    upright = part == "half up" and joint == "hip"
    looks = replace(
        _of_both(a, b, way),
        offset=(LEVEL if upright else 1.0) * size * (a.offset + b.offset) / 2,
        wander=size * (a.wander + b.wander) / 2,
        wander_s=a.wander_s,
        clock=a.clock,
        doubt=a.doubt_together if middle or upright else np.hypot(a.doubts, b.doubts) / np.sqrt(2),
        by_hand=False,
    )
    links = []
    if left.links and right.links:
        one, other = one_witness(left.links), one_witness(right.links)
        links = [Links((one.step + way * other.step) / 2, np.hypot(one.sigma, other.sigma) / 2)]
    marks = _of_both(_marks(left), _marks(right), way)
    # Toward the target both hips go as one; of ends that move each for itself the middle is calmer.
    as_one = (joint, part) == ("hip", "middle across") and view is not View.DOWN_THE_LINE
    each = 1.0 if as_one else 1 / np.sqrt(2)
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
