"""Work off the interface thread: a function runs in a worker, its answer is told in the interface's own.

Workers are daemon threads of our own and not Qt's pool, which waits for ever
at the end of the program for a thread that hangs in a file system.
"""

from __future__ import annotations

import logging
import threading
import time
import weakref
from collections import deque
from collections.abc import Callable
from functools import cache, partial
from queue import SimpleQueue
from typing import Any, ClassVar

from PyQt6.QtCore import QObject, pyqtSignal, pyqtSlot

from kneel.model import KneelError

LOG = logging.getLogger(__name__)

MOST_IDLE = 8
"""So many threads at most wait for more work."""

BROKE = "Something inside Kneel broke; your marks are safe. Help, “The log” holds what to report."


class _Courier(QObject):
    """Carries calls from workers to the thread it was made in, the interface's."""

    arrived = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.arrived.connect(self._call)

    @pyqtSlot(object)
    def _call(self, call: Callable[[], None]) -> None:
        call()


@cache
def _courier() -> _Courier:
    return _Courier()


class Task:
    """One piece of work. ``done`` is told its answer, ``failed`` the error that ended it.

    Both, and ``progressed``, are called in the interface thread, and never
    after the task has been stopped; an answer that nobody wants any more goes
    to ``drop``, in whichever thread that is found out.
    """

    def __init__(
        self,
        work: Callable[[Task], Any],
        *,
        done: Callable[[Any], None] = lambda answer: None,
        failed: Callable[[Exception], None] = lambda error: None,
        progressed: Callable[[int, int], None] = lambda done, total: None,
        drop: Callable[[Any], None] = lambda answer: None,
    ) -> None:
        self._work, self._done, self._failed, self._drop = work, done, failed, drop
        self._progressed = progressed
        self._stop = threading.Event()
        self.over = threading.Event()
        """Set once the work has ended, before its answer is told."""

        self._outcome: Callable[[], None] | None = None

    def stop(self) -> None:
        """Ask the work to end early; what it answers is not wanted any more."""
        self._stop.set()

    def stopped(self) -> bool:
        return self._stop.is_set()

    def progress(self, done: int, total: int) -> None:
        """Called by the work to tell how far it is."""
        if not self.stopped():
            send(partial(self._tell, self._progressed, done, total))

    def hand_over(self, tell: Callable[[], None]) -> None:
        """Called by the work to have something told in the interface thread, unless it was stopped."""
        if not self.stopped():
            send(partial(self._tell, tell))

    def run(self) -> None:
        """Do the work in the calling thread."""
        try:
            answer = self._work(self)
        except KneelError as error:
            LOG.info("a task failed", exc_info=True)
            self._outcome = partial(self._tell, self._failed, error)
        except Exception:
            LOG.exception("a task broke")
            self._outcome = partial(self._tell, self._failed, KneelError(BROKE))
        else:
            self._outcome = partial(self._hand_in, answer)
        self.over.set()
        if self.stopped():
            self.settle()
        else:
            send(self.settle)

    def settle(self) -> None:
        """Tell what came of it, unless it is told already; called in the interface thread once it is over."""
        outcome, self._outcome = self._outcome, None
        if outcome is not None:
            outcome()

    def _hand_in(self, answer: Any) -> None:
        (self._drop if self.stopped() else self._done)(answer)

    def _tell(self, tell: Callable[..., None], *values: Any) -> None:
        if not self.stopped():
            tell(*values)


def send(call: Callable[[], None]) -> None:
    """Have something called in the interface thread, from any other; nothing comes of it after the end."""
    try:
        _courier().arrived.emit(call)
    except RuntimeError:
        LOG.info("an answer came after the window was gone")


class _Hands:
    """Threads that wait for more once their work is done: to begin one beside work that is under way takes
    5 ms and more, for which the interface would wait.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._idle: list[SimpleQueue[Callable[[], None]]] = []

    def do(self, work: Callable[[], None]) -> None:
        """Have something done by a thread that is idle, or by a new one."""
        with self._lock:
            idle = self._idle.pop() if self._idle else None
        if idle is None:
            threading.Thread(target=self._live, args=([work],), daemon=True, name="desk worker").start()
        else:
            idle.put(work)

    def _live(self, first: list[Callable[[], None]]) -> None:
        mine: SimpleQueue[Callable[[], None]] = SimpleQueue()
        # While it waits it holds nothing of what it did: a swing would stay open.
        first.pop()()
        while True:
            with self._lock:
                if len(self._idle) >= MOST_IDLE:
                    return
                self._idle.append(mine)
            mine.get()()


_HANDS = _Hands()


class Workers:
    """Up to ``most`` threads that work off tasks in the order they come, for an owner.

    Once the owner is gone nothing is told any more.
    """

    everyone: ClassVar[weakref.WeakSet[Workers]] = weakref.WeakSet()

    def __init__(self, owner: QObject, most: int = 1) -> None:
        # Made here, in the interface thread, so that it lives there.
        _courier()
        self._most = most
        self._waiting: deque[Task] = deque()
        self._running: set[Task] = set()
        self._asked: weakref.WeakSet[Task] = weakref.WeakSet()
        self._free = threading.Condition()
        self.everyone.add(self)
        owner.destroyed.connect(self.give_up)

    def start(self, task: Task) -> Task:
        """Have a task done as soon as a thread is free."""
        with self._free:
            self._asked.add(task)
            self._waiting.append(task)
            if len(self._running) < self._most:
                self._running.add(first := self._waiting.popleft())
                _HANDS.do(partial(self._work, first))
        return task

    def give_up(self, _: object = None) -> None:
        """Ask all tasks to end, and let those waiting go."""
        with self._free:
            # One that has ended may not have been told of yet.
            for task in tuple(self._asked):
                task.stop()
            self._waiting.clear()

    def wait(self, seconds: float) -> bool:
        """Wait until all is done; False where that takes longer."""
        with self._free:
            return self._free.wait_for(lambda: not self._running, timeout=seconds)

    @classmethod
    def all_done(cls, seconds: float) -> bool:
        """Ask all work everywhere to end, and wait for it; False where that takes longer."""
        for workers in tuple(cls.everyone):
            workers.give_up()
        end = time.monotonic() + seconds
        return all(workers.wait(max(end - time.monotonic(), 0)) for workers in tuple(cls.everyone))

    def _work(self, task: Task) -> None:
        while True:
            try:
                if not task.stopped():
                    task.run()
            except Exception:
                LOG.exception("an answer that nobody wanted could not be let go")
            with self._free:
                self._running.discard(task)
                if not self._waiting:
                    self._free.notify_all()
                    return
                task = self._waiting.popleft()
                self._running.add(task)
