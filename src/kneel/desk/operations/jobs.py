"""The long pieces of work under way: what they are, how far they have come, and how to stop them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import QObject, pyqtBoundSignal, pyqtSignal


class Worker(Protocol):
    """Whoever tells its progress, as done and total; a total of 0 means that nothing runs."""

    progressed: pyqtBoundSignal


@dataclass
class Job:
    """One piece of work, in words; ``total`` is 0 while it does not run, or not long enough to be shown:
    ``begun`` tells the two apart.
    """

    words: str
    stop: Callable[[], None]
    done: int = 0
    total: int = 0
    begun: Callable[[], bool] = lambda: False

    @property
    def sentence(self) -> str:
        """What is under way and how far; a total of 1 is work that cannot tell how far it is."""
        return f"{self.words} …" if self.total <= 1 else f"{self.words}, {100 * self.done // self.total} %"


class Jobs(QObject):
    """The registry that the foot of the window shows. ``changed`` tells of every piece of progress."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._jobs: list[Job] = []

    def add(self, job: Job) -> Job:
        """Show a job whenever it runs."""
        self._jobs.append(job)
        return job

    def watch(self, worker: Worker, words: str, stop: Callable[[], None]) -> Job:
        """Show what a worker does, whenever it runs."""
        job = self.add(Job(words, stop))
        worker.progressed.connect(lambda done, total: self.tell(job, done, total))
        return job

    def tell(self, job: Job, done: int, total: int) -> None:
        """Progress of a job; a total of 0 ends it."""
        job.done, job.total = done, total
        self.changed.emit()

    @property
    def running(self) -> list[Job]:
        return [job for job in self._jobs if job.total > 0]

    def stop(self) -> None:
        """Stop all that runs; it stays stopped until it is asked for again."""
        for job in [one for one in self._jobs if one.total > 0 or one.begun()]:
            job.stop()
            job.total = 0
        self.changed.emit()
