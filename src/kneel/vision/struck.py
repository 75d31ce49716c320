"""Which of somebody's swings struck a ball, and which left it where it lay.

A rehearsal moves as a swing does, and a film without sound does not tell that nothing was struck. Where the
ball of the next swing is seen to leave, the frames about a rehearsal show it in its place, before and after.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.motion.body import HIP_HEIGHT, NOMINAL_STATURE_CM, SHOULDER_HEIGHT
from kneel.vision.ball import AFTER_S, BEFORE_S, BallSeen, find_ball, place_of, some_frames
from kneel.vision.landmarks.swinging import Swung

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

TRUNK_M = (SHOULDER_HEIGHT - HIP_HEIGHT) * NOMINAL_STATURE_CM / 100
FRAMES_PER_S = 60.0
"""A ball that leaves is seen at so many frames a second as well as at more."""

ENOUGH_PX_PER_M = 300.0
"""So finely a ball measures a dozen px; larger pictures are made smaller."""

MOSTLY = 0.75
"""It lay there when so many of the frames before a swing, and of those after it, show it."""


PATCH, MOVED = 1.2, 2.0
"""Diameters about a ball by which it is known again, and how many it may lie elsewhere once a camera in a
hand has moved: the next ball of a row lies farther off.
"""

ALIKE, CONTRAST = 0.85, 1.5
"""It is known again by such a correlation, where it stands out no more than so many times more or less."""


def struck(
    swings: Sequence[Swung],
    luma: Callable[[int], Picture],
    times_s: FloatArray,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[bool | None]:
    """For each swing of a film, in order: yes where a ball is seen to leave, no where the ball that a later
    one struck lay there before and after it, None where neither is seen.

    ``luma(n)`` gives the brightness (H, W) of frame ``n``, best asked in rising order; ``times_s`` (T,) are
    seconds.
    """
    told: list[bool | None] = [None] * len(swings)
    waiting: list[int] = []
    for k, one in enumerate(swings):
        if stopped():
            break
        progress(k, len(swings))
        about = {before: _about(swings[before], times_s) for before in waiting}
        asked = sorted({frame for pair in about.values() for frames in pair for frame in frames})
        there = _leaving(one, asked, luma, times_s)
        if there is None:
            waiting.append(k)
            continue
        told[k] = True
        for before, pair in about.items():
            lay = [bool(frames) and np.mean([there[frame] for frame in frames]) >= MOSTLY for frames in pair]
            told[before] = False if all(lay) else None
        waiting = []
    return told


def _about(one: Swung, times_s: FloatArray) -> tuple[list[int], list[int]]:
    """Some frames before a swing comes down, and some after it passed."""
    start, end = (one.struck_s + one.pace * wait for wait in AFTER_S)
    before = some_frames(times_s, one.top_s - one.pace * BEFORE_S, one.top_s)
    return before, some_frames(times_s, start, end)


def _leaving(
    one: Swung, earlier: Sequence[int], luma: Callable[[int], Picture], times_s: FloatArray
) -> dict[int, bool] | None:
    """For some earlier frames whether they show the ball that a swing strikes, in its place; None where it is
    not seen to strike any.
    """
    start, end = one.top_s - one.pace * BEFORE_S, one.struck_s + one.pace * AFTER_S[1]
    own = np.flatnonzero((times_s >= start) & (times_s <= end))
    if own.size < 2:
        return None
    lasts = float(times_s[own[-1]] - times_s[own[0]]) / one.pace
    own = own[:: max(int((own.size - 1) / lasts / FRAMES_PER_S), 1)]
    frames = [*earlier, *own.tolist()]
    px_per_m, ankles = one.trunk_px / TRUNK_M, np.array(one.ankles)
    height, width = luma(frames[0]).shape
    box = place_of(ankles, px_per_m, width, height)
    if box is None:
        return None
    x0, y0, x1, y1 = box
    finer = max(int(px_per_m / ENOUGH_PX_PER_M), 1)
    size = (x1 - x0) // finer, (y1 - y0) // finer
    parts = [
        cv2.resize(luma(frame)[y0:y1, x0:x1], size, interpolation=cv2.INTER_AREA).astype(np.uint8)
        for frame in frames
    ]

    def found(parts: list[Picture]) -> BallSeen | None:
        return find_ball(
            parts.__getitem__,
            times_s[frames] / one.pace,
            (ankles - (x0, y0)) / finer,
            top_s=one.top_s / one.pace,
            impact_s=one.struck_s / one.pace,
            px_per_m=px_per_m / finer,
        )

    ball = found(parts)
    if ball is None:
        # In a hand the camera moves by more than a ball within a swing; who swings stays on one spot.
        parts[len(earlier) :] = [_laid_over(parts[len(earlier)], part) for part in parts[len(earlier) :]]
        ball = found(parts)
    if ball is None:
        return None
    shown = [_cut(parts[k], ball, PATCH) for k in np.flatnonzero(ball.there) if k >= len(earlier)]
    usual = np.median(shown, axis=0).astype(np.float32)
    # Not where it lay: a camera in a hand has moved since.
    return {
        frame: bool(there) or _near(ball, usual, part)
        for frame, there, part in zip(earlier, ball.there, parts, strict=False)
    }


def _laid_over(one: Picture, other: Picture) -> Picture:
    """The second picture moved so that most of it lies where it does in the first."""
    window = cv2.createHanningWindow(one.shape[::-1], cv2.CV_32F)
    (x, y), _ = cv2.phaseCorrelate(one.astype(np.float32), other.astype(np.float32), window)
    back = np.array([[1.0, 0.0, -x], [0.0, 1.0, -y]])
    moved = cv2.warpAffine(other, back, one.shape[::-1], borderMode=cv2.BORDER_REPLICATE)
    return moved.astype(np.uint8)


def _near(ball: BallSeen, usual: NDArray[np.float32], other: Picture) -> bool:
    """Whether a ball as it usually looks lies near its place in another picture."""
    around = _cut(other, ball, PATCH + MOVED)
    alike = cv2.matchTemplate(around, usual, cv2.TM_CCOEFF_NORMED)
    y, x = np.unravel_index(int(np.argmax(alike)), alike.shape)
    found = around[y : y + usual.shape[0], x : x + usual.shape[1]]
    contrast = float(found.std() / max(usual.std(), 1e-6))
    return bool(alike[y, x] > ALIKE and 1 / CONTRAST < contrast < CONTRAST)


def _cut(picture: Picture, ball: BallSeen, reach: float) -> NDArray[np.float32]:
    """So many diameters of a picture to each side of a ball."""
    x0, x1 = (round(ball.x + sign * reach * ball.diameter) for sign in (-1, 1))
    y0, y1 = (round(ball.y + sign * reach * ball.diameter) for sign in (-1, 1))
    return picture[max(y0, 0) : max(y1, 0) + 1, max(x0, 0) : max(x1, 0) + 1].astype(np.float32)
