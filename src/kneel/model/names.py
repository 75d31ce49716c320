"""The words of the trade: points, sides, views, clubs and checkpoints.

Files name points anatomically (``left_knee``); everything that judges speaks
of lead and trail. This module is the only place where the two meet.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from itertools import pairwise
from typing import Final


class View(StrEnum):
    """Where the camera stands."""

    FACE_ON = "face-on"
    DOWN_THE_LINE = "down-the-line"
    REAR = "rear"


class Hand(StrEnum):
    """Which way the golfer plays."""

    RIGHT = "right"
    LEFT = "left"

    @property
    def other(self) -> Hand:
        return Hand.LEFT if self is Hand.RIGHT else Hand.RIGHT


class Club(StrEnum):
    DRIVER = "driver"
    WOOD = "wood"
    HYBRID = "hybrid"
    IRON = "iron"
    WEDGE = "wedge"


PAIRED_JOINTS: Final = ("shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe")
SINGLE_POINTS: Final = ("head", "grip", "clubhead", "ball", "seat", "belt", "tailbone")
POINTS: Final[tuple[str, ...]] = SINGLE_POINTS + tuple(
    f"{side}_{joint}" for joint in PAIRED_JOINTS for side in ("left", "right")
)

CHECKPOINTS: Final = (
    "address",
    "takeaway",
    "half_back",
    "top",
    "half_down",
    "delivery",
    "impact",
    "through",
    "follow",
    "finish",
)

POSES: Final = ("address", "top", "impact")
"""The positions that are held and looked at."""


def out_of_order(pinned: Mapping[str, float]) -> tuple[str, str] | None:
    """The first two checkpoints that are set in the wrong order, or on one frame; None where none are.

    >>> out_of_order({"address": 10, "impact": 90, "top": 95}), out_of_order({"top": 5.0, "impact": 9.0})
    (('top', 'impact'), None)
    """
    placed = [name for name in CHECKPOINTS if name in pinned]
    return next(((a, b) for a, b in pairwise(placed) if pinned[a] >= pinned[b]), None)


def anatomical(name: str, hand: Hand) -> str:
    """Turn ``lead_hip`` or ``trail_hip`` into the name used in files.

    Names without a lead or trail prefix come back unchanged.

    >>> anatomical("lead_hip", Hand.RIGHT), anatomical("lead_hip", Hand.LEFT)
    ('left_hip', 'right_hip')
    """
    side, _, joint = name.partition("_")
    if side not in ("lead", "trail"):
        return name
    is_left = (side == "lead") == (hand is Hand.RIGHT)
    return f"{'left' if is_left else 'right'}_{joint}"


def side_of(name: str, hand: Hand) -> str | None:
    """``"lead"`` or ``"trail"`` for a paired point, None for a single one.

    >>> side_of("right_knee", Hand.RIGHT), side_of("ball", Hand.LEFT)
    ('trail', None)
    """
    side, _, _ = name.partition("_")
    if side not in ("left", "right"):
        return None
    return "lead" if (side == "left") == (hand is Hand.RIGHT) else "trail"


def spoken(name: str, hand: Hand) -> str:
    """A point of a file as people say it.

    >>> spoken("right_knee", Hand.RIGHT), spoken("left_knee", Hand.LEFT), spoken("ball", Hand.LEFT)
    ('trail knee', 'trail knee', 'ball')
    """
    side = side_of(name, hand)
    return name if side is None else f"{side} {name.partition('_')[2]}"


def target_direction(view: View, hand: Hand, *, mirrored: bool) -> int:
    """+1 where the target lies at image right, -1 where it lies at image left.

    Down-the-line the same sign tells on which side the *ball* lies: it is at
    image right for a right-handed golfer.

    >>> target_direction(View.FACE_ON, Hand.RIGHT, mirrored=False)
    1
    >>> target_direction(View.REAR, Hand.RIGHT, mirrored=False)
    -1
    """
    sign = 1 if hand is Hand.RIGHT else -1
    if view is View.REAR:
        sign = -sign
    return -sign if mirrored else sign


CLIP_SUFFIXES = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi")
"""What counts as a clip in a folder; any file may be tried by name."""

PHOTO_SUFFIXES = (".png", ".jpg", ".jpeg")
"""Photographs of a held position: taken where somebody gives them, never looked for in a folder."""
