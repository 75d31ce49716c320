"""From where a clip was filmed, by the feet and by which side is which; which hand swings, by where the hands
go; and what the picture leaves open of both, which must be asked.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, Swing, View

ACROSS, ALONG = 0.22, 0.15
"""Feet so far apart, of the height of the hips over them, stand across the view; so near, along it.
A stance is 0.25 to 0.6 wide, and a camera 10° off square shows 0.1 of it along it (common practice, no
source)."""


EARLY_SHARE = 0.2
"""The first part of a clip, in which the golfer stands as the view has it."""


class Question(StrEnum):
    """What a picture leaves open of how it was filmed: until it is answered, nothing is surely a fault.

    ``RATE`` alone keeps back no more than times, see :attr:`kneel.motion.solved.Solved.slowed`.
    """

    NONE = ""
    WHO = "who"
    VIEW = "view"
    BEHIND = "behind"
    LEFT = "left"
    HAND = "hand"
    MIRRORED = "mirrored"
    POSE = "pose"
    RATE = "rate"


def right_lies_right(pairs: Iterable[tuple[NDArray[np.float64], NDArray[np.float64]]]) -> bool | None:
    """Whether the golfer's right side lies at image right, by pairs of left and right places (T, 2) px.

    Facing the camera it lies at image left, from behind at image right, and a mirror exchanges that.
    None where nothing is seen.

    >>> right_lies_right([(np.array([[10.0, 5.0]]), np.array([[30.0, 5.0]]))])
    True
    """
    gaps = []
    for left, right in pairs:
        gap = right[:, 0] - left[:, 0]
        seen = np.flatnonzero(np.isfinite(gap))
        if seen.size:
            gaps.append(np.median(gap[seen[: max(1, int(seen.size * EARLY_SHARE))]]))
    return float(np.median(gaps)) > 0 if gaps else None


def guessed_view(xy: Mapping[str, NDArray[np.float64]], *, mirrored: bool = False) -> View | None:
    """Face-on, from behind or down the line by points (T, 2) px over a clip; None where the feet do not tell.

    The network that names the points tells a back from a front, and reads a mirrored picture as if it were
    none; of points named in life ``mirrored`` says that the picture is exchanged.

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
        sides = [
            (xy[f"left_{one}"], xy[f"right_{one}"])
            for one in ("shoulder", "hip", "knee", "ankle")
            if f"left_{one}" in xy and f"right_{one}" in xy
        ]
        return View.REAR if right_lies_right(sides) != mirrored else View.FACE_ON
    return View.DOWN_THE_LINE if share <= ALONG else None


BELOW, ABOVE = 0.15, 0.55
"""Shares of the way from hips to shoulders: hands under the first hang, over the second are up."""


def guessed_hand(xy: Mapping[str, NDArray[np.float64]], view: View) -> Hand | None:
    """Which hand the golfer seems to swing by, in a picture that is not mirrored; None where that is not
    told.

    Face-on the hands first come up on the trail side. Down the line they hang in front of the hips, on the
    ball's side. A mirrored clip looks like the other hand's (common practice, no source).

    >>> trunk = {"hip": (10, 100), "shoulder": (12, 50)}
    >>> sides = {f"left_{joint}": (x, y) for joint, (x, y) in trunk.items()}
    >>> sides |= {f"right_{joint}": (-x, y) for joint, (x, y) in trunk.items()}
    >>> still = {name: np.tile(np.array(place, float), (4, 1)) for name, place in sides.items()}
    >>> hands = np.array([[0, 110], [0, 110], [-40, 70], [-50, 20.0]])
    >>> guessed_hand(still | {"grip": hands}, View.FACE_ON)
    <Hand.RIGHT: 'right'>
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

    >>> from kneel.motion.example import example
    >>> xy = {name: track.xy for name, track in example().tracks.items()}
    >>> seen_in_the_picture(Swing(), xy).view.value
    'face-on'
    """
    view = swing.known_view or guessed_view(xy, mirrored=bool(swing.mirrored)) or swing.view
    hand = guessed_hand(xy, view) if "hand" in swing.guessed else None
    if hand is not None and swing.mirrored:
        hand = hand.other
    new: dict[str, object] = {} if view is swing.view else {"view": view}
    if hand is not None and hand is not swing.hand:
        new["hand"] = hand
    return swing.given(**new, guessed=swing.guessed) if new else swing


def open_question(
    xy: Mapping[str, NDArray[np.float64]],
    view: View,
    hand: Hand,
    mirrored: bool | None,
    *,
    supposed: Iterable[str] = (),
    looked: bool = True,
) -> Question:
    """What must be asked before points ``xy`` (T, 2) px are believed; the first thing first.

    ``supposed`` names the settings that nobody has confirmed, ``looked`` is whether the points were named by
    the network, which takes a mirrored picture for none: who names left and right by hand has told them. A
    right-hander seen face-on is usual, and asks nothing (nine golfers of ten: common practice, no source).

    >>> from kneel.motion.example import example
    >>> xy = {name: track.xy for name, track in example().tracks.items()}
    >>> open_question(xy, View.FACE_ON, Hand.RIGHT, None).value
    ''
    """
    if "view" in supposed:
        seen = guessed_view(xy, mirrored=bool(mirrored))
        if View.REAR in (seen, view):
            return Question.BEHIND
        if seen is None and {"left_ankle", "right_ankle"} <= xy.keys():
            return Question.VIEW
    if not looked or mirrored is not None:
        return Question.NONE
    shown = guessed_hand(xy, view)
    if "hand" in supposed:
        return {Hand.RIGHT: Question.NONE, Hand.LEFT: Question.LEFT, None: Question.HAND}[shown]
    return Question.NONE if shown in (None, hand) else Question.MIRRORED
