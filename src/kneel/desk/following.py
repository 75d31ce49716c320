"""Following marks through the clip in the background, and keeping what was followed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QObject, QTimer

from kneel.desk.background import Background
from kneel.desk.tasks import Task
from kneel.footage import FrameReader, FrameStore
from kneel.model import CameraPath, Links, Sighting, Swing
from kneel.motion.body import rough_px_per_m
from kneel.vision import Followed, Leg, closed, follow_legs, fused, legs

SETTLE_MS = 120


@dataclass(frozen=True)
class _Request:
    swing: Swing
    times_s: np.ndarray
    wanted: tuple[Leg, ...]
    steady: bool


class Following(Background):
    """What has been followed so far; it is finished when the marks asked for are all followed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._store: FrameStore | None = None
        self._known: dict[Leg, Links] = {}
        self._spots: dict[Leg, Sighting] = {}
        self._done: set[Leg] = set()
        self.camera: CameraPath | None = None
        self._steadied = False
        self._rate: float | None = None
        self._request: _Request | None = None
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settle.timeout.connect(self._start)

    @property
    def busy(self) -> bool:
        return self._task is not None or self._settle.isActive()

    def begin(self, store: FrameStore) -> None:
        self._store = store
        self.camera, self._steadied = None, False
        self._forget()

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
            self._forget()
            self._rate = swing.capture_rate
        missing = tuple(leg for leg in legs(swing.marks, len(times_s)) if leg not in self._done)
        self.cancel()
        if missing:
            # Where the joints are looked for, the camera's motion comes with them.
            self._request = _Request(swing, times_s, missing, not swing.looked and not self._steadied)
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

    def spots_for(self, swing: Swing) -> Mapping[str, Sequence[Sighting]]:
        """Where the coloured spots that marks were set on are seen, by point."""
        if self._store is None:
            return {}
        wanted = set(legs(swing.marks, _length(swing, self._store)))
        seen = fused({leg: spot for leg, spot in self._spots.items() if leg in wanted})
        return {point: (sighting,) for point, sighting in seen.items()}

    def _forget(self) -> None:
        self._known.clear()
        self._spots.clear()
        self._done.clear()

    def _start(self) -> None:
        request, store = self._request, self._store
        if request is None or store is None:
            return
        self._begin(Task(lambda task: _follow(task, store, request)))

    def _take(self, found: Followed) -> None:
        request, self._request = self._request, None
        self._known.update(found.links)
        self._spots.update(found.spots)
        if request is not None and request.steady:
            self.camera, self._steadied = found.camera, True
        if request is not None and self._store is not None:
            current = set(legs(request.swing.marks, len(request.times_s)))
            self._known = {leg: links for leg, links in self._known.items() if leg in current}
            self._spots = {leg: spot for leg, spot in self._spots.items() if leg in current}
            self._done = (self._done | set(request.wanted)) & current

    def _give_up(self) -> None:
        self._request = None


def _follow(task: Task, store: FrameStore, request: _Request) -> Followed:
    """The work itself, in a thread of the pool."""
    placed = {m.point: np.array([[m.x, m.y]]) for m in request.swing.marks}
    px_per_m = rough_px_per_m(placed, height_px=store.info.height)
    first, _ = request.swing.reach(store.info.frames)
    reader = FrameReader(store.info.path, first, peek=store.peek)
    try:
        return follow_legs(
            request.wanted,
            reader,
            request.times_s,
            px_per_m=px_per_m,
            steady=request.steady,
            progress=task.progressed.emit,
            stopped=task.stopped,
        )
    finally:
        reader.close()


def _length(swing: Swing, store: FrameStore) -> int:
    first, last = swing.reach(store.info.frames)
    return last - first + 1
