"""Saving what is seen in a folder beside the clip, without a dialog: a still, or the swing as a slow clip."""

from __future__ import annotations

import queue
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from kneel.desk.jobs import Job
from kneel.desk.kept import KEPT, free_name
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.tasks import Task, Workers
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.footage import write_clip
from kneel.model import KneelError

SLOWER = 4.0
"""A slow clip runs this many times slower than life."""

RATE = 30.0
AHEAD = 8
PAUSE_MS = 4
"""Between two pictures, for the encoder to come to its turn."""


class Keeping(QObject):
    """Stills and slow clips of the stage; ``said`` tells where they lie."""

    said = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, stage: Stage) -> None:
        super().__init__(stage)
        self._open, self._stage = opened, stage
        self._workers = Workers(self)
        self._frames: list[int] = []
        self._pictures: queue.Queue[np.ndarray | None] = queue.Queue(AHEAD)
        self._total = 0
        self._back = 0
        self._size = (0, 0)
        self._target: Path | None = None
        self._timer = QTimer(self, interval=PAUSE_MS)
        self._timer.timeout.connect(self._paint_one)
        self._job = opened.jobs.add(Job(tr("saving a slow clip"), self.stop))
        opened.opened.connect(self.stop)

    def save_still(self) -> Path | None:
        """Save the picture as it is seen, beside the clip; returns where."""
        store = self._open.store
        if store is None:
            return None
        at = self._open.checkpoint or f"frame {self._open.first + self._open.cursor.frame}"
        target = self._free(at.replace("_", " "), ".png")
        if target is None:
            return None
        if not self._stage.seen().save(str(target)):
            self._open.failed.emit(tr("%s cannot be written; nothing was lost.") % shown(target))
            return None
        self.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{target.name}"))
        return target

    def _free(self, what: str, suffix: str) -> Path | None:
        """Where to save, or None where nothing can be written beside the clip, which is said."""
        store = self._open.store
        assert store is not None
        try:
            return free_name(store.info.path, what, suffix)
        except OSError:
            words = tr("Nothing can be written beside %s; nothing was lost. Copy the picture instead.")
            self._open.failed.emit(words % shown(store.info.path.name))
            return None

    def save_slow_clip(self) -> None:
        """Save the swing as it is seen, four times slowed, beside the clip."""
        store = self._open.store
        if store is None or self._timer.isActive():
            return
        target = self._target = self._free("slow", ".mp4")
        if target is None:
            return
        self._frames = self._moments()
        self._total = len(self._frames)
        self._back = self._open.cursor.frame
        first = self._stage.seen()
        self._size = first.width() // 2 * 2, first.height() // 2 * 2
        self._pictures = queue.Queue(AHEAD)
        pictures, size = self._pictures, self._size

        def work(_: Task) -> Path:
            write_clip(target, _until_none(pictures), rate=RATE, size=size)
            return target

        self._workers.start(Task(work, done=self._done, failed=self._failed))
        self._timer.start()
        self._open.jobs.tell(self._job, 0, self._total)

    def stop(self) -> None:
        """Give it up; nothing is left behind."""
        if self._timer.isActive():
            self._timer.stop()
            self._workers.give_up()
            self._give(None, wait=False)
            target = self._target
            if target is not None:
                self._workers.start(Task(lambda _: target.unlink(missing_ok=True)))
            self._open.cursor.go(self._back)
            self._open.jobs.tell(self._job, 0, 0)

    def _moments(self) -> list[int]:
        """The frames of the clip to be written, from a little before address to the finish."""
        times, analysis = self._open.times_s, self._open.analysis
        shown_ = sorted(c.time_s for c in analysis.checkpoints.values()) if analysis else []
        first = max(float(times[0]), shown_[0] - 0.2) if shown_ else float(times[0])
        last = min(float(times[-1]), shown_[-1] + 0.2) if shown_ else float(times[-1])
        moments = np.arange(first, last, 1.0 / (RATE * SLOWER))
        return [int(k) for k in np.clip(np.searchsorted(times, moments), 0, len(times) - 1)]

    def _paint_one(self) -> None:
        """Paint one picture in each turn of the event loop, so that the window stays at hand."""
        if self._pictures.full():
            return
        if not self._frames:
            self._timer.stop()
            self._give(None)
            return
        frame = self._frames[0]
        self._open.cursor.go(frame)
        image = self._stage.seen()
        if not self._stage.exact:
            # Its frame is still being decoded.
            return
        self._frames.pop(0)
        self._give(_as_rgb(image, self._size))
        self._open.jobs.tell(self._job, self._total - len(self._frames), self._total)

    def _give(self, picture: np.ndarray | None, *, wait: bool = True) -> None:
        try:
            self._pictures.put(picture, timeout=2.0 if wait else 0.01)
        except queue.Full:
            return

    def _done(self, target: Path) -> None:
        self._open.jobs.tell(self._job, 0, 0)
        self._open.cursor.go(self._back)
        self.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{target.name}"))

    def _failed(self, error: KneelError) -> None:
        self._timer.stop()
        self._open.jobs.tell(self._job, 0, 0)
        self._open.cursor.go(self._back)
        self._open.failed.emit(str(error))


def _until_none(pictures: queue.Queue[np.ndarray | None]) -> Iterator[np.ndarray]:
    while (picture := pictures.get()) is not None:
        yield picture


def _as_rgb(image: QImage, size: tuple[int, int]) -> np.ndarray:
    """A picture as (H, W, 3) RGB of an even size."""
    width, height = size
    if image.width() < width or image.height() < height:
        # The stage has become smaller meanwhile.
        image = image.scaled(width, height)
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    memory = plain.constBits()
    assert memory is not None
    memory.setsize(plain.sizeInBytes())
    rows = np.frombuffer(memory, np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:height, : 3 * width].reshape(height, width, 3).copy()
