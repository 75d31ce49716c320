"""One clip: a table of presentation times, and exactly frame N.

A frame is never sought by number times rate: variable rates, dropped frames
and slow-motion ramps make that land beside the mark. The table is built from
the packets' own times, without decoding.
"""

from __future__ import annotations

from collections.abc import Generator, Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from types import TracebackType

import numpy as np
from av.video.frame import VideoFrame
from numpy.typing import NDArray

from kneel.disk import shown
from kneel.footage.container import open_pictures
from kneel.footage.edits import read_edits
from kneel.footage.kinds import photograph, what_else
from kneel.footage.rate import RateGuess, guess_rate
from kneel.footage.table import Table, decoded_table, read_table, tolerant
from kneel.footage.upright import Upright, upright_of
from kneel.model import FootageError
from kneel.motion.clock import pace_of, real_times

QUICKEST_RATE, SLOWEST_RATE, LONGEST_S = 10_000.0, 0.1, 24 * 3600.0
"""Frames a second and seconds that a film can have; beyond, its header is damaged."""

IntArray = NDArray[np.int64]
FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class ClipInfo:
    """What a clip is: ``times_s`` (N,) from the first frame on, as stored; size as shown upright.

    ``filmed`` is what the file gives away of the rate it was filmed at, None
    where that looks like the stored one; ``pace`` (N - 1,) how many times
    slower each step runs in a clip slowed in part, else None.
    """

    path: Path
    times_s: FloatArray
    upright: Upright
    rate_stored: float
    filmed: RateGuess | None = None
    pace: FloatArray | None = None
    warnings: tuple[str, ...] = ()

    @property
    def rate_captured(self) -> float | None:
        """The guessed rate of capture, None where it looks like the stored one."""
        return self.filmed.rate if self.filmed else None

    def real_s(self, rate_captured: float | None) -> FloatArray:
        """Real seconds of every frame, (N,), if filmed at a rate; None takes the times as stored."""
        return real_times(self.times_s, rate_captured, self.pace)

    @property
    def frames(self) -> int:
        return len(self.times_s)

    @property
    def width(self) -> int:
        return self.upright.width

    @property
    def height(self) -> int:
        return self.upright.height


class Clip:
    """An open clip. Not safe for several threads: each opens its own.

    Opening decodes the first picture; the table of times is read when first
    asked for. Raises :class:`FootageError` with a sentence where the file
    cannot be read.
    """

    def __init__(self, path: str | Path) -> None:
        self.path = Path(path)
        self._edits = read_edits(self.path)
        self._container, self._stream = open_pictures(self.path, self._edits)
        self._decoder: Iterator[VideoFrame] | None = self._container.decode(self._stream)
        self._next = 0
        self.first = self._first_frame()
        self.upright = upright_of(self.first, float(self._stream.sample_aspect_ratio or 1))

    def again(self) -> Clip:
        """The same clip opened once more, for another thread; the table is shared, nothing is read twice."""
        other = object.__new__(Clip)
        other.path = self.path
        other._edits = self._edits
        other._container, other._stream = open_pictures(self.path, self._edits)
        other._decoder, other._next = None, 0
        other.first, other.upright = self.first, self.upright
        other.__dict__["_table"], other.__dict__["info"] = self._table, self.info
        return other

    def __enter__(self) -> Clip:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        self._decoder = None
        if self._container is not None:
            self._container.close()
        # The codec keeps its frames' memory until it goes itself.
        self._container = self._stream = None

    def frame(self, number: int) -> VideoFrame:
        """Exactly frame ``number``. Raises :class:`FootageError` where it cannot be decoded."""
        found = None
        for at, frame in self.frames_to(number):
            found = frame if at == number else None
        if found is None:
            raise FootageError(
                f"Frame {number} of {self.path.name} is damaged; the other frames can be used."
            )
        return found

    def nearby(self, number: int, within: int) -> int:
        """The key frame up to so many frames before ``number``, reached in one step where phones write
        one a second; ``number`` itself where there is none.
        """
        keys = self._keys[(self._keys <= number) & (self._keys >= number - within)]
        return int(keys[-1]) if keys.size else number

    def frames_to(self, number: int) -> Iterator[tuple[int, VideoFrame]]:
        """The frames decoded on the way to ``number``, it being the last; none where it is damaged.

        Raises :class:`FootageError` where the clip has no such frame.
        """
        if not 0 <= number < len(self._pts):
            raise FootageError(f"{self.path.name} has frames 0 to {len(self._pts) - 1}, not {number}.")
        if self._decoder is not None and self._near(number):
            passed = yield from self._forward_to(number)
            if passed:
                return
        for target in self._entries(number):
            self._seek(target)
            passed = yield from self._forward_to(number)
            if passed:
                return
        self._decoder = None

    def _forward_to(self, number: int) -> Generator[tuple[int, VideoFrame], None, bool]:
        """Decode on to a frame; False where it is passed over or the clip ends."""
        for frame in self._steps():
            at = self._table.number_of(frame)
            if at is None:
                continue
            if at > number:
                return False
            yield at, frame
            if at == number:
                return True
        return False

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
            number = self._table.number_of(frame)
            if number is not None and number > first:
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

    def _steps(self, *, counted: bool = True) -> Iterator[VideoFrame]:
        """Decoded frames from here on; what cannot be decoded is stepped over."""
        if self._decoder is None:
            return
        for frame in tolerant(self._decoder):
            number = self._table.number_of(frame) if counted else None
            if number is not None:
                self._next = number + 1
            yield frame
        self._decoder = None

    def _first_frame(self) -> VideoFrame:
        for frame in self._steps(counted=False):
            return frame
        self._container.close()
        if photograph(self.path):
            raise FootageError(
                f"{self.path.name} is {what_else(self.path)}: it is damaged. The file is untouched; copy it "
                "again or choose another."
            )
        raise FootageError(
            f"{self.path.name} holds no picture that can be decoded: it is damaged, encrypted or of an "
            "unknown kind. The file is untouched; copy it again or choose another."
        )

    @cached_property
    def _table(self) -> Table:
        """The table of frames; the decoder goes back to the start."""
        self._container.seek(0, any_frame=False, backward=True)
        table = read_table(self._container, self._stream, self.path)
        self._decoder = None
        first = table.stamp_of(self.first)
        if first is not None and first not in table.stamps[:64]:
            container, stream = open_pictures(self.path, self._edits)
            with container:
                table = decoded_table(tolerant(container.decode(stream)))
        return table

    @property
    def _pts(self) -> IntArray:
        return self._table.stamps

    @property
    def _keys(self) -> IntArray:
        return self._table.keys

    @cached_property
    def info(self) -> ClipInfo:
        """What the clip is; reads the table of times. Raises :class:`FootageError` where those cannot be."""
        base = float(self._stream.time_base or 0)
        times = (self._pts - self._pts[0]) * base
        steps = np.diff(times)
        rate = 1 / float(np.median(steps)) if steps.size else float(self._stream.average_rate or 0)
        pace = pace_of(times)
        if rate > QUICKEST_RATE or (steps.size and rate < SLOWEST_RATE) or times[-1] > LONGEST_S:
            raise FootageError(
                f"{shown(self.path.name)} has {rate:.3g} frames a second over {float(times[-1]):.3g} s "
                "by its own times, which no camera films: they are damaged. The file is untouched; "
                "copy it again."
            )
        guess = guess_rate(self._container, times, pace)
        if guess is not None and not 1 <= guess.rate <= QUICKEST_RATE:
            guess = None
        return ClipInfo(self.path, times, self.upright, rate, guess, pace, tuple(self._notes(times)))

    def _notes(self, times_s: FloatArray) -> Iterator[str]:
        declared = self._stream.frames
        shown_s = self._edits.video_s
        # A clip trimmed without being written anew holds frames that are not to be shown.
        trimmed = shown_s is not None and not self._edits.changes_pace and times_s[-1] > 0.98 * shown_s - 0.1
        if declared and len(times_s) < 0.98 * declared and not trimmed:
            yield (
                f"{self.path.name} breaks off: {len(times_s)} of {declared} frames are there and can be used."
            )
        if self._edits.changes_pace:
            slowest = self._edits.slowest
            how = f"{1 / slowest:.3g} times slower" if slowest < 1 else "at another speed"
            yield (
                f"An edit in the file plays part of it {how}; here every frame has the time it was filmed at."
            )

    @property
    def start_s(self) -> float:
        """Presentation time of the first frame on the file's own clock, as its sound has it."""
        return float(self._pts[0] * (self._stream.time_base or 0))
