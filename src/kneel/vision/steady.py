"""How the camera moved: what lies round the golfer is followed, and what most of it agrees on is the camera.

Every frame is compared with a key frame, not with its neighbour, so that
errors do not add up; the key is renewed only when too little of it is left.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath
from kneel.motion.feet import way_of_both
from kneel.vision.edges import stands_by_edges
from kneel.vision.keyframe import MARGIN_M, WIDEST, Guess, Key, boxes_round, evened
from kneel.vision.parallax import GroundShift

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]
Luma = Callable[[int], Picture]

MOST_KEYS = 4

ENDS = (0.3, 0.5, 0.65, 0.8, 0.9)
"""Where the ground may end, as shares of the way from the picture's top to the golfer's feet."""

STILL_PX = 0.4
"""A camera that moves the golfer's place by less, at the smaller scale, is taken for standing still."""

GLANCES, STANDS_PX = 24, 0.3
"""A camera that moves the golfer's place by less in this many frames is on a stand, and no more is asked of
it. Where pictures are coded coarsely every corner is off by 0.2 to 0.3, the place of a
golfer before a camera on a stand by up to 0.25 (30 drawn clips)."""

FEET_M = 0.02
"""Before a bare wall feet that seem to go no farther than this stand before a camera that stands."""

JUMPS = 0.4
"""A way that goes so far from frame to frame, against how far it goes at all, is no hand's: those of sixty
simulated hands at 24 to 240 frames a second come to 0.05 to 0.22, one of ground that was coded away in the
dark to 0.75."""

CARRIED_M = 0.012
"""How far a hand that holds a camera carries it in a swing (common practice, no source)."""

MOST_LOST, LOST_M = 0.3, 0.05
"""A path with more frames than this share in which nothing agrees is none; how far off one may be there."""

MISSED, MISSED_NEAR, MISSED_CARRIED = 0.06, 0.3, 0.4
"""Of the whole motion, of that against what lies behind, and of what a hand usually carries, so much may be
missed: the golfer leans, the ground is not level, a wall is bare (simulated clips, docs/accuracy.md)."""


def camera_path(
    luma: Luma,
    joints: FloatArray,
    *,
    px_per_m: float,
    feet: FloatArray | None = None,
    others: FloatArray | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> CameraPath | None:
    """The camera's path over the frames of ``luma``, or None where it stood still.

    Where it could not be followed it stood if edges show that, else the path is
    none at all with a wide error; before a bare wall, as unsure as the
    golfer's ``feet`` (N, T, 2) seem to go there. So it is where what was found
    jumps about as no hand does (``JUMPS``), or leaves both feet going farther
    than they seemed to. ``luma(n)`` gives the
    brightness (H, W) of frame n, ``joints`` (P, T, 2) px the golfer's joints,
    NaN where not known: they and what is near them do not count, nor does what
    lies in the boxes round ``others`` (K, T, 4), left, top, right and bottom px.
    ``px_per_m`` is a rough px per metre at the golfer.
    """
    frames = joints.shape[1]
    if frames < 2:
        return None
    whole = luma(0)
    scale = min(1.0, WIDEST / whole.shape[1])
    boxes = boxes_round(joints, MARGIN_M * px_per_m) * scale
    foot = float(boxes[0, 3] - MARGIN_M * px_per_m * scale) if boxes[0, 3] else 0.85 * scale * whole.shape[0]
    before = evened(whole, scale)
    centre = (np.array(before.shape[::-1]) - 1) / 2
    adrift = LOST_M * px_per_m
    known = joints[np.isfinite(joints).all(axis=2)]
    middle = np.median(known, axis=0) * scale if len(known) else centre
    grounds = [GroundShift(centre, share * foot, foot, CARRIED_M * px_per_m * scale) for share in ENDS]
    glances = [Guess(ground) for ground in grounds]
    every = boxes[None] if others is None else np.concatenate([boxes[None], scale * others])
    key = Key(before, every[:, 0], glances)
    glanced = np.unique(np.linspace(1, frames - 1, GLANCES).astype(int)).tolist()

    def untold(unsure: CameraPath | None) -> CameraPath | None:
        """None where edges show that the camera stood."""
        pictures = [key.picture, *(evened(luma(n), scale) for n in glanced)] if unsure is not None else []
        at = every[:, [0, *glanced]].swapaxes(0, 1)
        return None if unsure is None or stands_by_edges(pictures, at) else unsure

    if key.bare():
        return untold(_by_feet(feet, px_per_m))
    seen = all(key.take(evened(luma(n), scale), glances) for n in glanced)
    if seen and _best(glances).moved(middle).max() < STANDS_PX:
        return None
    guesses = [Guess(ground) for ground in grounds]
    keys = [Key(before, every[:, 0], guesses)]
    lost = np.zeros(frames, dtype=bool)
    for n in range(1, frames):
        if stopped():
            return None
        picture = evened(luma(n), scale)
        # The oldest key first: a hand comes back to where it was, and nothing has added up there.
        if not any(key.take(picture, guesses) for key in keys):
            keys = [*keys[: MOST_KEYS - 1], Key(before, every[:, n - 1], guesses)]
            lost[n] = not keys[-1].take(picture, guesses)
        if lost[n]:
            keys.pop()
            for guess in guesses:
                guess.shifts.append(guess.shifts[-1])
        before = picture
    best = _best(guesses)
    moved = best.moved(middle) / scale
    if lost.mean() > MOST_LOST:
        return untold(CameraPath.none(np.full(frames, adrift)))
    if moved.max() < STILL_PX / scale:
        return None
    if _jumps(best.way(middle)) > JUMPS:
        if feet is None:
            return untold(CameraPath.none(np.full(frames, float(np.sqrt((moved**2).mean())))))
        return untold(_by_feet(feet, px_per_m))
    maps = best.golfers(middle)
    maps[:, :, 2] /= scale
    if feet is not None and _unsteadies(maps, feet):
        return untold(_by_feet(feet, px_per_m))
    near = np.array([np.linalg.norm(shift.near) for shift in best.shifts]) / scale
    carried = np.minimum(moved, CARRIED_M * px_per_m)
    fit = np.array([shift.sigma(middle) for shift in best.shifts]) / scale
    fit[lost] = adrift
    parts = (MISSED * moved, MISSED_NEAR * near, MISSED_CARRIED * carried, fit)
    return CameraPath(maps, np.linalg.norm(parts, axis=0))


def _jumps(way: FloatArray) -> float:
    """How far a way (T, 2) goes from frame to frame, against how far it goes at all: 1 where each of its
    places has nothing to do with the one before.
    """
    steps, places = np.diff(way, axis=0), way - way.mean(axis=0)
    return float(np.sqrt((steps**2).sum() / 2 / max(float((places**2).sum()), 1e-12)))


def _unsteadies(maps: FloatArray, feet: FloatArray) -> bool:
    """Whether both of the golfer's feet go farther once a path is taken out than before: it is no camera's.

    Under a hand they go two to ten times as far before (drawn clips); corners that are off together, as
    coarse coding has them, leave them going farther after.
    """
    path = CameraPath(maps, np.zeros(len(maps)))
    before, after = (way_of_both(xy, 0) for xy in (feet, np.array([path.steadied(one) for one in feet])))
    return before is not None and after is not None and bool((after**2).mean() > (before**2).mean())


def _by_feet(feet: FloatArray | None, px_per_m: float) -> CameraPath | None:
    way = None if feet is None or not len(feet) else way_of_both(feet, 0)
    if way is None or way.max() < FEET_M * px_per_m:
        return None
    return CameraPath.none(way)


def _best(guesses: Sequence[Guess]) -> Guess:
    return min(guesses, key=lambda guess: guess.cost)
