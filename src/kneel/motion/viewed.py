"""From where a clip was filmed, told from how far apart the feet look."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from kneel.model import Swing, View

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


def seen_by_the_feet(swing: Swing, xy: Mapping[str, NDArray[np.float64]]) -> Swing:
    """The swing with the view that the feet tell, where nobody has said it; the same where nothing is new."""
    if swing.known_view is not None:
        return swing
    view = guessed_view(xy)
    return swing if view in (None, swing.view) else swing.given(view=view, guessed=swing.guessed)
