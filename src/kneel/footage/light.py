"""Pictures of two clips in one light: how bright each is in the middle, and the curve that makes them alike.

A curve of one power keeps black black and white white, so that nothing is clipped.
"""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from av.video.frame import VideoFrame

from kneel.footage.upright import Picture, Upright, luma_of

DARKEST, BRIGHTEST = 0.02, 0.98
STRONGEST = 2.5
"""No curve is stronger: a night's clip does not become day, its noise would be all there is to see."""

NEARLY = 0.08
"""Two that differ by less than this share are as bright."""

THIN = 4


def brightness_of(frame: VideoFrame, upright: Upright) -> float:
    """The middle brightness of a frame, 0 black to 1 white."""
    middle = float(np.median(luma_of(frame, upright)[::THIN, ::THIN])) / 255
    return min(max(middle, DARKEST), BRIGHTEST)


def powers_alike(first: float, second: float) -> tuple[float, float]:
    """The power for each of two clips of such brightness that shows the darker as bright as the other.

    >>> powers_alike(0.5, 0.5), powers_alike(0.25, 0.5)
    ((1.0, 1.0), (0.5, 1.0))
    """
    if abs(float(np.log(first / second))) < NEARLY:
        return 1.0, 1.0
    aim = max(first, second)
    one, two = (max(float(np.log(aim) / np.log(each)), 1 / STRONGEST) for each in (first, second))
    return one, two


def in_light(picture: Picture, power: float) -> Picture:
    """A picture (H, W, C) with each of its values, as a share of white, raised to a power."""
    if power == 1.0:
        return picture
    return np.asarray(cv2.LUT(picture, _curve(power)), dtype=np.uint8)


@cache
def _curve(power: float) -> Picture:
    return np.rint(255 * (np.arange(256) / 255) ** power).astype(np.uint8)
