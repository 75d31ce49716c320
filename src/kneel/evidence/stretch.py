"""The stretch of a clip that is one swing, and how to get at its frames."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from kneel.footage import ClipInfo, FrameReader
from kneel.model import Swing

FloatArray = NDArray[np.float64]
Peek = Callable[[int], VideoFrame | None]


def nothing_at_hand(number: int) -> VideoFrame | None:  # noqa: ARG001
    """No frame needs no decoding."""
    return None


@dataclass(frozen=True)
class Stretch:
    """Frames ``first`` on of a clip, at real seconds ``times_s`` (T,).

    ``content`` tells the clip from others; ``peek`` may know frames, by the
    clip's own numbers, that need no decoding.
    """

    path: Path
    content: str
    first: int
    times_s: FloatArray
    height_px: int
    peek: Peek = nothing_at_hand

    @staticmethod
    def of(swing: Swing, info: ClipInfo, content: str, peek: Peek = nothing_at_hand) -> Stretch:
        """The stretch that belongs to a swing."""
        first, last = swing.reach(info.frames)
        times = info.real_s(swing.capture_rate)[first : last + 1]
        return Stretch(info.path, content, first, times, info.height, peek)

    def __len__(self) -> int:
        return len(self.times_s)

    @property
    def name(self) -> str:
        """What tells this stretch from any other: the clip's content, the frames, how fast they ran."""
        lasts = float(self.times_s[-1] - self.times_s[0]) if len(self) else 0.0
        return f"{self.content} {self.first} {len(self)} {lasts:.6f}"

    def reader(self) -> FrameReader:
        """Its frames, for one thread."""
        return FrameReader(self.path, self.first, peek=self.peek)

    def straight_reader(self) -> FrameReader:
        """Its frames for who goes through them once, keeping none."""
        return FrameReader(self.path, self.first, budget=0)
