"""One number moved into its window, frame by frame, and the body that carries it.

The aim is a corridor: limits at checkpoints, straight between them in time, starting at what the golfer has
at address and ending at what they have at the end where no limit stands there. Only stretches beside a
checkpoint that is past its limit are moved; the rest of the swing is as it was.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from kneel.motion.failure import Failed
from kneel.motion.ghost.body import JointedBody, Moved, jointed
from kneel.motion.measures.carried import Carried
from kneel.motion.measures.registry import Way
from kneel.motion.places import Places
from kneel.motion.scale import Scale
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

SUNK_CM = 1.0
SUNK_SHARE = 0.10
"""Where the pelvis sinks by more in more of the frames, the body cannot do it and there is no ghost."""

WITHIN = 0.005
"""A frame is on its aim within this much, of a unit or degree, or of what was to be moved."""

ROUNDS = 16
LONGEST_STEP = 8.0
"""No step of the search is longer, units or degrees: it ends at the nearest of several answers."""

FARTHEST = 60.0
"""No part is moved farther."""

NO_LIMIT = np.inf


class Why(Enum):
    """Why there is no ghost."""

    OTHER = "what tells it is no place that can be moved in one view"
    NO_WINDOW = "the school has no window for it here"
    INSIDE = "it is inside its window all along"
    SINKS = "the pelvis would have to sink too far"
    REACH = "a leg, or the trunk, does not reach"
    POINTS = "points are missing"


@dataclass(frozen=True)
class NoGhost:
    """Why there is none; ``sunk`` how far the pelvis would have to sink at most, in the scale's unit."""

    why: Why
    reason: str = ""
    sunk: float = 0.0


@dataclass(frozen=True)
class AimAt:
    """Limits of a measure at a checkpoint, in the unit in which the study tells it; infinite where open.
    Past them by no more than ``slack`` nothing is wrong.
    """

    frame: float
    lo: float = -NO_LIMIT
    hi: float = NO_LIMIT
    slack: float = 0.0


@dataclass(frozen=True)
class Ghost:
    """A swing with one number moved: by how much at each frame, and what of the body goes with it.

    ``own`` and ``aim`` (T,) are the measure as it is and inside its corridor, ``by`` (T,) how far the part
    is moved for it, ``sunk`` (T,) how far the pelvis sinks, in the scale's unit. ``first`` and ``last`` are
    the frames of address and of the end.
    """

    key: str
    part: Carried
    body: JointedBody
    way: Way
    then: Mapping[str, FloatArray]
    own: FloatArray
    aim: FloatArray
    by: FloatArray
    sunk: FloatArray
    first: int
    last: int

    @property
    def deepest(self) -> float:
        """How far the pelvis sinks at most."""
        return float(self.sunk.max())

    def at(self, frame: int, share: float = 1.0) -> dict[str, FloatArray]:
        """The figure of a frame, (2,) by lead/trail name in the scale's unit, moved by a share of the whole,
        0 as it is to 1 corrected.
        """
        one = slice(frame, frame + 1)
        if self.by[frame] == 0 or share == 0:
            return {name: xy[0] for name, xy in self.body.at(one).own.items()}
        body, goal = self.body.at(one), self.own[one] + share * (self.aim[one] - self.own[one])
        if share == 1:
            return {name: xy[0] for name, xy in body.moved(self.part, self.by[one]).places.items()}
        by, _ = _solve(body, self.part, self.way, self.then, goal, share * self.by[one])
        return {name: xy[0] for name, xy in body.moved(self.part, by).places.items()}

    def value(self, frame: int, share: float = 1.0) -> float:
        """The measure at a frame, moved by a share of the whole."""
        return float(self.own[frame] + share * (self.aim[frame] - self.own[frame]))

    def pixels(self, study: Study, frame: int, share: float = 1.0) -> dict[str, FloatArray]:
        """The figure of a frame on its picture, px (2,) by lead/trail name."""
        places = study.places
        assert isinstance(places, Places)
        found = {}
        for name, moved in self.at(frame, share).items():
            track = study.track(name)
            if track is not None:
                found[name] = track.xy[frame] + places.in_pixels(moved - self.body.own[name][frame])
        return found

    def all(self, share: float = 1.0) -> Moved:
        """Every frame's figure."""
        if share == 1:
            return self.body.moved(self.part, self.by)
        goal = self.own + share * (self.aim - self.own)
        by, _ = _solve(self.body, self.part, self.way, self.then, goal, share * self.by)
        return self.body.moved(self.part, by)


def correct(study: Study, key: str, limits: Sequence[AimAt], stature: float | None = None) -> Ghost | NoGhost:
    """The swing with a measure inside its limits; ``stature`` in the scale's unit where it is known.

    >>> from kneel.motion.example import example
    >>> ghost = correct(example(), "pelvis_shift", [AimAt(48.0, lo=-2.0)])
    >>> round(float(ghost.aim[48]), 2), round(float(ghost.own[48]), 1), ghost.deepest < 0.5
    (-2.0, -6.1, True)
    """
    return moved_to(
        study, key, lambda own, first, last: corridor(own, limits, first, last), stature, asked=bool(limits)
    )


def moved_to(
    study: Study,
    key: str,
    aim_of: Callable[[FloatArray, int, int], FloatArray],
    stature: float | None = None,
    *,
    asked: bool = True,
) -> Ghost | NoGhost:
    """The swing with a measure where ``aim_of`` wants it: from what it is (T,) and the frames of address and
    end to what it is to be.

    >>> from kneel.motion.example import example
    >>> ghost = moved_to(example(), "pelvis_shift", lambda own, first, last: own / 2)
    >>> round(float(ghost.aim[48]), 1)
    -3.1
    """
    way = study.way(key)
    if isinstance(way, Failed):
        return NoGhost(Why.OTHER if way.code == "view" else Why.POINTS, way.reason)
    if way.carried is None:
        return NoGhost(Why.OTHER)
    if not asked:
        return NoGhost(Why.NO_WINDOW)
    body = jointed(study, stature)
    if isinstance(body, Failed):
        return NoGhost(Why.POINTS, body.reason)
    places = study.places
    assert isinstance(places, Places)
    if any(name not in body.own for name in way.needs):
        return NoGhost(Why.OTHER)
    then = {name: places.xy[name][places.address_frame] for name in way.points}
    own = _told(way, body.own, then)
    first, last = _ends(study)
    aim = aim_of(own, first, last)
    # Before address and after the end the figure stands as it does there.
    for beyond, end in ((slice(0, first), first), (slice(last + 1, None), last)):
        aim[beyond] = own[beyond] + (aim[end] - own[end])
    if not np.any(aim != own):
        return NoGhost(Why.INSIDE)
    by, missed = _solve(body, way.carried, way, then, aim, np.zeros(len(own)))
    moved = body.moved(way.carried, by)
    per_cm = 1.0 / places.scale.cm_per_unit if isinstance(places.scale, Scale) else 1.0
    part = slice(first, last + 1)
    if np.isinf(moved.sunk).any() or missed.any():
        return NoGhost(Why.REACH)
    if np.mean(moved.sunk[part] > SUNK_CM * per_cm) > SUNK_SHARE:
        return NoGhost(Why.SINKS, sunk=float(moved.sunk.max()))
    return Ghost(key, way.carried, body, way, then, own, aim, by, moved.sunk, first, last)


def corridor(own: FloatArray, limits: Sequence[AimAt], first: int, last: int) -> FloatArray:
    """A measure (T,) brought inside its corridor between two frames; what lies apart from any checkpoint that
    is past its limit stays as it is.

    >>> own = np.array([0.0, -2.0, -4.0, -2.0, 0.0])
    >>> corridor(own, [AimAt(2.0, lo=-1.0)], 0, 4).tolist()
    [0.0, -0.5, -1.0, -0.5, 0.0]
    """
    frames = np.arange(len(own))
    aim = own.copy()
    for sign, limit in ((1.0, [one.lo for one in limits]), (-1.0, [-one.hi for one in limits])):
        inside = [
            (one.frame, edge, one.slack) for one, edge in zip(limits, limit, strict=True) if np.isfinite(edge)
        ]
        known = {frame: (edge, slack) for frame, edge, slack in inside if first <= frame <= last}
        if not known:
            continue
        for end in (first, last):
            if not any(abs(frame - end) < 0.5 for frame in known):
                known[float(end)] = sign * float(own[end]), 0.0
        at = np.array(sorted(known))
        edges, slack = np.array([known[frame] for frame in at]).T
        short = edges - sign * np.interp(at, frames, own) > slack + 1e-9
        # A stretch is moved where either of its ends is past the limit.
        stretch = np.clip(np.searchsorted(at, frames, side="right") - 1, 0, len(at) - 2)
        moved = (short[stretch] | short[stretch + 1]) & (frames >= at[0]) & (frames <= at[-1])
        edge = sign * np.interp(frames, at, edges)
        aim = np.where(moved, sign * np.maximum(sign * aim, sign * edge), aim)
    return aim


def _ends(study: Study) -> tuple[int, int]:
    """The frames of address, or the first, and of the last checkpoint."""
    at = study.checkpoints
    first = at["address"].shown if "address" in at else 0
    return first, max(one.shown for one in at.values())


def _told(way: Way, places: Mapping[str, FloatArray], then: Mapping[str, FloatArray]) -> FloatArray:
    return np.asarray(way.compute(places, then), dtype=np.float64)


def _solve(
    body: JointedBody,
    part: Carried,
    way: Way,
    then: Mapping[str, FloatArray],
    goal: FloatArray,
    start: FloatArray,
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """How far the part is moved at each frame for the measure to reach its goal (T,), and where it cannot.

    Secant steps, each frame by itself. Frames that need no move stay exactly.
    """
    own = _told(way, body.own, then)
    still = goal == own
    low, by = np.zeros(len(goal)), np.where(still, 0.0, np.where(start == 0.0, 1.0, start))
    missing = own - goal
    enough = WITHIN * np.maximum(np.abs(missing), 1.0)
    miss = missing
    for _ in range(ROUNDS):
        miss = _told(way, body.moved(part, by).places, then) - goal
        open_ = ~still & (np.abs(miss) > enough / 10)
        if not open_.any():
            break
        slope = (miss - missing) / np.where(by == low, np.nan, by - low)
        step = np.where(np.abs(slope) > 1e-6, -miss / np.where(slope == 0, np.nan, slope), 0.0)
        step = np.clip(np.nan_to_num(step), -LONGEST_STEP, LONGEST_STEP)
        low, missing, by = by, miss, np.where(open_, by + step, by)
    return by, ~still & ((np.abs(miss) > enough) | (np.abs(by) > FARTHEST))
