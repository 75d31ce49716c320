"""Frames at hand: decoded ahead in a thread of its own, within a bound of memory."""

from __future__ import annotations

import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from av.video.frame import VideoFrame

from kneel.footage.clip import Clip, ClipInfo
from kneel.model import FootageError

BOUND_BYTES = 768 * 1024 * 1024
NICENESS = 10


class FrameStore:
    """Decoded frames of one clip, as raw planes.

    A thread decodes the clip from front to back while it fits ``bound_bytes``
    and serves requests for missing frames first. ``on_ready(number)`` is
    called from that thread when a requested frame has come, ``on_progress``
    with the number of frames held and wanted, ``on_error`` with a sentence.
    """

    def __init__(
        self,
        path: str | Path,
        *,
        bound_bytes: int = BOUND_BYTES,
        on_ready: Callable[[int], None] = lambda number: None,
        on_progress: Callable[[int, int], None] = lambda done, wanted: None,
        on_error: Callable[[str], None] = lambda sentence: None,
    ) -> None:
        self._clip = Clip(path)
        self.info: ClipInfo = self._clip.info
        first = self._clip.frame(0)
        self._frames: OrderedDict[int, VideoFrame] = OrderedDict({0: first})
        size = sum(plane.buffer_size for plane in first.planes)
        self._room = max(8, bound_bytes // max(size, 1))
        self._on_ready, self._on_progress, self._on_error = on_ready, on_progress, on_error
        self._lock = threading.Condition()
        self._wanted: list[int] = []
        self._closed = False
        self._thread = threading.Thread(target=self._work, name="frame store", daemon=True)

    def start(self) -> None:
        """Begin to decode ahead."""
        self._thread.start()

    def close(self) -> None:
        """Stop the thread and let the frames go."""
        with self._lock:
            self._closed = True
            self._lock.notify_all()
        if self._thread.is_alive():
            self._thread.join(timeout=5)
        self._clip.close()
        self._frames.clear()

    @property
    def held(self) -> int:
        """How many frames are at hand."""
        return len(self._frames)

    def get(self, number: int) -> VideoFrame | None:
        """The frame if it is at hand, without waiting."""
        with self._lock:
            frame = self._frames.get(number)
            if frame is not None:
                self._frames.move_to_end(number)
            return frame

    def request(self, number: int) -> None:
        """Ask for a frame; ``on_ready`` tells when it is at hand. Only the latest few wait."""
        with self._lock:
            if number in self._wanted:
                self._wanted.remove(number)
            self._wanted.append(number)
            del self._wanted[:-4]
            self._lock.notify_all()

    def _work(self) -> None:
        _lower_priority()
        with Clip(self.info.path) as ahead:
            steps = ahead.frames()
            filling = True
            while not self._closed:
                number = self._next_wanted(wait=not filling)
                if number is not None:
                    self._fetch(number)
                elif filling:
                    filling = self._fill(steps)

    def _fill(self, steps: object) -> bool:
        """Decode one more frame ahead; False when the clip or the room is at its end."""
        if len(self._frames) >= self._room:
            return False
        try:
            number, frame = next(steps)  # type: ignore[call-overload]
        except StopIteration:
            return False
        self._put(number, frame)
        if number % 10 == 0 or number == self.info.frames - 1:
            self._on_progress(len(self._frames), min(self.info.frames, self._room))
        return True

    def _next_wanted(self, *, wait: bool) -> int | None:
        with self._lock:
            if wait and not self._wanted and not self._closed:
                self._lock.wait(timeout=1.0)
            return self._wanted.pop() if self._wanted else None

    def _fetch(self, number: int) -> None:
        if self.get(number) is None:
            try:
                self._put(number, self._clip.frame(number))
            except FootageError as error:
                self._on_error(str(error))
                return
        self._on_ready(number)

    def _put(self, number: int, frame: VideoFrame) -> None:
        with self._lock:
            self._frames[number] = frame
            while len(self._frames) > self._room:
                self._frames.popitem(last=False)


def _lower_priority() -> None:
    """Give way to the interface; decoder threads started later inherit it."""
    try:
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)
    except (AttributeError, OSError):
        return
