"""What measures look at: points at some frames and at address, in units, with all that is unsure of them.

Coordinates are in the scale's unit: x toward the target (down the line, toward
the ball line), y up, levelled. What can be wrong besides where a point is seen
comes as causes, each independent of the others and with a key by which points
and measures share it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Protocol, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.depth import Depth, depth_of
from kneel.motion.stand import Stand

FloatArray = NDArray[np.float64]
Key = tuple[str, ...]
Value = TypeVar("Value")
_Row = tuple[Key, FloatArray | float, FloatArray | float]


EACH_CLIP = ("place", "time", "unsteady now", "unsteady then", "paths")
"""Names of causes that every clip has by itself, even of one golfer in one lesson: what scatters, marks by
hand, times, a camera in the hand, and all of these in a quantity of the whole swing."""

SEEN = ("place", "pose", "lasts")
"""Names of causes that lie in where points are seen: what is the clip's own, what comes again with the pose,
and what lasts through the clip."""

COMES_AGAIN = {"unmarked": (0.985, 0.92), "marked": (0.5, 0.4)}
"""Which share of the variance of a point that the body model sees comes again in another swing of that golfer
and lesson, by whether anybody marked it: of a point, and of how far both hips or shoulders lie apart, which
is seen anew in each pose (drawn golfers seen twice, ``make pairs``)."""

APART = ("hip", "shoulder")


class ByPoint(dict[str, Value]):
    """Values by point, computed when first asked for."""

    def __init__(self, compute: Callable[[str], Value]) -> None:
        super().__init__()
        self._compute = compute

    def __missing__(self, point: str) -> Value:
        value = self[point] = self._compute(point)
        return value


SWINGING_M = 0.5
"""Once any point has moved so far since address the body counts as swinging, and its depth as unknown."""
REACH_M = {"foot": 0.10, "hands": 0.5, "arms": 0.5, "club": 0.7}
"""These may have come as much nearer as they ever do once they have moved so far in the picture."""


class Drawing(Protocol):
    """What was drawn from a sample, and can be drawn anew for some points."""

    def changed(self, points: Collection[str], sample: Sample) -> Drawing: ...


@dataclass(frozen=True)
class Causes:
    """What can be wrong with one point besides where it is seen, each cause independent of the others.

    ``now`` (L, K, 2) and ``then`` (L, 2) are how far one standard deviation of each moves it.
    """

    keys: tuple[Key, ...]
    now: FloatArray
    then: FloatArray


@dataclass(frozen=True)
class Alike:
    """How the errors of two points, or one and itself, hang together by axis: ``now`` (K, 2) and ``then``
    (2,) are their covariances as shares of the product of both standard errors, ``across`` (K, 2) that of the
    one now with the other at address, square units.
    """

    now: FloatArray
    then: FloatArray
    across: FloatArray

    def at(self, frames: NDArray[np.int64]) -> Alike:
        """The same at some of the frames."""
        return Alike(self.now[frames], self.then, self.across[frames])


@dataclass(frozen=True)
class Lens:
    """How the camera sees: ``per_m`` units a metre, ``vanish`` (2,) the place that depth runs to."""

    view: View
    stand: Stand
    per_m: float
    vanish: FloatArray


@dataclass(frozen=True)
class Sample:
    """Points at K frames and at address. By lead/trail name: ``now`` (K, 2), ``then`` (2,) and their standard
    errors per coordinate (K,) and scalar, ``across`` (K,) the covariance of the two; ``lasts`` (K, B) and
    ``lasts_then`` (B,) how far one standard deviation of each of B errors that last through the clip moves it
    along either axis, a part of these; ``pace`` (K, 2) and ``pace_then`` (2,) speeds in units per s.

    ``swings`` (K,) 0 to 1 is how far the body is from address; ``closed`` maps a pair of joints to -1 where
    its line is turned away from the target and +1 where toward it, (K,). ``repeats`` is which share of a
    point's variance comes again with the pose. ``alike`` maps pairs of points, and each of them with itself,
    to how their errors hang together. ``time_sigma`` (K,) s is the error of the frames' own times, as at a
    checkpoint; ``names`` (K,) tells them apart, empty where they are plain frames.
    """

    now: Mapping[str, FloatArray]
    then: Mapping[str, FloatArray]
    sigma: Mapping[str, FloatArray]
    sigma_then: Mapping[str, float]
    across: Mapping[str, FloatArray]
    lasts: Mapping[str, FloatArray]
    lasts_then: Mapping[str, FloatArray]
    pace: Mapping[str, FloatArray]
    pace_then: Mapping[str, FloatArray]
    lens: Lens
    scale_relative: float
    address_sigma_s: float
    swings: FloatArray
    closed: Mapping[str, FloatArray]
    repeats: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    alike: Mapping[tuple[str, str], Alike] = field(default_factory=dict)
    unsteady: FloatArray | None = None
    unsteady_then: float = 0.0
    time_sigma: FloatArray | None = None
    names: tuple[str, ...] = ()

    def depth(self, point: str) -> tuple[Depth, FloatArray, float]:
        """What is believed of a point's depth, and metres toward the camera as expected now (K,) and then."""
        depth = depth_of(point, self.lens.view)
        side, _, joint = point.rpartition("_")
        usual = depth.usual * np.ones(len(self.swings))
        if depth.body.rpartition(" ")[2] in ("hands", "arms", "club"):
            # What swings round the body hangs before it only where it began.
            usual = depth.usual * (1 - self.stirred[point])
        turned = np.zeros(len(self.swings))
        if joint in self.closed and self.lens.view is not View.DOWN_THE_LINE:
            lead, trail = f"lead_{joint}", f"trail_{joint}"
            wide = float(np.linalg.norm(self.then[lead] - self.then[trail]))
            seen = self.now[lead] - self.now[trail]
            behind = np.sqrt(np.maximum(wide**2 - (seen**2).sum(axis=1), 0.0)) / self.lens.per_m / 2
            turned = (-behind if side == "lead" else behind) * self.closed[joint]
            turned = -turned if self.lens.view is View.REAR else turned
        return depth, usual + turned, depth.usual

    def own(self, point: str) -> Alike:
        """The error of a point by axis, which of most are the same."""
        known = self.alike.get((point, point))
        if known is None:
            across = np.repeat(self.across[point][:, None], 2, axis=1)
            known = Alike(np.ones_like(across), np.ones(2), across)
        return known

    _drawn: list[object] = field(default_factory=list, compare=False)
    _thinned: dict[int, Thinned] = field(default_factory=dict, compare=False)

    def thinned(self, most: int) -> Thinned:
        """The sample itself, or of a long one every so many frames and the last."""
        count = len(self.swings)
        if count <= most:
            return Thinned(np.arange(count), self)
        if most not in self._thinned:
            frames = np.unique(np.linspace(0, count - 1, most).astype(np.int64))
            self._thinned[most] = Thinned(frames, self._at(frames))
        return self._thinned[most]

    def _at(self, frames: NDArray[np.int64]) -> Sample:
        return replace(
            self,
            now=ByPoint(lambda p: self.now[p][frames]),
            sigma=ByPoint(lambda p: self.sigma[p][frames]),
            across=ByPoint(lambda p: self.across[p][frames]),
            lasts=ByPoint(lambda p: self.lasts[p][frames]),
            pace=ByPoint(lambda p: self.pace[p][frames]),
            swings=self.swings[frames],
            closed={joint: sign[frames] for joint, sign in self.closed.items()},
            alike={pair: alike.at(frames) for pair, alike in self.alike.items()},
            unsteady=None if self.unsteady is None else self.unsteady[frames],
            time_sigma=None if self.time_sigma is None else self.time_sigma[frames],
            names=tuple(self.names[f] for f in frames) if self.names else (),
            _drawn=[],
            _thinned={},
        )

    def drawn(self, draw: Callable[[Sample], Value]) -> Value:
        """What ``draw`` makes of this sample, made once."""
        if not self._drawn:
            self._drawn.append(draw(self))
        return cast(Value, self._drawn[0])

    @cached_property
    def causes(self) -> ByPoint[Causes]:
        """All causes by point."""
        return ByPoint(self._causes)

    def _causes(self, point: str) -> Causes:
        rows = [row for part in (self._sizes, self._camera, self._depths, self._times) for row in part(point)]
        now = np.empty((len(rows), *self.now[point].shape))
        then = np.empty((len(rows), 2))
        for k, (_, moved, moved_then) in enumerate(rows):
            now[k], then[k] = moved, moved_then
        return Causes(tuple(key for key, _, _ in rows), now, then)

    def changed(self, points: Collection[str], other: Sample) -> Sample:
        """This sample with some points, and what hangs on them alone, as in another of the same frames."""

        def either(mine: Mapping[str, Value], theirs: Mapping[str, Value]) -> ByPoint[Value]:
            return ByPoint(lambda p: theirs[p] if p in points else mine[p])

        made = replace(
            self,
            now=either(self.now, other.now),
            then=either(self.then, other.then),
            sigma=either(self.sigma, other.sigma),
            sigma_then=either(self.sigma_then, other.sigma_then),
            across=either(self.across, other.across),
            lasts=either(self.lasts, other.lasts),
            lasts_then=either(self.lasts_then, other.lasts_then),
            pace=either(self.pace, other.pace),
            pace_then=either(self.pace_then, other.pace_then),
            alike=other.alike,
            closed=other.closed,
            _drawn=[],
            _thinned={},
        )
        fresh = made._causes
        made.__dict__["causes"] = ByPoint(lambda p: fresh(p) if p in points else self.causes[p])
        for most, few in self._thinned.items():
            made._thinned[most] = Thinned(few.frames, few.sample.changed(points, made._at(few.frames)))
        if self._drawn:
            made._drawn.append(cast(Drawing, self._drawn[0]).changed(points, made))
        return made

    @cached_property
    def stirred(self) -> ByPoint[FloatArray]:
        """How far each point's body is from where it was at address, 0 to 1, (K,)."""
        return ByPoint(self._stirred)

    def _stirred(self, point: str) -> FloatArray:
        reach = REACH_M.get(depth_of(point, self.lens.view).body.rpartition(" ")[2])
        if reach is None:
            return self.swings
        moved = np.linalg.norm(self.now[point] - self.then[point], axis=1)
        return np.minimum(moved / (reach * self.lens.per_m), 1.0)

    def _sizes(self, point: str) -> Iterator[_Row]:
        """The scale, and a camera that moved."""
        share = self.scale_relative
        yield ("scale",), self.now[point] * share, self.then[point] * share
        if self.unsteady is not None:
            for axis, way in (("x", np.array([1.0, 0.0])), ("y", np.array([0.0, 1.0]))):
                yield ("unsteady now", axis), self.unsteady[:, None] * way, 0.0
                yield ("unsteady then", axis), 0.0, self.unsteady_then * way

    def _camera(self, point: str) -> Iterator[_Row]:
        """Roll, yaw, and how the picture grows with what is expected to be nearer."""
        stand = self.lens.stand
        now, then = self.now[point], self.then[point]
        _, near, near_then = self.depth(point)
        near = near[:, None]
        roll = np.radians(stand.roll_sigma)
        yield ("roll",), roll * _turned(now), roll * _turned(then)
        aside = np.radians(np.hypot(stand.yaw_sigma, stand.yaw_deg)) * self.lens.per_m * _ALONG
        yield ("yaw",), near * aside, near_then * aside
        yield ("perspective",), self._grown(now, near), self._grown(then, near_then)
        up = np.array([0.0, stand.height_sigma_m * self.lens.per_m / stand.distance_m])
        yield ("height",), near * up, near_then * up

    def _grown(self, place: FloatArray, nearer_m: FloatArray | float) -> FloatArray:
        """How far the picture of a place moves when it comes nearer."""
        return np.asarray((place - self.lens.vanish) / self.lens.stand.distance_m * nearer_m)

    def _depths(self, point: str) -> Iterator[_Row]:
        """How much nearer than expected it hangs, at address and in motion, with its body and alone."""
        depth = depth_of(point, self.lens.view)
        now, then, swings = self.now[point], self.then[point], self.stirred[point][:, None]
        stand = self.lens.stand
        aside = np.radians(stand.yaw_sigma) * self.lens.per_m * _ALONG
        # What hangs nearer by an unknown length is seen aside by that times the camera's angle, known or not.
        known = np.sin(np.radians(stand.yaw_deg)) * self.lens.per_m * _ALONG

        def nearer(place: FloatArray, size: FloatArray | float) -> FloatArray:
            return self._grown(place, size) + size * known

        deep = depth.spread
        yield ("deep", depth.body), nearer(now, deep), nearer(then, deep)
        yield ("deep aside", depth.body), deep * aside, deep * aside
        side, _, joint = point.rpartition("_")
        # By turning one of a pair comes as much nearer as the other one goes.
        turns = (f"{joint} turn", -depth.turns if side == "lead" else depth.turns)
        alone = turns if joint in ("hip", "shoulder") else (point, depth.turns)
        for name, size in ((depth.body, depth.moves), alone):
            if size:
                yield ("nearer", name), nearer(now, size * swings), 0.0
                yield ("nearer aside", name), size * swings * aside, 0.0

    def _times(self, point: str) -> Iterator[_Row]:
        """The time of address, of all that counts from it, and each frame's own."""
        own = np.zeros(len(self.swings)) if self.time_sigma is None else self.time_sigma.copy()
        here = np.array([name == "address" for name in self.names] or [False] * len(own))
        own[here] = 0.0
        still = self.address_sigma_s * here.astype(float)[:, None]
        yield ("time", "address"), self.pace[point] * still, self.pace_then[point] * self.address_sigma_s
        if self.time_sigma is not None:
            yield ("time", "own"), self.pace[point] * own[:, None], 0.0


@dataclass(frozen=True)
class Thinned:
    """Some frames (K,) of a sample."""

    frames: NDArray[np.int64]
    sample: Sample


_ALONG = np.array([1.0, 0.0])


def _turned(place: FloatArray) -> FloatArray:
    """A place turned by a quarter, (..., 2)."""
    return np.stack([-place[..., 1], place[..., 0]], axis=-1)
