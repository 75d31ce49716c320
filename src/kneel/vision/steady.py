"""How the camera moved: what lies round the golfer is followed, and what most of it agrees on is the camera.

Every frame is compared with a key frame, not with its neighbour, so that
errors do not add up; the key is renewed only when too little of it is left.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath, Links, Sighting
from kneel.motion.feet import way_of_both
from kneel.vision.parallax import GroundShift, fit_shifts, no_shift

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]
Luma = Callable[[int], Picture]

WIDEST = 640
"""Pictures are looked at no wider than this: corners by the hundred make up for the smaller scale."""

EVENED_PX, EVEN, DARKEST = 41, 110.0, 8.0
"""The light round each place, over so many pixels, is brought to one grey; less so in the dark."""

CORNERS, APART_PX, QUALITY = 240, 9, 0.002
BLOCK, ROUND = 7, 0.15
"""A corner has slopes both ways: the lesser at least this share of the greater."""

SMOOTHED_PX, LEFT_OF_MARK, LEAST_CONTRAST = 1.5, 0.12, 2.0
"""Smoothing by so much leaves 1/(4 pi 1.5^2) = 0.035 of white noise's variance, and far more of a mark's."""

LEAST_CORNERS = 24
LEAST_SHARE = 0.5
"""So many corners of a key frame must agree on one motion, and so many of those that move about alike."""

MOST_KEYS = 4

LOOSE_PX, AGREE_PX, BACK_PX = 4.0, 0.8, 0.5
"""How well corners agree: on a turn and a shift at all, on the motion in the end, and there and back."""

WINDOW = 15
MARGIN_M = 0.43
"""What lies as near as this round the joints is not looked at."""

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

    Where it moved and could not be followed the path is none at all with a
    wide error; before a bare wall it is none at all, as unsure as the
    golfer's ``feet`` (N, T, 2) seem to go there. So it is where what was found
    jumps about as no hand does (``JUMPS``). ``luma(n)`` gives the
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
    glances = [_Guess(ground) for ground in grounds]
    every = boxes[None] if others is None else np.concatenate([boxes[None], scale * others])
    key = Key(before, every[:, 0], glances)
    glanced = np.unique(np.linspace(1, frames - 1, GLANCES).astype(int)).tolist()
    if key.bare():
        return _by_feet(feet, px_per_m)
    seen = all(key.take(evened(luma(n), scale), glances) for n in glanced)
    if seen and _best(glances).moved(middle).max() < STANDS_PX:
        return None
    guesses = [_Guess(ground) for ground in grounds]
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
        return CameraPath.none(np.full(frames, adrift))
    if moved.max() < STILL_PX / scale:
        return None
    if _jumps(best.way(middle)) > JUMPS:
        if feet is None:
            return CameraPath.none(np.full(frames, float(np.sqrt((moved**2).mean()))))
        return _by_feet(feet, px_per_m)
    maps = best.golfers(middle)
    maps[:, :, 2] /= scale
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


def _by_feet(feet: FloatArray | None, px_per_m: float) -> CameraPath | None:
    way = None if feet is None or not len(feet) else way_of_both(feet, 0)
    if way is None or way.max() < FEET_M * px_per_m:
        return None
    return CameraPath.none(way)


class _Guess:
    """What the frames so far tell if the ground ends at one row: their shifts, and how badly they fit."""

    def __init__(self, ground: GroundShift) -> None:
        self.ground, self.shifts = ground, [no_shift(ground)]
        self.cost = 0.0

    def golfers(self, middle: FloatArray) -> FloatArray:
        """The maps (T, 2, 3) of what is as far away as the golfer, at the smaller scale."""
        return np.array([shift.golfer(middle) for shift in self.shifts])

    def moved(self, middle: FloatArray) -> FloatArray:
        """How far ``middle`` (2,) was moved in each frame, (T,) px at the smaller scale."""
        return np.asarray(np.linalg.norm(self.way(middle), axis=1))

    def way(self, middle: FloatArray) -> FloatArray:
        """Where ``middle`` (2,) was moved to in each frame, (T, 2) px at the smaller scale from its place."""
        maps = self.golfers(middle)
        return np.asarray(CameraPath(maps, np.zeros(len(maps))).moved(middle))


def _best(guesses: Sequence[_Guess]) -> _Guess:
    return min(guesses, key=lambda guess: guess.cost)


class Key:
    """A frame that others are compared with: its picture, its corners, and their places in the first."""

    def __init__(self, picture: Picture, boxes: FloatArray, guesses: Sequence[_Guess]) -> None:
        free = np.full(picture.shape, 255, np.uint8)
        for left, top, right, bottom in boxes.round().astype(int).tolist():
            free[max(top, 0) : max(bottom, 0), max(left, 0) : max(right, 0)] = 0
        slopes = cv2.cornerEigenValsAndVecs(picture, BLOCK, 3)[:, :, :2]
        # Along an edge nothing holds a corner: it stays where it was guessed to be, and would say so.
        free[slopes.min(axis=2) < ROUND * slopes.max(axis=2)] = 0
        found = cv2.goodFeaturesToTrack(picture, CORNERS, QUALITY, APART_PX, mask=free, blockSize=BLOCK)
        corners = np.zeros((0, 2)) if found is None else np.asarray(found).reshape(-1, 2)
        self.picture, self.corners = picture, corners.astype(np.float32)
        self.places = [guess.shifts[-1].back(corners.astype(np.float64)) for guess in guesses]

    def bare(self) -> bool:
        """Whether the corners are too few that are more than noise: smoothing leaves a mark what it is."""
        sharp = self.picture.astype(np.float32)
        smooth = np.asarray(cv2.GaussianBlur(sharp, (0, 0), SMOOTHED_PX), np.float32)
        left = _variance(smooth) > np.maximum(LEFT_OF_MARK * _variance(sharp), LEAST_CONTRAST**2)
        column, row = self.corners.round().astype(int).T
        return int(left[row, column].sum()) < LEAST_CORNERS

    def take(self, picture: Picture, guesses: Sequence[_Guess]) -> bool:
        """Add what ``picture`` tells to every guess; False where too little of the key is left in it."""
        if len(self.corners) < LEAST_CORNERS:
            return False
        there, held = self.followed(picture, guesses[0].shifts[-1].there(self.places[0]))
        together = self._together(there, held)
        if together.sum() < LEAST_CORNERS:
            return False
        places = np.array([at[together] for at in self.places])
        shifts, off = fit_shifts(places, there[together], [guess.ground for guess in guesses])
        if int((off < AGREE_PX).sum(axis=1).max()) < max(LEAST_CORNERS, LEAST_SHARE * together.sum()):
            return False
        fair = guesses[0].ground.fairness(places[0, :, 1])
        costs = np.average(np.minimum(off, AGREE_PX), axis=1, weights=fair)
        for guess, shift, cost in zip(guesses, shifts, costs.tolist(), strict=True):
            guess.shifts.append(shift)
            guess.cost += cost
        return True

    def followed(self, picture: Picture, start: FloatArray) -> tuple[FloatArray, NDArray[np.bool_]]:
        """Where the corners are in ``picture``, and which of them lead back."""
        size, flags = (WINDOW, WINDOW), cv2.OPTFLOW_USE_INITIAL_FLOW
        if not len(self.corners):
            return np.zeros((0, 2)), np.zeros(0, dtype=bool)
        found, seen, _ = cv2.calcOpticalFlowPyrLK(
            self.picture,
            picture,
            self.corners,
            start.astype(np.float32),
            winSize=size,
            maxLevel=2,
            flags=flags,
        )
        there = np.asarray(found, np.float32)
        back, held, _ = cv2.calcOpticalFlowPyrLK(
            picture, self.picture, there, self.corners.copy(), winSize=size, maxLevel=2, flags=flags
        )
        good = (seen.ravel() == 1) & (held.ravel() == 1)
        good &= np.linalg.norm(np.asarray(back) - self.corners, axis=1) < BACK_PX
        return there.astype(np.float64), good

    def _together(self, there: FloatArray, held: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Those that move together but for what carrying the camera adds."""
        out = np.zeros(len(held), dtype=bool)
        if held.sum() < LEAST_CORNERS:
            return out
        _, agree = cv2.estimateAffinePartial2D(
            self.corners[held], there[held], method=cv2.RANSAC, ransacReprojThreshold=LOOSE_PX
        )
        out[held] = np.asarray(agree).ravel() == 1
        return out


@dataclass(frozen=True)
class Unmoved:
    """A clip as a camera that did not move would have seen it: brightness, and what is known of points."""

    luma: Luma
    seen: Mapping[str, Sequence[Sighting]]
    links: Mapping[str, Sequence[Links]]
    _path: CameraPath | None

    def shown(self, sighting: Sighting) -> Sighting:
        """What was found here as the clip itself shows it."""
        return sighting if self._path is None else replace(sighting, xy=self._path.seen(sighting.xy))


def unmoved(
    path: CameraPath | None,
    luma: Luma,
    seen: Mapping[str, Sequence[Sighting]],
    links: Mapping[str, Sequence[Links]],
) -> Unmoved:
    """Take the camera's motion out of pictures and points; all as it is where ``path`` is None."""
    if path is None:
        return Unmoved(luma, seen, links, None)
    still = {
        name: tuple(replace(one, xy=path.steadied(one.xy)) for one in many) for name, many in seen.items()
    }
    steps = {
        name: tuple(_steady_steps(one, seen[name][0].xy, path) for one in many)
        for name, many in links.items()
        if seen.get(name)
    }
    return Unmoved(_steady_luma(luma, path), still, steps, path)


def _steady_steps(links: Links, xy: FloatArray, path: CameraPath) -> Links:
    """Steps between frames with the camera's own taken out, about where the point was seen."""
    frames = np.arange(len(xy))
    known = np.isfinite(xy[:, 0])
    about = np.stack([np.interp(frames, frames[known], xy[known, k]) for k in (0, 1)], axis=1)
    landed = np.vstack([about[:1], about[:-1] + links.step])
    return Links(path.steadied(landed)[1:] - path.steadied(about)[:-1], links.sigma.copy())


def _steady_luma(luma: Luma, path: CameraPath) -> Luma:
    def still(number: int) -> Picture:
        picture = luma(number)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        size = (picture.shape[1], picture.shape[0])
        moved = cv2.warpAffine(picture, path.maps[number], size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(moved, dtype=np.uint8)

    return still


def _variance(picture: NDArray[np.float32]) -> NDArray[np.float32]:
    """Variance of a picture round each of its places."""
    mean = np.asarray(cv2.GaussianBlur(picture, (0, 0), BLOCK), np.float32)
    return np.asarray(cv2.GaussianBlur(picture**2, (0, 0), BLOCK), np.float32) - mean**2


def evened(picture: Picture, scale: float) -> Picture:
    """The picture at the smaller scale, its light evened: lamps flicker, some in bands across the picture."""
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32)
    around = np.maximum(np.asarray(cv2.blur(small, (EVENED_PX, EVENED_PX))), DARKEST)
    return np.clip(small * (EVEN / around), 0, 255).astype(np.uint8)


def boxes_round(joints: FloatArray, margin: float) -> FloatArray:
    """Left, top, right, bottom, ``margin`` px round the golfer, (T, 4); empty where no joint is known."""
    known = np.isfinite(joints[:, :, 0]) & np.isfinite(joints[:, :, 1])
    at = np.flatnonzero(known.any(axis=0))
    if not at.size:
        return np.zeros((joints.shape[1], 4))
    shown = np.where(known[:, at, None], joints[:, at], np.nan)
    corners = np.hstack([np.nanmin(shown, axis=0), np.nanmax(shown, axis=0)])
    corners += margin * np.array([-1, -1, 1, 1])
    frames = np.arange(joints.shape[1])
    return np.stack([np.interp(frames, at, side) for side in corners.T], axis=1)
