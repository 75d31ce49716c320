"""A swing's part of a clip."""

from __future__ import annotations

from dataclasses import dataclass

HEARD_WITHIN_S = 0.35
"""A strike belongs to a swing whose own moment is no farther from it than this."""


@dataclass(frozen=True)
class Span:
    """A swing's range of frames, both ends included, and its fastest moment in real seconds."""

    first: int
    last: int
    fastest_s: float
