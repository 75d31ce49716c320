"""Work beside the desk: calls a function in another process, waits for it in a worker thread, can stop it.

There are two of these processes. One does what takes long (looking for joints, a lesson's swings, slow
clips), the other what somebody waits for, so that a short call never stands behind a long one. Each is
started when first needed and ends when its pipe does, so that none outlives the desk. What goes through the
pipe is pickled whole before a byte of it is sent, by :mod:`multiprocessing.connection`.
"""

from __future__ import annotations

import contextlib
import logging
import os
import subprocess
import sys
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection, Pipe
from typing import Any

from kneel.disk import safe_environment
from kneel.model import KneelError

LOG = logging.getLogger(__name__)

ASK_S = 0.05
"""So often it is asked whether the work is still wanted."""

STOPPING_S = 5.0
"""A process that does not let go of its work in this time is ended."""

BROKE_OFF = "The work beside the desk broke off; your marks are safe. Try once more."


def _no_progress(done: int, total: int) -> None:  # noqa: ARG001
    return None


class Beside:
    """The two processes, as one that can be called."""

    def __init__(self) -> None:
        self._long, self._short = _Process(), _Process()

    def call(
        self,
        function: Callable[..., Any],
        *args: object,
        long: bool = False,
        progress: Callable[[int, int], None] = _no_progress,
        part: Callable[[Any], None] = lambda some: None,
        stopped: Callable[[], bool] = lambda: False,
        **kwargs: object,
    ) -> Any:
        """Call ``function(*args, progress=…, part=…, stopped=…, **kwargs)`` in another process, that for
        what takes ``long`` or the one for what somebody waits for.

        ``part`` is told what is known so far. Returns None once ``stopped`` says yes. Raises ``KneelError``,
        the function's own or one that says that it broke. Not to be called in the interface thread.
        """
        process = self._long if long else self._short
        return process.call((function, args, kwargs), progress, part, stopped)

    def end(self) -> None:
        """The desk is closing: what is asked from now on starts no process any more."""
        for process in (self._long, self._short):
            process.end()

    def renew(self) -> None:
        """What the processes were started with is another now: the next call starts them anew. One that is
        under way is done to its end first, with what was known when it began.
        """
        for process in (self._long, self._short):
            process.stale = True

    def close(self) -> None:
        """End the processes; calls under way are given up. The next call starts them again."""
        for process in (self._long, self._short):
            process.close()


class _Process:
    """One process, that does one call at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._pipe: Connection[Any, Any] | None = None
        self._over = self.stale = False

    def call(
        self,
        what: tuple[Callable[..., Any], tuple[object, ...], dict[str, object]],
        progress: Callable[[int, int], None],
        part: Callable[[Any], None],
        stopped: Callable[[], bool],
    ) -> Any:
        with self._lock:
            if stopped() or self._over:
                return None
            if self.stale:
                self.stale = False
                self.close()
            pipe = self._running()
            if self._over:
                # The desk closed while the process was being started.
                self.close()
                return None
            try:
                pipe.send(("call", *what))
                return self._wait(pipe, progress, part, stopped)
            except (EOFError, OSError) as error:
                if self._pipe is not pipe or stopped():
                    return None
                self.close()
                raise KneelError(BROKE_OFF) from error
            except KneelError:
                raise
            except Exception as error:
                # What cannot be sent, or not be read again here: this call is over, the next may do.
                LOG.exception("a call beside the desk could not be told")
                raise KneelError(BROKE_OFF) from error

    def end(self) -> None:
        self._over = True
        self.close()

    def close(self) -> None:
        process, self._process = self._process, None
        pipe, self._pipe = self._pipe, None
        if process is not None:
            process.kill()
            process.wait()
        if pipe is not None:
            with contextlib.suppress(OSError):
                pipe.close()

    def _running(self) -> Connection[Any, Any]:
        if self._process is not None and self._process.poll() is not None:
            # One that ended by itself leaves its pipe open.
            self.close()
        if self._pipe is None:
            here, there = Pipe()
            with there:
                self._process = subprocess.Popen(
                    [sys.executable, "-P", "-m", "kneel.desk.operations.server", str(there.fileno())],
                    stdin=subprocess.DEVNULL,
                    pass_fds=(there.fileno(),),
                    env=safe_environment(os.environ),
                )
            self._pipe = here
        return self._pipe

    def _wait(
        self,
        pipe: Connection[Any, Any],
        progress: Callable[[int, int], None],
        part: Callable[[Any], None],
        stopped: Callable[[], bool],
    ) -> Any:
        patience = STOPPING_S
        asked = False
        while True:
            if stopped() and not asked:
                pipe.send(("stop",))
                asked = True
            if not pipe.poll(ASK_S):
                patience -= ASK_S if asked else 0
                if patience <= 0:
                    self.close()
                    return None
                continue
            kind, value = pipe.recv()
            if kind == "progress":
                progress(*value)
            elif kind == "part":
                part(value)
            elif kind == "done":
                return None if asked else value
            elif asked:
                return None
            else:
                raise value
