"""Work that knows its subject: an answer reaches only whom it was made for, and every end is told once."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from PyQt6.QtCore import QObject, QTimer

from kneel.desk.operations.jobs import Job, Jobs
from kneel.desk.operations.threads import Task, Workers

LOG = logging.getLogger(__name__)

A = TypeVar("A")

SOON_MS = 400
"""Work that takes longer than this stands at the foot."""


def _anybody() -> object:
    return None


def _nothing(_: Any) -> None:
    return None


@dataclass(frozen=True, kw_only=True)
class Operation(Generic[A]):
    """One piece of work. All but ``work`` and ``drop`` are called in the interface thread.

    ``subject`` tells whom it works for, as a value (a student's id, a document, what was asked): it is asked
    when the work is started and again when there is an answer, and where the two differ the answer goes to
    ``drop`` and neither ``done`` nor ``failed`` is called. Without one the answer is wanted by whoever is
    there. ``ended`` is called once whatever became of it: done, failed, stopped, or of nobody any more.
    """

    work: Callable[[Task], A]
    subject: Callable[[], object] = _anybody
    done: Callable[[A], None] = _nothing
    failed: Callable[[Exception], None] = _nothing
    ended: Callable[[], None] = lambda: None
    drop: Callable[[A], None] = _nothing


class Lane:
    """Operations of one kind, for an owner, up to ``most`` at a time: the one that tells how far they are,
    stops them, and says when they have ended. Once the owner is gone nothing is told any more.

    With ``words`` they stand at the foot of the window while they run. With ``newest`` one that is started
    takes the place of those before it.
    """

    def __init__(
        self,
        owner: QObject,
        jobs: Jobs | None = None,
        words: str = "",
        *,
        most: int = 1,
        newest: bool = False,
    ) -> None:
        self._workers = Workers(owner, most)
        self._newest = newest
        self._running: dict[Task, Operation[Any]] = {}
        self._jobs = jobs
        self.job = (
            jobs.add(Job(words, self.stop, begun=lambda: self.busy)) if jobs is not None and words else None
        )
        self._far = (0, 1)
        self._soon = QTimer(owner, singleShot=True, interval=SOON_MS)
        self._soon.timeout.connect(self._show)

    @property
    def busy(self) -> bool:
        """Whether anything is under way or waits."""
        return bool(self._running)

    def start(self, operation: Operation[Any]) -> Task:
        """Have an operation done; its progress stands at the foot."""
        before, self._running = (self._running, {}) if self._newest else ({}, self._running)
        subject = operation.subject()

        def told(tell: Callable[[Any], None], answer: Any) -> None:
            self._running.pop(task, None)
            if not self._running:
                self._tell(0, 0)
            try:
                if operation.subject() == subject:
                    tell(answer)
                else:
                    LOG.info("an answer came after its subject had left")
                    if tell is operation.done:
                        operation.drop(answer)
            finally:
                operation.ended()

        task = Task(
            operation.work,
            done=lambda answer: told(operation.done, answer),
            failed=lambda error: told(operation.failed, error),
            progressed=self._tell,
            drop=operation.drop,
        )
        self._running[task] = operation
        self._far = (0, 1)
        if not self._shown:
            self._soon.start()
        self._give_up(before)
        self._workers.start(task)
        return task

    def stop_one(self, task: Task | None) -> None:
        """Give up one of those under way, if it still is."""
        operation = self._running.pop(task, None) if task is not None else None
        if task is not None and operation is not None:
            if not self._running:
                self._tell(0, 0)
            self._give_up({task: operation})

    def stop(self) -> None:
        """Give up whatever is under way or waits; each is told that it has ended."""
        ending, self._running = self._running, {}
        if ending:
            self._tell(0, 0)
        self._give_up(ending)

    def settle(self, seconds: float) -> bool:
        """Wait for what is under way and have it told; False where that takes longer."""
        end = time.monotonic() + seconds
        while self._running:
            task = next(iter(self._running))
            if not task.over.wait(max(end - time.monotonic(), 0)):
                return False
            task.settle()
            self._running.pop(task, None)
        return True

    @staticmethod
    def _give_up(ending: dict[Task, Operation[Any]]) -> None:
        for task, operation in ending.items():
            task.stop()
            operation.ended()

    @property
    def _shown(self) -> bool:
        return self.job is not None and self.job.total > 0

    def _tell(self, done: int, total: int) -> None:
        """What is over at once is not shown at all."""
        self._far = (done, total)
        if total == 0:
            self._soon.stop()
        if not self._soon.isActive():
            self._show()

    def _show(self) -> None:
        if self.job is not None and self._jobs is not None and (self._far[1] > 0 or self._shown):
            self._jobs.tell(self.job, *self._far)
