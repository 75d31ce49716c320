"""Pictures and clips to hand out: a frame as PNG, a range as MP4 with something drawn on it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.codec.context import CodecContext
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from kneel.disk import shown, write_bytes
from kneel.footage.clip import Clip
from kneel.footage.upright import picture_of
from kneel.footage.writer import write_clip
from kneel.model import FootageError, UsageError

Picture = NDArray[np.uint8]
Draw = Callable[[int, Picture], Picture]


def save_png(path: str | Path, picture: Picture) -> None:
    """Write a picture (H, W, 3) RGB as PNG. Raises :class:`FootageError`; an older file then stands."""
    target = Path(path)
    height, width = picture.shape[:2]
    encoder = CodecContext.create("png", "w")
    encoder.width, encoder.height, encoder.pix_fmt = width, height, "rgb24"
    encoder.time_base = Fraction(1, 1)
    frame = VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="rgb24")
    frame.pts, frame.time_base = 0, Fraction(1, 1)
    try:
        packets = [*encoder.encode(frame), *encoder.encode(None)]
        write_bytes(target, b"".join(bytes(p) for p in packets), private=True, lasting=False)
    except (av.FFmpegError, OSError) as error:
        why = getattr(error, "strerror", None) or "the folder is missing or the disk is full"
        raise FootageError(f"{shown(target)} cannot be written: {why}.") from error


def save_still(clip: Clip, number: int, path: str | Path) -> None:
    """Write the upright picture of exactly frame ``number`` as PNG."""
    save_png(path, picture_of(clip.frame(number), clip.upright))


def save_range(
    clip: Clip,
    path: str | Path,
    first: int,
    last: int,
    *,
    speed: float = 1.0,
    rate: float = 30.0,
    draw: Draw = lambda number, picture: picture,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> None:
    """Write frames ``first`` to ``last`` as an MP4 that phones play, at ``speed`` times stored time.

    ``rate`` is that of the new clip; frames are repeated or left out to keep
    time. ``draw(number, picture)`` gives the picture (H, W, 3) to write, for
    lines and numbers. Raises ``UsageError`` for an empty range, ``FootageError``
    where reading or writing fails.
    """
    times = clip.info.times_s
    if not 0 <= first <= last < len(times):
        raise UsageError(f"Frames {first} to {last} are no range of a clip of {len(times)} frames.")
    if not (0 < speed <= 16 and 1 <= rate <= 240):
        raise UsageError("A clip can be written at up to 16 times its speed and 1 to 240 frames a second.")
    length = (times[last] - times[first]) / speed
    count = max(1, round(length * rate) + 1)
    shown = times[first] + np.arange(count) / rate * speed
    numbers = np.clip(np.searchsorted(times, shown + 1e-6, side="right") - 1, first, last)
    width, height = clip.upright.width // 2 * 2, clip.upright.height // 2 * 2

    def pictures() -> Iterator[Picture]:
        held, picture = -1, np.zeros((height, width, 3), np.uint8)
        for done, number in enumerate(numbers.tolist(), 1):
            if number != held:
                clean = picture_of(clip.frame(number), clip.upright)
                picture, held = draw(number, clean)[:height, :width], number
            yield np.ascontiguousarray(picture)
            progress(done, count)

    write_clip(path, pictures(), rate=rate, size=(width, height))
