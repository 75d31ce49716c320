"""From the network's landmarks to sightings of every joint, with errors that say what they are worth.

The network's errors are of three kinds: a lasting offset (this body in these
clothes), one that wanders with the pose, and scatter from frame to frame.
The solver finds the first two together with the path (``kneel.motion.track``).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from kneel.model import Sighting, View
from kneel.vision.landmarks.doubt import PAIRS, doubts_of, doubts_together
from kneel.vision.landmarks.hands import LEFT, RIGHT, grip_of
from kneel.vision.landmarks.looks import Landmarks
from kneel.vision.landmarks.outline import face_on, hips_moved, seat_of
from kneel.vision.landmarks.sides import USUAL_STEP_S, exchanged, unswapped

FloatArray = NDArray[np.float64]

POSE_SHARE, SLOW_S = 0.12, 2.0
"""An error that goes with the pose keeps its size until shoulders, elbows and hands, or the leg's own knee
and ankle, have moved by this share of the body's height against the hips (a backswing moves the first by
0.6, as the root of their mean square), or for so long (simulated swings)."""

POSE_SMOOTH_S = 0.02
"""Jitter of the landmarks is no change of pose."""

DOUBT_SMOOTH_S = 0.03
"""A landmark comes and goes no faster."""

ALONE_TIMES = 3.0
"""Scatter of a grip that one hand alone tells."""

HIPS_LOW = 0.013
"""How much too low the network has the hips of everybody, as a share of the body's height."""

NOT_OUTLINED_TIMES = 1.7
"""Hips that do not follow the body's outline where it could be seen wander by so much more."""

LEG: Final = ("knee", "ankle", "heel", "toe")
"""Joints whose errors go with the pose of their own leg as well."""

# Landmarks of the network by point; several are averaged.
_POINTS: Final = {
    "head": (7, 8),
    "grip": (*LEFT, *RIGHT),
    **{
        f"{side}_{joint}": (first + k,)
        for joint, first in (
            ("shoulder", 11),
            ("elbow", 13),
            ("wrist", 15),
            ("hip", 23),
            ("knee", 25),
            ("ankle", 27),
            ("heel", 29),
            ("toe", 31),
        )
        for k, side in enumerate(("left", "right"))
    },
}

# Lasting offset, error that goes with the pose, and scatter, as shares of the body's height in the picture;
# measured on simulated swings of six styles and on two filmed cameras (docs/accuracy.md).
ERRORS: Final = {
    "head": (0.009, 0.0080, 0.004),
    "shoulder": (0.011, 0.0085, 0.005),
    "elbow": (0.015, 0.0260, 0.010),
    "wrist": (0.020, 0.0350, 0.020),
    "grip": (0.012, 0.0150, 0.010),
    "hip": (0.0113, 0.0080, 0.003),
    "knee": (0.010, 0.0062, 0.003),
    "ankle": (0.011, 0.0095, 0.004),
    "heel": (0.014, 0.0120, 0.005),
    "toe": (0.014, 0.0120, 0.006),
    "seat": (0.016, 0.0080, 0.003),
}


@dataclass(frozen=True)
class Bodies:
    """The golfer's joints: ``sightings`` by point over T frames.

    ``square`` is whether the camera faces the body or its back, ``outlined``
    whether the hips follow the body's outline, ``swapped`` whether left and
    right were exchanged throughout. ``others`` (K, T, 3) are the squares round
    everybody else: middle and side, px.
    """

    sightings: dict[str, Sighting]
    height_px: float
    square: bool = False
    outlined: bool = False
    swapped: bool = False
    others: FloatArray = field(default_factory=lambda: np.zeros((0, 0, 3)))


def joints(
    looks: Landmarks, times_s: FloatArray, *, view: View | None = None, mirrored: bool = False
) -> Bodies:
    """Landmarks of the frames looked at as sightings over all frames.

    ``times_s`` (T,) are real seconds. ``view`` is where the camera stands, None where that is to be seen;
    ``mirrored`` is whether the picture is known to be a mirror image.
    """
    count = len(times_s)
    if not looks.seen.any():
        return Bodies({}, float("nan"))
    height = looks.height_px
    looked_s = times_s[looks.frames]
    # Looks are dense where the hands are quick: each stands for its own stretch of time.
    step_s = np.gradient(looked_s) if len(looked_s) > 1 else np.full(len(looked_s), USUAL_STEP_S)
    square = face_on(looks.xy) if view is None else view is not View.DOWN_THE_LINE
    marks = unswapped(np.dstack([looks.xy, looks.visible]), height, step_s, square=square)
    xy, visible = marks[..., :2].copy(), marks[..., 2]
    sides = np.any(xy != looks.xy, axis=2) & np.isfinite(xy[..., 0])
    # Where it sees the pelvis from its other side, the chest is no surer.
    sides[:, 11:17] |= sides[:, 23:25].any(axis=1, keepdims=True)
    # Where it takes a front for a back it has the legs between where they are and where they would be then.
    sides[:, 23:33] |= sides[:, 11:17].any(axis=1, keepdims=True)
    trusted = np.zeros(len(xy), dtype=bool)
    xy[:, 23:25, 1] -= HIPS_LOW * height
    if square:
        moved, trusted = hips_moved(xy, looks.edges)
        xy[:, 23:25, 0] += moved[:, None]
    grip, alone = grip_of(xy, height, step_s)
    clocks = _pose_clocks(xy / height, looks.frames, times_s)
    doubts = doubts_of(xy / height, visible, looks.frames, times_s, sides)
    sightings = {}
    for name, of in _POINTS.items():
        side, _, joint = name.rpartition("_")
        offset, wander, scatter = (height * share for share in ERRORS[joint])
        clock = clocks[side if joint in LEG else ""]
        place = np.full((count, 2), np.nan)
        place[looks.frames] = grip if name == "grip" else xy[:, of].mean(axis=1)
        place[looks.frames[visible[:, of].max(axis=1) < 0]] = np.nan
        error = np.full(count, scatter)
        doubt = doubts[:, of].min(axis=1)
        if name == "grip" or name.endswith("_wrist"):
            error[looks.frames] *= np.where(alone, ALONE_TIMES, 1.0)
        together = None
        if joint in PAIRS:
            together = doubts_together(xy / height, visible, looks.frames, times_s, joint)
        if joint == "hip" and square:
            for one in (doubt, together):
                assert one is not None
                one[~trusted] *= NOT_OUTLINED_TIMES
        sightings[name] = Sighting(
            place,
            error,
            offset=offset,
            wander=wander,
            wander_s=1.0,
            clock=clock,
            doubt=_over_all(doubt, looks, times_s),
            doubt_together=None if together is None else _over_all(together, looks, times_s),
        )
    if not square:
        place = np.full((count, 2), np.nan)
        place[looks.frames] = seat_of(xy, looks.edges)
        offset, wander, scatter = (height * share for share in ERRORS["seat"])
        sightings["seat"] = Sighting(
            place, np.full(count, scatter), offset=offset, wander=wander, wander_s=1.0, clock=clocks[""]
        )
    swapped = exchanged(xy, view, mirrored=mirrored)
    every = np.arange(count)
    others = [[np.interp(every, looks.frames, column) for column in one.T] for one in looks.others]
    beside = np.array(others).reshape(len(others), 3, count).transpose(0, 2, 1)
    return Bodies(sightings, height, square, bool(trusted.any()), swapped, beside)


def _over_all(doubt: FloatArray, looks: Landmarks, times_s: FloatArray) -> FloatArray:
    """Doubt of the frames looked at (N,) over all frames (T,): the worse of what is near, smoothed."""
    seen = np.flatnonzero(looks.seen)
    every = np.interp(np.arange(len(times_s)), looks.frames[seen], doubt[seen])
    if len(times_s) < 2:
        return every
    reach = max(DOUBT_SMOOTH_S / float(np.median(np.diff(times_s))), 0.3)
    widest = maximum_filter1d(every, 2 * round(reach) + 1)
    return np.maximum(gaussian_filter1d(widest, reach), 1.0)


def _pose_clocks(xy: FloatArray, frames: NDArray[np.int64], times_s: FloatArray) -> dict[str, FloatArray]:
    """How far the pose has changed since the first frame, (T,): 1 is when an error has become another.

    ``xy`` (N, 39, 2) are landmarks in body heights, at ``frames`` (N,). One
    clock under ``""`` goes with shoulders, elbows and hands, those of
    ``left`` and ``right`` go with that leg's knee and ankle as well.
    """
    seen = np.flatnonzero(np.isfinite(xy[:, 23, 0]))
    every = np.arange(len(times_s))
    step = float(np.median(np.diff(times_s))) if len(times_s) > 1 else 1.0

    def way(places: FloatArray) -> FloatArray:
        flat = places[seen].reshape(len(seen), -1)
        whole = np.stack([np.interp(every, frames[seen], column) for column in flat.T], axis=1)
        whole = gaussian_filter1d(whole, max(POSE_SMOOTH_S / step, 0.3), axis=0)
        # A chest that turns moves its joints, though not their middle.
        steps = np.sqrt((np.diff(whole, axis=0) ** 2).sum(axis=1) / places.shape[1])
        return np.concatenate([[0.0], np.cumsum(steps)])

    upper = way(xy[:, 11:17] - xy[:, 23:25].mean(axis=1, keepdims=True))
    legs = {
        side: way(xy[:, (25 + k, 27 + k)] - xy[:, 23 + k, None]) for k, side in enumerate(("left", "right"))
    }
    slow = (times_s - times_s[0]) / SLOW_S
    return {side: (upper + legs.get(side, 0.0)) / POSE_SHARE + slow for side in ("", "left", "right")}


def other_side(name: str) -> str:
    """The same joint of the other side.

    >>> other_side("left_hip"), other_side("head")
    ('right_hip', 'head')
    """
    side, _, joint = name.partition("_")
    return f"{'right' if side == 'left' else 'left'}_{joint}" if joint else name
