"""Work off the interface thread: a function runs in a pool, its answer comes back by signal."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from kneel.model import KneelError

LOG = logging.getLogger(__name__)


class Task(QObject):
    """One piece of work. ``done`` carries its answer, ``failed`` a sentence for the user."""

    done = pyqtSignal(object)
    failed = pyqtSignal(str)
    progressed = pyqtSignal(int, int)

    def __init__(self, work: Callable[[Task], Any]) -> None:
        super().__init__()
        self._work = work
        self._stop = threading.Event()

    def start(self, pool: QThreadPool) -> Task:
        pool.start(_Runner(self))
        return self

    def stop(self) -> None:
        """Ask the work to end early; it then answers neither ``done`` nor ``failed``."""
        self._stop.set()

    def stopped(self) -> bool:
        return self._stop.is_set()

    def run(self) -> None:
        """Do the work in the calling thread."""
        try:
            answer = self._work(self)
        except KneelError as error:
            self._tell(self.failed, str(error))
        except Exception:
            LOG.exception("a task broke")
            self._tell(self.failed, "Something inside Kneel broke; your marks are safe. Please report it.")
        else:
            self._tell(self.done, answer)

    def _tell(self, signal: Any, value: Any) -> None:
        if not self.stopped():
            signal.emit(value)


class _Runner(QRunnable):
    def __init__(self, task: Task) -> None:
        super().__init__()
        self._task = task

    def run(self) -> None:
        self._task.run()
