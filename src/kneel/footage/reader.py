"""Frames of a swing one after another, for work that goes through all of them."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from kneel.footage.clip import Clip
from kneel.footage.upright import luma_of, picture_of

Picture = NDArray[np.uint8]

HELD_BYTES = 400 << 20
LUMAS_HELD = 16


class FrameReader:
    """Pictures and brightness by frame number counted from ``first``. Each thread needs its own.

    What is decoded on the way to a frame is kept, up to ``budget`` bytes, so
    that going backward costs no more than going forward. ``peek`` may know
    frames, by the clip's own numbers, that need no decoding.
    """

    def __init__(
        self,
        path: Path,
        first: int = 0,
        *,
        budget: int = HELD_BYTES,
        peek: Callable[[int], VideoFrame | None] = lambda number: None,
    ) -> None:
        self._clip = Clip(path)
        self._first, self._peek = first, peek
        self._most = max(8, budget // max(sum(p.buffer_size for p in self._clip.first.planes), 1))
        self._frames: dict[int, VideoFrame] = {}
        self._lumas: OrderedDict[int, Picture] = OrderedDict()

    def picture(self, number: int) -> Picture:
        """The frame as (H, W, 3) RGB, upright."""
        return picture_of(self._frame(number), self._clip.upright)

    def luma(self, number: int) -> Picture:
        """The frame's brightness (H, W), upright; the last few are kept."""
        if number not in self._lumas:
            self._lumas[number] = luma_of(self._frame(number), self._clip.upright)
            while len(self._lumas) > LUMAS_HELD:
                self._lumas.popitem(last=False)
        return self._lumas[number]

    def close(self) -> None:
        """Let the clip and its frames go."""
        self._frames.clear()
        self._lumas.clear()
        self._clip.close()

    def _frame(self, number: int) -> VideoFrame:
        at = self._first + number
        known = self._peek(at) or self._frames.get(at)
        if known is not None:
            return known
        for passed, frame in self._clip.frames_to(at):
            self._frames[passed] = frame
        while len(self._frames) > self._most:
            del self._frames[max(self._frames, key=lambda k: abs(k - at))]
        if at not in self._frames:
            # Damaged: what lies nearest stands in, nobody will believe it for long.
            near = min(self._frames, key=lambda k: abs(k - at), default=None)
            self._frames[at] = self._clip.first if near is None else self._frames[near]
        return self._frames[at]
