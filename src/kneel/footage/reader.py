"""Frames of a swing one after another, for work that goes through all of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kneel.footage.clip import Clip
from kneel.footage.upright import luma_of, picture_of

Picture = NDArray[np.uint8]

HELD_BYTES = 400 << 20


def picture_reader(path: Path, first: int = 0) -> Callable[[], Callable[[int], Picture]]:
    """Openers of a clip: each gives pictures (H, W, 3) RGB by frame number counted from ``first``."""

    def open_it() -> Callable[[int], Picture]:
        clip = Clip(path)
        return lambda number: picture_of(clip.frame(first + number), clip.upright)

    return open_it


def luma_reader(
    path: Path, first: int = 0, budget: int = HELD_BYTES
) -> Callable[[], Callable[[int], Picture]]:
    """Openers of a clip: each gives brightness (H, W) by frame number counted from ``first``.

    What is decoded on the way to a frame is kept, up to ``budget`` bytes, so
    that going backward costs no more than going forward.
    """

    def open_it() -> Callable[[int], Picture]:
        clip = Clip(path)
        kept: dict[int, Picture] = {}

        def luma(number: int) -> Picture:
            if number not in kept:
                for at, frame in clip.frames_to(first + number):
                    kept[at - first] = luma_of(frame, clip.upright)
                most = max(8, budget // max(kept[next(iter(kept))].nbytes, 1)) if kept else 8
                while len(kept) > most:
                    del kept[max(kept, key=lambda k: abs(k - number))]
                if number not in kept:
                    # Damaged: what lies before it stands in, flow will not believe it.
                    kept[number] = kept[min(kept, key=lambda k: abs(k - number))]
            return kept[number]

        return luma

    return open_it
