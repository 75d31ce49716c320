"""Which of somebody's swings struck a ball, and which left it where it lay.

A rehearsal moves as a swing does, and a film without sound does not tell that nothing was struck. Where the
ball of the next swing is seen to leave, the frames about a rehearsal show it in its place, before and after.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.motion.body import HIP_HEIGHT, NOMINAL_STATURE_CM, SHOULDER_HEIGHT
from kneel.vision.ball import AFTER_S, BEFORE_S, SAMPLES, BallSeen, find_ball, place_of
from kneel.vision.landmarks.swinging import Swung

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

TRUNK_M = (SHOULDER_HEIGHT - HIP_HEIGHT) * NOMINAL_STATURE_CM / 100
FRAMES_PER_S = 60.0
"""A ball that leaves is seen at so many frames a second as well as at more."""

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
        about = [_about(swings[before], times_s) for before in waiting]
        there = _leaving(one, [frame for pair in about for frames in pair for frame in frames], luma, times_s)
        if there is None:
            waiting.append(k)
            continue
        told[k], start = True, 0
        for before, pair in zip(waiting, about, strict=True):
            shares = []
            for frames in pair:
                shares.append(float(there[start : start + len(frames)].mean()) if len(frames) else 0.0)
                start += len(frames)
            told[before] = False if min(shares) >= MOSTLY else None
        waiting = []
    return told


def _about(one: Swung, times_s: FloatArray) -> tuple[list[int], list[int]]:
    """Some frames before a swing comes down, and some after it passed."""
    before = (one.top_s - one.pace * BEFORE_S, one.top_s)
    after = tuple(one.struck_s + one.pace * wait for wait in AFTER_S)
    return _spread(before, times_s), _spread(after, times_s)


def _spread(between: tuple[float, ...], times_s: FloatArray) -> list[int]:
    inside = np.flatnonzero((times_s >= between[0]) & (times_s <= between[1]))
    if not inside.size:
        return []
    return np.unique(inside[np.linspace(0, inside.size - 1, SAMPLES).astype(int)]).tolist()


def _leaving(
    one: Swung, earlier: list[int], luma: Callable[[int], Picture], times_s: FloatArray
) -> NDArray[np.bool_] | None:
    """Which of some earlier frames show the ball that a swing strikes, in its place; None where it is not
    seen to strike any.
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
    parts = [luma(frame)[y0:y1, x0:x1].copy() for frame in frames]
    ball = find_ball(
        parts.__getitem__,
        times_s[frames] / one.pace,
        ankles - (x0, y0),
        top_s=one.top_s / one.pace,
        impact_s=one.struck_s / one.pace,
        px_per_m=px_per_m,
    )
    if ball is None:
        return None
    usual = np.median([parts[k] for k in np.flatnonzero(ball.there) if k >= len(earlier)], axis=0)
    there = ball.there[: len(earlier)].copy()
    for k in np.flatnonzero(~there):
        # A camera in a hand has moved since.
        there[k] = _near(ball, usual, parts[k])
    return there


def _near(ball: BallSeen, usual: FloatArray, other: Picture) -> bool:
    """Whether a ball as it usually looks lies near its place in another picture."""
    patch = _cut(usual, ball, PATCH)
    around = _cut(other, ball, PATCH + MOVED)
    if min(patch.shape) < 3 or any(a < b for a, b in zip(around.shape, patch.shape, strict=True)):
        return False
    alike = cv2.matchTemplate(around, patch, cv2.TM_CCOEFF_NORMED)
    y, x = np.unravel_index(int(np.argmax(alike)), alike.shape)
    found = around[y : y + patch.shape[0], x : x + patch.shape[1]]
    contrast = float(found.std() / max(patch.std(), 1e-6))
    return bool(alike[y, x] > ALIKE and 1 / CONTRAST < contrast < CONTRAST)


def _cut(picture: NDArray[Any], ball: BallSeen, reach: float) -> NDArray[np.float32]:
    """So many diameters of a picture to each side of a ball."""
    x0, x1 = (round(ball.x + sign * reach * ball.diameter) for sign in (-1, 1))
    y0, y1 = (round(ball.y + sign * reach * ball.diameter) for sign in (-1, 1))
    return picture[max(y0, 0) : max(y1, 0) + 1, max(x0, 0) : max(x1, 0) + 1].astype(np.float32)
