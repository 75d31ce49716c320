"""The outline of a body about its joints: pieces that are wider than the lines between them.

How far flesh and clothes reach about the lines between joints is that of a usual build (common practice, no
source); it says where a body is, and nothing of its own shape.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from kneel.motion.drawn import Place

BULK_M = (
    ("lead_hip", "lead_knee", 0.088, 0.060),
    ("trail_hip", "trail_knee", 0.088, 0.060),
    ("lead_knee", "lead_ankle", 0.058, 0.038),
    ("trail_knee", "trail_ankle", 0.058, 0.038),
    ("lead_ankle", "lead_ankle", 0.055, 0.055),
    ("trail_ankle", "trail_ankle", 0.055, 0.055),
    ("lead_hip", "trail_hip", 0.100, 0.100),
    ("lead_shoulder", "lead_hip", 0.075, 0.085),
    ("trail_shoulder", "trail_hip", 0.075, 0.085),
    ("lead_shoulder", "trail_hip", 0.075, 0.085),
    ("lead_shoulder", "trail_shoulder", 0.070, 0.070),
    ("lead_shoulder", "grip", 0.050, 0.036),
    ("trail_shoulder", "grip", 0.050, 0.036),
    ("head", "head", 0.115, 0.115),
    ("grip", "clubhead", 0.006, 0.012),
)
"""Half widths about the line from one joint to the next, metres."""

NAMES = tuple(dict.fromkeys(name for start, end, *_ in BULK_M for name in (start, end)))
"""The points that an outline goes about, by lead and trail."""


class Piece(NamedTuple):
    """A limb as the outline has it: its ends, px, and how wide it is about each of them."""

    start: Place
    end: Place
    at_start: float
    at_end: float


def pieces_of(places: Mapping[str, Place], px_per_m: float) -> Iterator[Piece]:
    """The pieces of a body of which these points are known, px.

    >>> [round(piece.at_start) for piece in pieces_of({"head": (320.0, 80.0)}, 200.0)]
    [23]
    """
    for start, end, first, second in BULK_M:
        if start in places and end in places:
            yield Piece(places[start], places[end], first * px_per_m, second * px_per_m)
