"""What the desk's long pieces of work share: one thread, the newest task alone counts, answers by signal."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Task, Workers


class Background(QObject):
    """One piece of work at a time. ``finished`` tells when there is something new."""

    finished = pyqtSignal()
    failed = pyqtSignal(str)
    progressed = pyqtSignal(int, int)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._workers = Workers(self)
        self._task: Task | None = None

    def _begin(self, work: Callable[[Task], Any]) -> None:
        task = Task(work, done=self._on_done, failed=self._on_failed, progressed=self.progressed.emit)
        self._task = self._workers.start(task)

    def _drop(self) -> None:
        """Give up the task under way, if there is one."""
        if self._task is not None:
            self._task.stop()
            self._task = None
            self.progressed.emit(0, 0)

    def _on_done(self, found: Any) -> None:
        self._task = None
        self._take(found)
        self.progressed.emit(0, 0)
        self.finished.emit()

    def _on_failed(self, error: Exception) -> None:
        self._task = None
        self._give_up()
        self.progressed.emit(0, 0)
        self.failed.emit(str(error))

    def _take(self, found: Any) -> None:
        """Keep what the task found."""
        raise NotImplementedError

    def _give_up(self) -> None:
        """The task broke: forget what was asked."""
