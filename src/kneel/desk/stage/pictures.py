"""Pictures as large as they are shown, made ahead of the hand in a thread of their own."""

from __future__ import annotations

import threading
import weakref
from dataclasses import dataclass

import numpy as np
from PyQt6.QtGui import QImage

from kneel.footage import FrameStore, Part, picture_of
from kneel.footage.light import in_light

AHEAD, BEHIND = 10, 3
BOUND_BYTES = 160 * 1024 * 1024
FEWEST = 4


@dataclass(frozen=True)
class Manner:
    """How pictures are wanted: of which clip, which part of it, how large (width, height, px), and in what
    light: each of its values, as a share of white, is raised to that power.
    """

    store: FrameStore
    part: Part
    size: tuple[int, int]
    light: float = 1.0


class PictureMade:
    """A picture and the memory it lies in."""

    def __init__(self, pixels: np.ndarray) -> None:
        height, width = pixels.shape[:2]
        self._pixels = pixels
        self.image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
        self.bytes = pixels.nbytes


class Pictures:
    """The picture of a frame at once where its frame is at hand, those near it made ahead.

    ``near`` are further frames worth having, such as the checkpoints, to which a key jumps.
    """

    def __init__(self) -> None:
        self._lock = threading.Condition()
        self._made: dict[int, PictureMade] = {}
        self._manner: Manner | None = None
        self._last: PictureMade | None = None
        self._cursor, self._way = 0, 1
        self._near: tuple[int, ...] = ()
        self._ended = False
        self._thread: threading.Thread | None = None

    def forget(self) -> None:
        """Another clip is opened, or none."""
        with self._lock:
            self._manner, self._last = None, None
            self._made.clear()

    def close(self) -> None:
        """End the thread."""
        with self._lock:
            self._ended = True
            self._lock.notify_all()

    def show(self, manner: Manner, number: int, near: tuple[int, ...] = ()) -> tuple[QImage | None, bool]:
        """The picture of a frame and whether it is the exact one; else the last one until it comes."""
        with self._lock:
            if manner != self._manner:
                if self._manner is None or self._manner.store is not manner.store:
                    self._last = None
                self._manner = manner
                self._made.clear()
            if number != self._cursor:
                self._way = 1 if number > self._cursor else -1
            self._cursor, self._near = number, near
            made = self._made.get(number)
        store = manner.store
        # The store keeps its own ring round what it is asked for.
        frame = store.get(number)
        if made is None and frame is None:
            store.request(number)
            if self._last is None and (other := store.nearest(number)) is not None:
                self._last = _made(other, manner)
            return (self._last.image if self._last else None), False
        if made is None:
            made = _made(frame, manner)
            self._keep(manner, number, made)
        self._last = made
        self._go_on()
        return made.image, True

    def _keep(self, manner: Manner, number: int, made: PictureMade) -> None:
        with self._lock:
            if manner != self._manner:
                return
            self._made[number] = made
            while len(self._made) > _room(manner):
                del self._made[max(self._made, key=self._worth)]

    def _worth(self, number: int) -> int:
        """How far off a picture is; what a key jumps to counts as near."""
        return 1 if number in self._near else abs(number - self._cursor)

    def _go_on(self) -> None:
        if self._thread is None:
            self._thread = threading.Thread(
                target=_run, args=(weakref.ref(self), self._lock), name="pictures", daemon=True
            )
            self._thread.start()
        with self._lock:
            self._lock.notify_all()

    def next_wanted(self) -> tuple[Manner, int] | None:
        """What to make next, of what is at hand; called with the lock held."""
        manner = self._manner
        if manner is None:
            return None
        first, last = manner.store.reach
        ahead = [self._cursor + self._way * k for k in range(1, AHEAD + 1)]
        behind = [self._cursor - self._way * k for k in range(1, BEHIND + 1)]
        # No more than there is room for, or each would drive out the next.
        worth = [n for n in (*ahead, *behind, *self._near) if first <= n <= last][: _room(manner) - 1]
        lacking = (n for n in worth if n not in self._made and manner.store.peek(n) is not None)
        return next(((manner, n) for n in lacking), None)

    @property
    def ended(self) -> bool:
        return self._ended

    def make(self, manner: Manner, number: int) -> None:
        """Make one picture ahead, if its frame is still at hand."""
        frame = manner.store.peek(number)
        if frame is not None:
            self._keep(manner, number, _made(frame, manner))


def _made(frame: object, manner: Manner) -> PictureMade:
    upright = manner.store.info.upright
    pixels = picture_of(frame, upright, size=manner.size, form="bgra", part=manner.part)
    return PictureMade(in_light(pixels, manner.light))


def _room(manner: Manner) -> int:
    """How many pictures of this size are kept."""
    width, height = manner.size
    return max(BOUND_BYTES // max(4 * width * height, 1), FEWEST)


IDLE_S = 0.5
"""So long until frames that were not at hand are asked for again."""


def _run(owner: weakref.ref[Pictures], lock: threading.Condition) -> None:
    """Make what is wanted until the owner is gone."""
    while True:
        with lock:
            one = owner()
            if one is None or one.ended:
                return
            wanted = one.next_wanted()
            if wanted is None:
                del one
                lock.wait(IDLE_S)
                continue
        one.make(*wanted)
        del one
