"""What the desk's long pieces of work share: one thread, the newest task alone counts, answers by signal."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, QThreadPool, pyqtSignal

from kneel.desk.tasks import Task


class Background(QObject):
    """One piece of work at a time. ``finished`` tells when there is something new."""

    finished = pyqtSignal()
    failed = pyqtSignal(str)
    progressed = pyqtSignal(int, int)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._task: Task | None = None

    def _begin(self, task: Task) -> None:
        self._task = task
        task.done.connect(self._on_done)
        task.failed.connect(self._on_failed)
        task.progressed.connect(self.progressed)
        task.start(self._pool)

    def _drop(self) -> None:
        """Give up the task under way, if there is one."""
        if self._task is not None:
            self._task.stop()
            self._task = None
            self.progressed.emit(0, 0)

    def _on_done(self, found: Any) -> None:
        if self.sender() is self._task:
            self._task = None
            self._take(found)
            self.progressed.emit(0, 0)
            self.finished.emit()

    def _on_failed(self, sentence: str) -> None:
        if self.sender() is self._task:
            self._task = None
            self._give_up()
            self.progressed.emit(0, 0)
            self.failed.emit(sentence)

    def _take(self, found: Any) -> None:
        """Keep what the task found."""
        raise NotImplementedError

    def _give_up(self) -> None:
        """The task broke: forget what was asked."""
