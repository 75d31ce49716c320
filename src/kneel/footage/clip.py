"""One clip: a table of presentation times, and exactly frame N.

A frame is never sought by number times rate: variable rates, dropped frames
and slow-motion ramps make that land beside the mark. The table is built from
the packets' own times, without decoding.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.reformatter import Colorspace
from numpy.typing import NDArray

from kneel.model import FootageError

IntArray = NDArray[np.int64]
FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

HIGH_DEFINITION = 720
"""Clips that do not name their colour matrix are taken for BT.709 from this height on."""


@dataclass(frozen=True)
class ClipInfo:
    """What a clip is: ``times_s`` (N,) from the first frame on, as stored; size as shown upright.

    ``rotation`` is the clockwise turn in degrees that makes the picture upright.
    """

    path: Path
    times_s: FloatArray
    width: int
    height: int
    rotation: int
    rate_stored: float
    warnings: tuple[str, ...] = ()

    @property
    def frames(self) -> int:
        return len(self.times_s)


class Clip:
    """An open clip. Not safe for several threads: each opens its own.

    Raises :class:`FootageError` with a sentence where the file cannot be read.
    """

    def __init__(self, path: str | Path) -> None:
        self.path = Path(path)
        self._container = _open(self.path)
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._pts, self._keys = _table(self._container, self._stream, self.path)
        self._decoder: Iterator[VideoFrame] | None = None
        self._next = 0
        first = self._first_frame()
        self.info = self._describe(first)

    def __enter__(self) -> Clip:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        self._decoder = None
        self._container.close()

    def frame(self, number: int) -> VideoFrame:
        """Exactly frame ``number``. Raises :class:`FootageError` where it cannot be decoded."""
        if not 0 <= number < len(self._pts):
            raise FootageError(f"{self.path.name} has frames 0 to {len(self._pts) - 1}, not {number}.")
        if self._decoder is not None and self._near(number):
            frame = self._forward_to(number)
            if frame is not None:
                return frame
        for target in self._entries(number):
            self._seek(target)
            frame = self._forward_to(number)
            if frame is not None:
                return frame
        self._decoder = None
        raise FootageError(f"Frame {number} of {self.path.name} is damaged; the other frames can be used.")

    def _forward_to(self, number: int) -> VideoFrame | None:
        """Decode on to a frame; None where it is passed over or the clip ends."""
        wanted = self._pts[number]
        for frame in self._steps():
            if frame.pts == wanted:
                return frame
            if frame.pts is not None and frame.pts > wanted:
                return None
        return None

    def _entries(self, number: int) -> list[int]:
        """Where to start decoding for a frame, nearest first.

        Containers seek by decoding time, which with reordered frames may land
        behind the frame asked for; then earlier key frames are tried.
        """
        keys = self._keys[self._keys <= number][::-1].tolist()
        return [number, *(k - 1 for k in keys[:3] if k > 0), 0]

    def frames(self, first: int = 0) -> Iterator[tuple[int, VideoFrame]]:
        """All frames from ``first`` on, in order, each with its number; damaged ones are left out."""
        if first >= len(self._pts):
            return
        try:
            yield first, self.frame(first)
        except FootageError:
            self._seek(0)
        for frame in self._steps():
            if frame.pts is None:
                continue
            number = int(np.searchsorted(self._pts, frame.pts))
            if first < number < len(self._pts) and self._pts[number] == frame.pts:
                yield number, frame

    def _near(self, number: int) -> bool:
        """True where decoding on from here is no longer than from the nearest key frame."""
        if number < self._next:
            return False
        key = self._keys[self._keys <= number]
        return bool(key.size == 0 or key[-1] <= self._next or number - self._next < 3)

    def _seek(self, number: int) -> None:
        self._container.seek(int(self._pts[number]), stream=self._stream, backward=True)
        self._decoder = self._container.decode(self._stream)

    def _steps(self) -> Iterator[VideoFrame]:
        """Decoded frames from here on; what cannot be decoded is stepped over."""
        while self._decoder is not None:
            try:
                frame = next(self._decoder)
            except StopIteration:
                self._decoder = None
                return
            except av.FFmpegError:
                continue
            if frame.pts is not None:
                self._next = int(np.searchsorted(self._pts, frame.pts)) + 1
            yield frame

    def _first_frame(self) -> VideoFrame:
        self._container.seek(int(self._pts[0]), stream=self._stream, backward=True)
        self._decoder = self._container.decode(self._stream)
        for frame in self._steps():
            if frame.pts is not None and frame.pts >= self._pts[0]:
                return frame
        raise FootageError(f"{self.path.name} holds no picture that can be decoded.")

    def _describe(self, first: VideoFrame) -> ClipInfo:
        base = float(self._stream.time_base or 0)
        times = (self._pts - self._pts[0]) * base
        rotation = round(-first.rotation) % 360
        width, height = first.width, first.height
        if rotation in (90, 270):
            width, height = height, width
        steps = np.diff(times)
        rate = 1 / float(np.median(steps)) if steps.size else float(self._stream.average_rate or 0)
        declared = self._stream.frames
        notes = []
        if declared and len(times) < 0.98 * declared:
            notes.append(
                f"{self.path.name} breaks off: {len(times)} of {declared} frames are there and can be used."
            )
        return ClipInfo(self.path, times, width, height, rotation, rate, tuple(notes))


def picture_of(
    frame: VideoFrame, rotation: int, *, size: tuple[int, int] | None = None, form: str = "rgb24"
) -> Picture:
    """The upright picture of a decoded frame, (H, W, C) uint8, by the clip's own matrix and range.

    ``size`` is the upright width and height to scale to; ``form`` a packed
    pixel format such as ``rgb24`` or ``bgra``.
    """
    width, height = size or (None, None)
    if rotation in (90, 270):
        width, height = height, width
    made = frame.reformat(
        width=width, height=height, format=form, src_colorspace=_matrix(frame), interpolation="AREA"
    )
    return _upright(np.asarray(made.to_ndarray()), rotation)


def luma_of(frame: VideoFrame, rotation: int) -> Picture:
    """The upright brightness of a decoded frame, (H, W) uint8."""
    if not frame.format.name.startswith(("yuv4", "yuvj4", "nv12", "gray")) or "p10" in frame.format.name:
        return _upright(np.asarray(frame.reformat(format="gray").to_ndarray()), rotation)
    plane = frame.planes[0]
    rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    return _upright(rows[: frame.height, : frame.width], rotation)


def _upright(picture: Picture, rotation: int) -> Picture:
    return np.ascontiguousarray(np.rot90(picture, -(rotation // 90))) if rotation else picture


def _matrix(frame: VideoFrame) -> Colorspace:
    named = {1: Colorspace.ITU709, 5: Colorspace.ITU601, 6: Colorspace.ITU601, 7: Colorspace.SMPTE240M}
    by_size = Colorspace.ITU709 if frame.height >= HIGH_DEFINITION else Colorspace.ITU601
    return named.get(int(frame.colorspace), by_size)


def _open(path: Path) -> Any:
    if not path.exists():
        raise FootageError(f"There is no file {path}.")
    if path.is_dir():
        raise FootageError(f"{path} is a folder, not a clip.")
    try:
        if path.stat().st_size == 0:
            raise FootageError(f"{path.name} is empty; copy the clip from the camera again.")
        container = av.open(str(path))
    except PermissionError as error:
        raise FootageError(f"{path.name} may not be read; check who owns it.") from error
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FootageError(
            f"{path.name} cannot be read as a video: it is not one, or was cut off while being copied. "
            "The file is untouched; copy it again or choose another."
        ) from error
    if not container.streams.video:
        container.close()
        raise FootageError(f"{path.name} holds no picture, only sound or other data.")
    return container


def _table(container: Any, stream: Any, path: Path) -> tuple[IntArray, IntArray]:
    """Sorted presentation times and the numbers of key frames, from the packets alone."""
    times: list[int] = []
    keys: list[int] = []
    try:
        for packet in container.demux(stream):
            stamp = packet.pts if packet.pts is not None else packet.dts
            if stamp is None or packet.is_discard or packet.size == 0:
                continue
            times.append(stamp)
            if packet.is_keyframe:
                keys.append(stamp)
    except av.FFmpegError:
        pass
    if not times:
        raise FootageError(
            f"{path.name} holds no frame that can be read; copy the clip from the camera again."
        )
    pts = np.unique(np.array(times, dtype=np.int64))
    return pts, np.searchsorted(pts, np.unique(np.array(keys, dtype=np.int64)))


__all__ = ["Clip", "ClipInfo", "luma_of", "picture_of"]
