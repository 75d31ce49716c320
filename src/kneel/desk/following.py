"""Following marks through the clip in the background, and keeping what was followed."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QObject, QTimer

from kneel.desk.background import Background
from kneel.desk.tasks import Task
from kneel.footage import Clip, FrameStore, luma_of
from kneel.model import Links, Swing
from kneel.motion.body import px_per_metre
from kneel.vision import Leg, closed, follow, legs

SETTLE_MS = 120
LUMA_HELD = 16


@dataclass(frozen=True)
class _Request:
    swing: Swing
    times_s: np.ndarray
    wanted: tuple[Leg, ...]


class Following(Background):
    """What has been followed so far; it is finished when the marks asked for are all followed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._store: FrameStore | None = None
        self._known: dict[Leg, Links] = {}
        self._rate: float | None = None
        self._request: _Request | None = None
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settle.timeout.connect(self._start)

    @property
    def busy(self) -> bool:
        return self._task is not None or self._settle.isActive()

    def begin(self, store: FrameStore) -> None:
        self._store = store
        self._known.clear()

    def end(self) -> None:
        """Stop whatever is under way and wait for it."""
        self.cancel()
        self._pool.waitForDone()
        self._store = None

    def cancel(self) -> None:
        """Give up what is under way; what is known stays."""
        self._settle.stop()
        self._request = None
        self._drop()

    def need(self, swing: Swing, times_s: np.ndarray) -> None:
        """Ask for the marks of ``swing`` to be followed; a moment later work begins."""
        if self._rate != swing.capture_rate:
            # Steps hold for any rate, but their errors grow with real time.
            self._known.clear()
            self._rate = swing.capture_rate
        missing = tuple(leg for leg in legs(swing.marks, len(times_s)) if leg not in self._known)
        self.cancel()
        if missing:
            self._request = _Request(swing, times_s, missing)
            self._settle.start()

    def links_for(self, swing: Swing) -> Mapping[str, Sequence[Links]]:
        """What is known of the motion of each marked point.

        Where a mark has just been moved, what was followed from its old place
        serves until the new one is followed.
        """
        if self._store is None:
            return {}
        wanted = legs(swing.marks, _length(swing, self._store))
        followed = {leg: self._known[leg] for leg in wanted if leg in self._known}
        lacking = {leg.point for leg in wanted if leg not in self._known}
        result = dict(closed(followed, swing.marks))
        for leg, links in self._known.items():
            if leg.point in lacking and leg not in followed:
                result.setdefault(leg.point, []).append(links)
        return result

    def _start(self) -> None:
        request, store = self._request, self._store
        if request is None or store is None:
            return
        self._begin(Task(lambda task: _follow(task, store, request)))

    def _take(self, found: dict[Leg, Links]) -> None:
        request, self._request = self._request, None
        self._known.update(found)
        if request is not None and self._store is not None:
            current = set(legs(request.swing.marks, len(request.times_s)))
            self._known = {leg: links for leg, links in self._known.items() if leg in current}

    def _give_up(self) -> None:
        self._request = None


def _follow(task: Task, store: FrameStore, request: _Request) -> dict[Leg, Links]:
    """The work itself, in a thread of the pool."""
    placed = {m.point: np.array([[m.x, m.y]]) for m in request.swing.marks}
    metre = px_per_metre(placed, height_px=store.info.height)
    with Clip(store.info.path) as clip:
        return follow(
            request.wanted,
            _luma(store, clip, request.swing.reach(store.info.frames)[0]),
            request.times_s,
            metre=metre,
            progress=task.progressed.emit,
            stopped=task.stopped,
        )


def _length(swing: Swing, store: FrameStore) -> int:
    first, last = swing.reach(store.info.frames)
    return last - first + 1


def _luma(store: FrameStore, clip: Clip, first: int) -> Callable[[int], np.ndarray]:
    """Brightness of frames counted from ``first``, from the store or decoded; the last few are kept."""
    held: OrderedDict[int, np.ndarray] = OrderedDict()

    def luma(number: int) -> np.ndarray:
        if number not in held:
            frame = store.peek(first + number) or clip.frame(first + number)
            held[number] = luma_of(frame, store.info.upright)
            while len(held) > LUMA_HELD:
                held.popitem(last=False)
        return held[number]

    return luma
