"""Frames at hand: decoded ahead in threads of their own, within a bound of memory.

A clip that fits is kept as raw planes. One that does not is kept as JPEG in
memory, with a ring of unpacked frames round the cursor, fetched ahead in the
direction of travel. Past the bound the frames farthest from the cursor go,
and are decoded again when asked for.
"""

from __future__ import annotations

import os
import queue
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from pathlib import Path

from av.video.frame import VideoFrame

from kneel.footage.clip import Clip, ClipInfo
from kneel.footage.memory import give_back
from kneel.footage.packing import Packed, Packer, Unpacker
from kneel.model import FootageError

BOUND_BYTES = 1024 * 1024 * 1024
NICENESS = 10
AHEAD, BEHIND = 12, 6
SOON = 40
"""A frame at most this far ahead of reading is waited for rather than sought."""

PACKED_QUEUE = 3

Ready = Callable[[int], None]


class FrameStore:
    """Decoded frames of one clip, or of the range ``reach`` of it (both ends included).

    ``get`` never waits; ``request`` asks for a frame, and ``on_ready(number)``
    tells, from a thread of the store, when it is at hand. ``on_progress`` gets
    the number of frames held and wanted, ``on_error`` a sentence.
    """

    def __init__(
        self,
        path: str | Path,
        *,
        reach: tuple[int, int] | None = None,
        bound_bytes: int = BOUND_BYTES,
        on_ready: Ready = lambda number: None,
        on_progress: Callable[[int, int], None] = lambda done, wanted: None,
        on_error: Callable[[str], None] = lambda sentence: None,
    ) -> None:
        self._clip = Clip(path)
        self.info: ClipInfo = self._clip.info
        self.start_s = self._clip.start_s
        self._ahead = self._clip.again()
        first = self._clip.first
        self._frame_bytes = max(sum(plane.buffer_size for plane in first.planes), 1)
        self._bound = bound_bytes
        self.reach = reach or (0, self.info.frames - 1)
        self.wanted = self.reach[1] - self.reach[0] + 1
        self.packs = self.wanted * self._frame_bytes > bound_bytes
        ring = bound_bytes // (4 * self._frame_bytes)
        # One more than the range: the clip's first frame is held beside it.
        self._ring_room = max(4, min(ring, 4 * (AHEAD + BEHIND))) if self.packs else self.wanted + 1
        self._full = False
        self._read_to = -1
        self._raw: OrderedDict[int, VideoFrame] = OrderedDict({0: first})
        self._packed: dict[int, Packed] = {}
        self._packed_bytes = 0
        self._on_ready, self._on_progress, self._on_error = on_ready, on_progress, on_error
        self._lock = threading.Condition()
        self._wanted: list[int] = []
        self._cursor, self._way = 0, 1
        self._closed = False
        self._to_pack: queue.Queue[tuple[int, VideoFrame] | None] = queue.Queue(PACKED_QUEUE)
        works = (self._ingest, self._serve, *((self._pack,) if self.packs else ()))
        self._threads = [threading.Thread(target=w, name=f"store {w.__name__}", daemon=True) for w in works]

    def start(self, cursor: int | None = None) -> None:
        """Begin to decode ahead, from the cursor on and then what lies before it."""
        self._cursor = self.reach[0] if cursor is None else cursor
        for thread in self._threads:
            thread.start()

    def close(self) -> None:
        """Stop the threads and let the frames go."""
        with self._lock:
            self._closed = True
            self._lock.notify_all()
        for thread in self._threads:
            if thread.is_alive():
                thread.join(timeout=10)
        # Frames first: what comes back to a codec already closed is kept as long as any of its frames lives.
        self._raw.clear()
        self._packed.clear()
        self._clip.close()
        self._ahead.close()
        give_back()

    @property
    def held(self) -> int:
        """How many frames are at hand, raw or packed."""
        return len(self._raw.keys() | self._packed.keys()) if self.packs else len(self._raw)

    @property
    def bytes_held(self) -> int:
        """Memory the held frames take."""
        return len(self._raw) * self._frame_bytes + self._packed_bytes

    def get(self, number: int) -> VideoFrame | None:
        """The frame if it is at hand as raw planes, without waiting."""
        with self._lock:
            self._look(number)
            frame = self._raw.get(number)
            if frame is not None and self.packs:
                self._raw.move_to_end(number)
                self._lock.notify_all()
            return frame

    def peek(self, number: int) -> VideoFrame | None:
        """The frame if it is at hand, for work beside the cursor: it tells nothing of where that is."""
        with self._lock:
            return self._raw.get(number)

    def nearest(self, number: int) -> VideoFrame | None:
        """The raw frame nearest to ``number``: something to show until the exact one comes."""
        with self._lock:
            close = min(self._raw, key=lambda n: abs(n - number), default=None)
            return None if close is None else self._raw[close]

    def request(self, number: int) -> None:
        """Ask for a frame; ``on_ready`` tells when it is at hand. Only the latest few wait."""
        with self._lock:
            if number in self._wanted:
                self._wanted.remove(number)
            self._wanted.append(number)
            del self._wanted[:-4]
            self._look(number)
            self._lock.notify_all()

    def _look(self, number: int) -> None:
        if number != self._cursor:
            self._way = 1 if number > self._cursor else -1
            self._cursor = number

    # Decoding ahead

    def _ingest(self) -> None:
        _lower_priority()
        try:
            with self._ahead as clip:
                for number, frame in self._in_order(clip):
                    if self._closed or not self._take(number, frame):
                        break
                    if number % 10 == 0:
                        self._on_progress(self.held, self.wanted)
        except FootageError as error:
            self._on_error(str(error))
        if self.packs:
            self._hand_over(None)
        else:
            self._on_progress(self.held, self.held)

    def _in_order(self, clip: Clip) -> Iterator[tuple[int, VideoFrame]]:
        first, last = self.reach
        start = self._cursor if self._cursor > first + self.wanted // 3 else first
        for begin, end in ((start, last), (first, start - 1)):
            if begin > end:
                continue
            for number, frame in clip.frames(begin):
                if number > end:
                    break
                yield number, frame

    def _take(self, number: int, frame: VideoFrame) -> bool:
        """Keep one frame decoded ahead; False once there is no more use in going on."""
        if not self.packs:
            with self._lock:
                self._raw[number] = frame
                self._read_to = number
                self._lock.notify_all()
            return True
        return self._hand_over((number, frame))

    def _hand_over(self, item: tuple[int, VideoFrame] | None) -> bool:
        while not self._closed and not self._full:
            try:
                self._to_pack.put(item, timeout=0.2)
                return True
            except queue.Full:
                continue
        return False

    def _pack(self) -> None:
        _lower_priority()
        packer = Packer()
        while not self._closed and not self._full:
            try:
                item = self._to_pack.get(timeout=0.2)
            except queue.Empty:
                continue
            if item is None:
                break
            number, frame = item
            packed = packer.pack(frame)
            with self._lock:
                if number not in self._packed:
                    self._packed[number] = packed
                    self._packed_bytes += len(packed.data)
                if abs(number - self._cursor) <= BEHIND:
                    self._keep_raw(number, frame)
                self._make_room(number)
        self._on_progress(self.held, self.held)

    def _make_room(self, newest: int) -> None:
        """Let go of the packed frames farthest from the cursor until the bound is kept."""
        room = self._bound - self._ring_room * self._frame_bytes
        while self._packed_bytes > max(room, 0) and self._packed:
            far = max(self._packed, key=lambda n: abs(n - self._cursor))
            self._packed_bytes -= len(self._packed.pop(far).data)
            # Once what has just come is what has to go, reading on is of no use.
            self._full = self._full or far == newest

    # Serving requests

    def _serve(self) -> None:
        unpacker = Unpacker()
        while not self._closed:
            number, asked = self._next()
            if number is None:
                continue
            if number not in self._raw and not self._fetch(number, unpacker, say=asked):
                continue
            if asked:
                self._on_ready(number)

    def _next(self) -> tuple[int | None, bool]:
        """The frame to fetch and whether it was asked for; waits while there is nothing to do."""
        with self._lock:
            if self._wanted:
                return self._wanted.pop(), True
            ahead = self._next_ahead()
            if ahead is None:
                self._lock.wait(timeout=0.5)
            return ahead, False

    def _next_ahead(self) -> int | None:
        """The next packed frame worth unpacking round the cursor."""
        if not self.packs:
            return None
        near = [self._cursor + self._way * k for k in range(1, AHEAD + 1)]
        near += [self._cursor - self._way * k for k in range(1, BEHIND + 1)]
        room = [n for n in near[: self._ring_room - 2] if n in self._packed and n not in self._raw]
        return room[0] if room else None

    def _comes_by_itself(self, number: int) -> bool:
        """Wait for a frame that reading ahead is about to bring; False where it is not."""
        if self.packs or not 0 < number - self._read_to <= SOON:
            return False
        with self._lock:
            return self._lock.wait_for(lambda: self._closed or number in self._raw, timeout=0.5)

    def _fetch(self, number: int, unpacker: Unpacker, *, say: bool) -> bool:
        if self._comes_by_itself(number):
            return number in self._raw
        packed = self._packed.get(number)
        try:
            frame = unpacker.unpack(packed) if packed else None
            if frame is None:
                for near, found in self._clip.frames_to(number):
                    with self._lock:
                        self._keep_raw(near, found)
                return number in self._raw
        except FootageError as error:
            if say:
                self._on_error(str(error))
            return False
        with self._lock:
            self._keep_raw(number, frame)
        return True

    def _keep_raw(self, number: int, frame: VideoFrame) -> None:
        self._raw[number] = frame
        self._raw.move_to_end(number)
        while len(self._raw) > self._ring_room:
            self._raw.popitem(last=False)


def _lower_priority() -> None:
    """Give way to the interface; decoder threads started later inherit it."""
    try:
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)
    except (AttributeError, OSError):
        return
