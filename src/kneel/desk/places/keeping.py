"""Saving what is seen in a folder beside the clip, without a dialog: a still, or the swing as a slow clip."""

from __future__ import annotations

import queue
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Protocol

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.records import Books
from kneel.desk.records.output_paths import KEPT, OutputKeeper
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.footage import write_clip
from kneel.model import FootageError

SLOWER = 4.0
"""A slow clip runs this many times slower than life."""

RATE = 30.0
AHEAD = 8
PAUSE_MS = 4
STOPPING_S = 0.2
"""Between two pictures, for the encoder to come to its turn."""


class Picture(Protocol):
    """What is kept: a picture as it is seen now, and as it would be at another frame (None until that can be
    told).
    """

    def seen(self) -> QImage: ...

    def seen_at(self, frame: int) -> QImage | None: ...


class Keeping(QObject):
    """Stills and slow clips of a picture; ``said`` tells where they lie.

    ``others`` are further swings that are seen on it: it goes where one of them is deleted. ``kind`` stands
    in the files' names.
    """

    said = pyqtSignal(str)

    def __init__(
        self,
        opened: OpenSwing,
        picture: Picture,
        books: Books,
        parent: QObject,
        *,
        others: Callable[[], Sequence[OpenSwing]] = tuple,
        kind: str = "",
    ) -> None:
        super().__init__(parent)
        self._open, self._picture, self._books = opened, picture, books
        self._others, self._kind = others, kind
        self._stills = Lane(self)
        self._clips = Lane(self, opened.jobs, tr("saving a slow clip"))
        self._frames: list[int] = []
        self._pictures: queue.Queue[np.ndarray | None] = queue.Queue(AHEAD)
        self._size = (0, 0)
        self._timer = QTimer(self, interval=PAUSE_MS)
        self._timer.timeout.connect(self._paint_one)
        opened.opened.connect(self.stop)

    def save_still(self) -> None:
        """Save the picture as it is seen, beside the clip."""
        keeper = OutputKeeper.of(self._open, self._books, self._others())
        if keeper is None:
            return
        at = self._open.checkpoint or f"frame {self._open.first + self._open.cursor.frame}"
        image = self._picture.seen()
        self._stills.start(
            Operation(
                work=lambda _: keeper.keep(self._named(at), ".png", _as_png(image)),
                done=self._tell,
                failed=lambda _: self._open.failed.emit(_nowhere(keeper.clip)),
            )
        )

    def _named(self, what: str) -> str:
        return " ".join(part for part in (what.replace("_", " "), self._kind) if part)

    def _tell(self, path: Path) -> None:
        self.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{path.name}"))

    def save_slow_clip(self) -> None:
        """Save the swing as it is seen, four times slowed, beside the clip."""
        keeper = OutputKeeper.of(self._open, self._books, self._others())
        if keeper is None or self._timer.isActive():
            return
        self._frames = self._moments()
        first = self._picture.seen()
        self._size = first.width() // 2 * 2, first.height() // 2 * 2
        self._pictures = queue.Queue(AHEAD)
        pictures, size, total = self._pictures, self._size, len(self._frames)

        def write(target: Path, task: Task) -> None:
            write_clip(target, _until_none(pictures, task, total), rate=RATE, size=size)
            if task.stopped():
                target.unlink(missing_ok=True)

        named = self._named("slow")

        def work(task: Task) -> Path | None:
            try:
                return keeper.keep_as(named, ".mp4", lambda target: write(target, task))
            except OSError as error:
                raise FootageError(_nowhere(keeper.clip)) from error

        self._clips.start(
            Operation(
                subject=lambda: self._open.path,
                work=work,
                done=self._tell,
                failed=lambda error: self._open.failed.emit(str(error)),
                ended=self._end,
            )
        )
        self._timer.start()

    def stop(self) -> bool:
        """Give it up, and nothing is left behind; tells whether there was anything to give up."""
        busy = self._timer.isActive()
        self._clips.stop()
        return busy

    def _end(self) -> None:
        """However it ended: the encoder waits for no more pictures."""
        if self._timer.isActive():
            self._timer.stop()
            self._give(None, wait=False)

    def _moments(self) -> list[int]:
        """The frames of the clip to be written, from a little before address to the finish."""
        times, analysis = self._open.times_s, self._open.analysis
        shown_ = sorted(c.time_s for c in analysis.checkpoints.values()) if analysis else []
        first = max(float(times[0]), shown_[0] - 0.2) if shown_ else float(times[0])
        last = min(float(times[-1]), shown_[-1] + 0.2) if shown_ else float(times[-1])
        moments = np.arange(first, last, 1.0 / (RATE * SLOWER))
        return [int(k) for k in np.clip(np.searchsorted(times, moments), 0, len(times) - 1)]

    def _paint_one(self) -> None:
        """Paint one picture in each turn of the event loop: window, picture and hand stay where they are."""
        if self._pictures.full():
            return
        if not self._frames:
            self._timer.stop()
            self._give(None)
            return
        frame = self._frames[0]
        image = self._picture.seen_at(frame)
        if image is None:
            # Its frame is still being decoded.
            return
        self._frames.pop(0)
        self._give(as_rgb(image, self._size))

    def _give(self, picture: np.ndarray | None, *, wait: bool = True) -> None:
        try:
            self._pictures.put(picture, timeout=2.0 if wait else 0.01)
        except queue.Full:
            return


def _until_none(pictures: queue.Queue[np.ndarray | None], task: Task, total: int) -> Iterator[np.ndarray]:
    done = 0
    while not task.stopped():
        try:
            picture = pictures.get(timeout=STOPPING_S)
        except queue.Empty:
            continue
        if picture is None:
            return
        yield picture
        done += 1
        task.progress(done, total)


def _nowhere(clip: Path) -> str:
    words = tr("Nothing can be written beside %s; nothing was lost. Copy the picture instead.")
    return words % shown(clip.name)


def _as_png(image: QImage) -> bytes:
    raw = QByteArray()
    buffer = QBuffer(raw)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return raw.data()


def as_rgb(image: QImage, size: tuple[int, int]) -> np.ndarray:
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
