"""The table of a clip's frames: when each is shown, and which can be decoded alone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from kneel.model import FootageError

IntArray = NDArray[np.int64]

MOST_FAILURES = 200
"""After so many packets that cannot be decoded a clip is given up."""


@dataclass(frozen=True)
class Table:
    """``stamps`` (N,) rise, in the stream's time base; ``keys`` are the numbers of key frames.

    Stamps are presentation times, or with ``by_decoding`` decoding times, for
    containers that make presentation times up.
    """

    stamps: IntArray
    keys: IntArray
    by_decoding: bool = False

    def stamp_of(self, frame: VideoFrame) -> int | None:
        """The stamp by which a decoded frame is known."""
        return frame.dts if self.by_decoding else frame.pts

    def number_of(self, frame: VideoFrame) -> int | None:
        """The number of a decoded frame, None where it is not in the table."""
        stamp = self.stamp_of(frame)
        if stamp is None:
            return None
        number = int(np.searchsorted(self.stamps, stamp))
        known = number < len(self.stamps) and self.stamps[number] == stamp
        return number if known else None


def read_table(container: Any, stream: Any, path: Path) -> Table:
    """The table from the packets alone, without decoding. Raises :class:`FootageError` where it is empty."""
    shown: list[int] = []
    decoded: list[int | None] = []
    keys: list[int] = []
    try:
        for packet in container.demux(stream):
            stamp = packet.pts if packet.pts is not None else packet.dts
            if stamp is None or packet.is_discard or packet.size == 0:
                continue
            if packet.is_keyframe:
                keys.append(len(shown))
            shown.append(stamp)
            decoded.append(packet.dts)
    except av.FFmpegError:
        pass
    if not shown:
        raise FootageError(
            f"{path.name} holds no frame that can be read; copy the clip from the camera again."
        )
    doubled = len(set(shown)) < len(shown)
    if doubled and None not in decoded and len(set(decoded)) == len(decoded):
        return _table([d for d in decoded if d is not None], keys, by_decoding=True)
    return _table(shown, keys, by_decoding=False)


def decoded_table(frames: Iterator[VideoFrame]) -> Table:
    """The table by decoding everything, for containers whose packets do not tell."""
    stamps: list[int] = []
    keys: list[int] = []
    for frame in frames:
        if frame.pts is not None:
            if frame.key_frame:
                keys.append(len(stamps))
            stamps.append(frame.pts)
    return _table(stamps, keys, by_decoding=False)


def _table(stamps: list[int], keys: list[int], *, by_decoding: bool) -> Table:
    every = np.array(stamps, dtype=np.int64)
    ordered = np.unique(every)
    return Table(ordered, np.unique(np.searchsorted(ordered, every[keys])), by_decoding)


def tolerant(frames: Iterator[VideoFrame]) -> Iterator[VideoFrame]:
    """Decoded frames; what cannot be decoded is stepped over."""
    failures = 0
    while failures < MOST_FAILURES:
        try:
            frame = next(frames)
        except StopIteration:
            return
        except (av.FFmpegError, ValueError):
            failures += 1
            continue
        yield frame
