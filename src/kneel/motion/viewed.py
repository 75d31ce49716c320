"""From where a clip was filmed, by how far apart the feet look; which hand swings, by where the hands go."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, Swing, View

ACROSS, ALONG = 0.22, 0.15
"""Feet so far apart, of the height of the hips over them, stand across the view; so near, along it.
A stance is 0.25 to 0.6 wide, and a camera 10° off square shows 0.1 of it along it (common practice, no
source)."""


def guessed_view(xy: Mapping[str, NDArray[np.float64]]) -> View | None:
    """Face-on or down the line by points (T, 2) px over a clip; None where the feet do not tell.

    >>> feet = {"left_ankle": np.array([[140.0, 200.0]]), "right_ankle": np.array([[100.0, 200.0]])}
    >>> guessed_view(feet | {"left_hip": np.array([[120.0, 110.0]])}).value
    'face-on'
    """
    left, right = xy.get("left_ankle"), xy.get("right_ankle")
    hips = [xy[name] for name in ("left_hip", "right_hip") if name in xy]
    if left is None or right is None or not hips:
        return None
    wide = np.abs(left[:, 0] - right[:, 0])
    high = (left[:, 1] + right[:, 1]) / 2 - np.fmax.reduce([hip[:, 1] for hip in hips])
    known = np.isfinite(wide) & np.isfinite(high) & (high > 1)
    if not known.any():
        return None
    share = float(np.median(wide[known] / high[known]))
    if share >= ACROSS:
        return View.FACE_ON
    return View.DOWN_THE_LINE if share <= ALONG else None


BELOW, ABOVE = 0.15, 0.55
"""Shares of the way from hips to shoulders: hands under the first hang, over the second are up."""


def guessed_hand(xy: Mapping[str, NDArray[np.float64]], view: View) -> Hand | None:
    """Which hand the golfer seems to swing by, in a picture that is not mirrored; None where that is not
    told.

    Face-on the hands first come up on the trail side. Down the line they hang in front of the hips, on the
    ball's side. A mirrored clip looks like the other hand's (common practice, no source).
    """
    hips, shoulders, grip = _middle(xy, "hip"), _middle(xy, "shoulder"), _hands(xy)
    if hips is None or shoulders is None or grip is None:
        return None
    trunk = hips[:, 1] - shoulders[:, 1]
    up = (hips[:, 1] - grip[:, 1]) / np.where(trunk > 1, trunk, np.nan)
    aside = (grip[:, 0] - hips[:, 0]) / np.where(trunk > 1, trunk, np.nan)
    hang = np.flatnonzero(up < BELOW)
    if len(hang) == 0:
        return None
    if view is View.DOWN_THE_LINE:
        before = float(np.nanmedian(aside[hang[hang <= hang[0] + len(up) // 4]]))
        return None if abs(before) < 0.08 else Hand.RIGHT if before > 0 else Hand.LEFT
    raised = np.flatnonzero((up > ABOVE) & (np.arange(len(up)) > hang[0]))
    if len(raised) == 0 or abs(aside[raised[0]]) < 0.1:
        return None
    to_left = aside[raised[0]] < 0
    return Hand.RIGHT if to_left != (view is View.REAR) else Hand.LEFT


def _middle(xy: Mapping[str, NDArray[np.float64]], joint: str) -> NDArray[np.float64] | None:
    pair = [xy[name] for name in (f"left_{joint}", f"right_{joint}") if name in xy]
    return None if len(pair) < 2 else (pair[0] + pair[1]) / 2


def _hands(xy: Mapping[str, NDArray[np.float64]]) -> NDArray[np.float64] | None:
    return xy["grip"] if "grip" in xy else _middle(xy, "wrist")


def seen_in_the_picture(swing: Swing, xy: Mapping[str, NDArray[np.float64]]) -> Swing:
    """The swing with the view and the hand that the picture tells, where nobody has said them.

    The same object where nothing is new. A hand that is known is never changed: the clip may be mirrored.
    """
    view = swing.known_view or guessed_view(xy) or swing.view
    hand = guessed_hand(xy, view) if "hand" in swing.guessed and not swing.mirrored else None
    new: dict[str, object] = {} if view is swing.view else {"view": view}
    if hand is not None and hand is not swing.hand:
        new["hand"] = hand
    return swing.given(**new, guessed=swing.guessed) if new else swing


def looks_mirrored(swing: Swing, xy: Mapping[str, NDArray[np.float64]]) -> bool:
    """Whether the golfer's hand is known and the clip shows the other one, while nobody says why."""
    if "hand" in swing.guessed or swing.mirrored is not None:
        return False
    shown = guessed_hand(xy, swing.view)
    return shown is not None and shown is not swing.hand
