"""A frame that others are compared with: its corners, where they lead, and what that tells of the camera."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath
from kneel.vision.parallax import GroundShift, fit_shifts, no_shift

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

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

LOOSE_PX, AGREE_PX, BACK_PX = 4.0, 0.8, 0.5
"""How well corners agree: on a turn and a shift at all, on the motion in the end, and there and back."""

WINDOW = 15
MARGIN_M = 0.43
"""What lies as near as this round the joints is not looked at."""


class Guess:
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


class Key:
    """A frame that others are compared with: its picture, its corners, and their places in the first."""

    def __init__(self, picture: Picture, boxes: FloatArray, guesses: Sequence[Guess]) -> None:
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

    def take(self, picture: Picture, guesses: Sequence[Guess]) -> bool:
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
