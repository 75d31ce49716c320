"""From the network's landmarks to sightings of every joint, with errors that say what they are worth.

The network's errors are of three kinds: a lasting offset (this body in these
clothes), one that wanders with the pose, and scatter from frame to frame.
The solver finds the first two together with the path (``kneel.motion.track``).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from kneel.model import Sighting, View
from kneel.vision.landmarks.body import Landmarks
from kneel.vision.landmarks.hands import LEFT, RIGHT, grip_of
from kneel.vision.landmarks.outline import face_on, hips_moved, seat_of
from kneel.vision.landmarks.sides import exchanged, unswapped

FloatArray = NDArray[np.float64]

POSE_SHARE, SLOW_S = 0.12, 2.0
"""An error that goes with the pose keeps its size until shoulders, elbows and hands have moved by this share
of the body's height against the hips (a backswing moves them by 0.34), or for so long (simulated swings)."""

POSE_SMOOTH_S = 0.02
"""Jitter of the landmarks is no change of pose."""

UNSEEN = 0.3
"""Less visible than this a landmark is hidden, and its error counts this much more:"""
HIDDEN_TIMES = 3.0
NOT_OUTLINED_TIMES = 1.7
"""Hips that do not follow the body's outline where it could be seen wander by so much more."""

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

# Lasting offset, error that goes with the pose, and scatter, as shares of the body's height in the picture,
# for a body seen square and from the side; measured on simulated swings (docs/accuracy.md). Both hips err
# together as the pelvis turns, so that their mean is no surer than each.
_ERRORS: Final = {
    True: {
        "head": (0.012, 0.0090, 0.004),
        "shoulder": (0.015, 0.0235, 0.005),
        "elbow": (0.015, 0.0260, 0.010),
        "wrist": (0.020, 0.0380, 0.020),
        "grip": (0.012, 0.0150, 0.010),
        "hip": (0.022, 0.0080, 0.003),
        "knee": (0.010, 0.0070, 0.003),
        "ankle": (0.010, 0.0065, 0.003),
        "heel": (0.012, 0.0100, 0.004),
        "toe": (0.012, 0.0070, 0.005),
    },
    False: {
        "head": (0.012, 0.0090, 0.004),
        "shoulder": (0.015, 0.0190, 0.005),
        "elbow": (0.015, 0.0290, 0.012),
        "wrist": (0.020, 0.0350, 0.020),
        "grip": (0.012, 0.0250, 0.014),
        "hip": (0.022, 0.0115, 0.003),
        "knee": (0.010, 0.0100, 0.003),
        "ankle": (0.012, 0.0110, 0.005),
        "heel": (0.020, 0.0160, 0.006),
        "toe": (0.020, 0.0220, 0.008),
        "seat": (0.016, 0.0080, 0.003),
    },
}


@dataclass(frozen=True)
class Bodies:
    """The golfer's joints: ``sightings`` by point over T frames.

    ``square`` is whether the camera faces the body or its back, ``outlined``
    whether the hips follow the body's outline, ``swapped`` whether left and
    right were exchanged throughout.
    """

    sightings: dict[str, Sighting]
    height_px: float
    square: bool = False
    outlined: bool = False
    swapped: bool = False


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
    marks = unswapped(np.dstack([looks.xy, looks.visible]), height)
    xy, visible = marks[..., :2].copy(), marks[..., 2]
    trusted = np.zeros(len(xy), dtype=bool)
    square = face_on(xy) if view is None else view is not View.DOWN_THE_LINE
    if square:
        moved, trusted = hips_moved(xy, looks.edges)
        xy[:, 23:25, 0] += moved[:, None]
    grip, alone = grip_of(xy, height)
    clock = _pose_clock(xy / height, looks.frames, times_s)
    errors = _ERRORS[square]
    sightings = {}
    for name, of in _POINTS.items():
        offset, wander, scatter = (height * share for share in errors[name.rsplit("_", 1)[-1]])
        place = np.full((count, 2), np.nan)
        place[looks.frames] = grip if name == "grip" else xy[:, of].mean(axis=1)
        error = np.full(count, scatter)
        unsure = visible[:, of].max(axis=1) < UNSEEN
        if name == "grip" or name.endswith("_wrist"):
            unsure |= alone
        if name.endswith("_hip") and square:
            wander *= 1.0 if trusted.any() else NOT_OUTLINED_TIMES
            unsure |= ~trusted & trusted.any()
        error[looks.frames] *= np.where(unsure, HIDDEN_TIMES, 1.0)
        sightings[name] = Sighting(place, error, offset=offset, wander=wander, wander_s=1.0, clock=clock)
    if not square:
        place = np.full((count, 2), np.nan)
        place[looks.frames] = seat_of(xy, looks.edges)
        offset, wander, scatter = (height * share for share in errors["seat"])
        sightings["seat"] = Sighting(
            place, np.full(count, scatter), offset=offset, wander=wander, wander_s=1.0, clock=clock
        )
    swapped = exchanged(xy, view, mirrored=mirrored)
    return Bodies(sightings, height, square, bool(trusted.any()), swapped)


def _pose_clock(xy: FloatArray, frames: NDArray[np.int64], times_s: FloatArray) -> FloatArray:
    """How far the pose has changed since the first frame, (T,): 1 is when an error has become another.

    ``xy`` (N, 39, 2) are landmarks in body heights, at ``frames`` (N,).
    """
    seen = np.flatnonzero(np.isfinite(xy[:, 23, 0]))
    upper = (xy[:, 11:17].mean(axis=1) - xy[:, 23:25].mean(axis=1))[seen]
    every = np.arange(len(times_s))
    place = np.stack([np.interp(every, frames[seen], upper[:, k]) for k in (0, 1)], axis=1)
    if len(times_s) > 1:
        step = float(np.median(np.diff(times_s)))
        place = gaussian_filter1d(place, max(POSE_SMOOTH_S / step, 0.3), axis=0)
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(place, axis=0), axis=1))])
    return way / POSE_SHARE + (times_s - times_s[0]) / SLOW_S


def other_side(name: str) -> str:
    """The same joint of the other side.

    >>> other_side("left_hip"), other_side("head")
    ('right_hip', 'head')
    """
    side, _, joint = name.partition("_")
    return f"{'right' if side == 'left' else 'left'}_{joint}" if joint else name
