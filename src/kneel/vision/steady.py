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

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]
Luma = Callable[[int], Picture]

WIDEST = 640
"""Pictures are looked at no wider than this: corners by the hundred make up for the smaller scale."""

CORNERS, APART_PX, QUALITY = 240, 9, 0.01
LEAST_CORNERS = 12
LEAST_SHARE = 0.35
"""Of the key frame's corners, so many must agree on one motion."""

AGREE_PX, BACK_PX = 0.7, 0.5
WINDOW = 15
MARGIN = 0.25
"""What lies within this share of the golfer's height round the joints is not looked at."""

STILL_PX = 0.4
"""A camera that moves the golfer's place by less, at the smaller scale, is taken for standing still."""

PARALLAX = 0.15
"""A hand that holds a camera shifts it as well as turning it, and what lies behind the golfer then moves
less than the golfer: so much of the motion may be missed (common practice, no source)."""


def camera_path(
    luma: Luma,
    joints: FloatArray,
    *,
    height_px: float,
    stopped: Callable[[], bool] = lambda: False,
) -> CameraPath | None:
    """The camera's path over the frames of ``luma``, or None where it stood still or cannot be told.

    ``luma(n)`` gives the brightness (H, W) of frame n, ``joints`` (P, T, 2) px
    the golfer's joints, NaN where not known: they and what is near them do
    not count. ``height_px`` is how tall the golfer is.
    """
    frames = joints.shape[1]
    if frames < 2:
        return None
    scale = min(1.0, WIDEST / luma(0).shape[1])
    boxes = _boxes(joints, height_px) * scale
    maps = np.zeros((frames, 2, 3))
    maps[0] = np.eye(2, 3)
    key = _Key(_small(luma(0), scale), boxes[0], maps[0])
    before = key.picture
    for n in range(1, frames):
        if stopped():
            return None
        picture = _small(luma(n), scale)
        found = key.to(picture, maps[n - 1])
        if found is None:
            key = _Key(before, boxes[n - 1], maps[n - 1])
            found = key.to(picture, maps[n - 1])
        if found is None:
            return None
        maps[n], before = found, picture
    maps[:, :, 2] /= scale
    known = joints[np.isfinite(joints).all(axis=2)]
    middle = np.median(known, axis=0) if len(known) else np.array(luma(0).shape[::-1]) / 2
    path = CameraPath(maps, np.zeros(frames))
    moved = np.linalg.norm(path.moved(middle), axis=1)
    if moved.max() < STILL_PX / scale:
        return None
    return CameraPath(maps, np.hypot(PARALLAX * moved, 0.1 / scale))


@dataclass
class _Key:
    """A frame that others are compared with: its picture, its corners, and its own place."""

    picture: Picture
    box: FloatArray
    place: FloatArray

    def __post_init__(self) -> None:
        free = np.full(self.picture.shape, 255, np.uint8)
        left, top, right, bottom = self.box.round().astype(int).tolist()
        free[max(top, 0) : max(bottom, 0), max(left, 0) : max(right, 0)] = 0
        corners = cv2.goodFeaturesToTrack(self.picture, CORNERS, QUALITY, APART_PX, mask=free, blockSize=5)
        found = np.zeros((0, 2)) if corners is None else np.asarray(corners).reshape(-1, 2)
        self.corners = found.astype(np.float32)

    def to(self, picture: Picture, guess: FloatArray) -> FloatArray | None:
        """The map from the first frame to ``picture``, (2, 3), starting from a guess; None where unsure."""
        if len(self.corners) < LEAST_CORNERS:
            return None
        first = _applied(_inverse(self.place), self.corners.astype(np.float64))
        there = np.asarray(_applied(guess, first), np.float32)
        size, flags = (WINDOW, WINDOW), cv2.OPTFLOW_USE_INITIAL_FLOW
        found, seen, _ = cv2.calcOpticalFlowPyrLK(
            self.picture, picture, self.corners, there, winSize=size, maxLevel=2, flags=flags
        )
        there = np.asarray(found, np.float32)
        back, held, _ = cv2.calcOpticalFlowPyrLK(
            picture, self.picture, there, self.corners.copy(), winSize=size, maxLevel=2, flags=flags
        )
        good = (seen.ravel() == 1) & (held.ravel() == 1)
        good &= np.linalg.norm(np.asarray(back) - self.corners, axis=1) < BACK_PX
        if good.sum() < LEAST_CORNERS:
            return None
        place, agree = cv2.estimateAffinePartial2D(
            first[good], there[good], method=cv2.RANSAC, ransacReprojThreshold=AGREE_PX, refineIters=10
        )
        if place is None or agree.sum() < max(LEAST_CORNERS, LEAST_SHARE * len(self.corners)):
            return None
        return np.asarray(place, dtype=np.float64)


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


def _small(picture: Picture, scale: float) -> Picture:
    if scale == 1.0:
        return picture
    return np.asarray(cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)


def _boxes(joints: FloatArray, height_px: float) -> FloatArray:
    """Left, top, right, bottom round the golfer at each frame, (T, 4); empty where no joint is known."""
    known = np.isfinite(joints[:, :, 0]) & np.isfinite(joints[:, :, 1])
    at = np.flatnonzero(known.any(axis=0))
    if not at.size:
        return np.zeros((joints.shape[1], 4))
    shown = np.where(known[:, at, None], joints[:, at], np.nan)
    corners = np.hstack([np.nanmin(shown, axis=0), np.nanmax(shown, axis=0)])
    corners += MARGIN * height_px * np.array([-1, -1, 1, 1])
    frames = np.arange(joints.shape[1])
    return np.stack([np.interp(frames, at, side) for side in corners.T], axis=1)


def _inverse(place: FloatArray) -> FloatArray:
    turned = np.linalg.inv(place[:, :2])
    return np.hstack([turned, -turned @ place[:, 2:]])


def _applied(place: FloatArray, points: FloatArray) -> FloatArray:
    return np.asarray(points @ place[:, :2].T + place[:, 2])
