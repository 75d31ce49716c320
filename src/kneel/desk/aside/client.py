"""The desk's end: calls a function in another process, waits for it in a worker thread, and can stop it.

The other process reads pickled calls from its standard input and answers on its standard output, see
:mod:`kneel.desk.aside.server`. It ends when its input ends, so that none outlives the desk.
"""

from __future__ import annotations

import contextlib
import logging
import os
import pickle
import queue
import subprocess
import sys
import threading
from collections.abc import Callable
from typing import Any

from kneel.model import KneelError

LOG = logging.getLogger(__name__)

ASK_S = 0.05
"""So often it is asked whether the work is still wanted."""

STOPPING_S = 5.0
"""A process that does not let go of its work in this time is ended."""

Answer = tuple[str, Any]


class Aside:
    """One process, started when first needed, that does one call at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._answers: queue.Queue[Answer] = queue.Queue()
        self._reader = threading.Thread()
        self._over = False

    def call(
        self,
        function: Callable[..., Any],
        *args: object,
        progress: Callable[[int, int], None] = lambda done, total: None,
        part: Callable[[Any], None] = lambda some: None,
        stopped: Callable[[], bool] = lambda: False,
        **kwargs: object,
    ) -> Any:
        """Call ``function(*args, progress=…, part=…, stopped=…, **kwargs)`` in the other process.

        ``part`` is told what is known so far. Returns None once ``stopped`` says yes. Raises ``KneelError``,
        the function's own or one that says that the process broke. Not to be called in the interface thread.
        """
        with self._lock:
            if stopped() or self._over:
                return None
            process = self._running()
            if self._over:
                # The desk closed while the process was being started.
                self.close()
                return None
            self._send(process, ("call", function, args, kwargs))
            return self._wait(process, progress, part, stopped)

    def end(self) -> None:
        """The desk is closing: what is asked from now on starts no process any more."""
        self._over = True
        self.close()

    def close(self) -> None:
        """End the process; a call under way is given up."""
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            _hang_up(process)
            process.wait()
            if self._reader.is_alive():
                self._reader.join(timeout=1.0)

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is not None and self._process.poll() is not None:
            # One that ended by itself leaves its pipes open.
            self.close()
        if self._process is None:
            self._answers = queue.Queue()
            self._process = subprocess.Popen(
                [sys.executable, "-m", "kneel.desk.aside.server"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=os.environ.copy(),
            )
            self._reader = threading.Thread(
                target=_read, args=(self._process, self._answers), name="aside", daemon=True
            )
            self._reader.start()
        return self._process

    def _send(self, process: subprocess.Popen[bytes], message: object) -> None:
        assert process.stdin is not None
        try:
            pickle.dump(message, process.stdin)
            process.stdin.flush()
        except (OSError, ValueError):
            LOG.warning("the process beside the desk is gone", exc_info=True)

    def _wait(
        self,
        process: subprocess.Popen[bytes],
        progress: Callable[[int, int], None],
        part: Callable[[Any], None],
        stopped: Callable[[], bool],
    ) -> Any:
        patience = STOPPING_S
        asked = False
        while True:
            if self._process is not process:
                # The desk has closed.
                return None
            if stopped() and not asked:
                self._send(process, ("stop",))
                asked = True
            try:
                kind, value = self._answers.get(timeout=ASK_S)
            except queue.Empty:
                patience -= ASK_S if asked else 0
                if patience <= 0:
                    self.close()
                    return None
                continue
            if kind == "progress":
                progress(*value)
            elif kind == "part":
                part(value)
            elif kind == "done":
                return None if asked else value
            elif kind == "failed":
                if asked:
                    return None
                raise value
            else:
                self._process = None
                _hang_up(process)
                if asked:
                    return None
                raise KneelError("The work beside the desk broke off; your marks are safe. Try once more.")


def _hang_up(process: subprocess.Popen[bytes]) -> None:
    """Close our end of its input; words it no longer reads are lost with it."""
    with contextlib.suppress(OSError):
        if process.stdin is not None:
            process.stdin.close()


def _read(process: subprocess.Popen[bytes], answers: queue.Queue[Answer]) -> None:
    """Pass on what the process says until it ends."""
    assert process.stdout is not None
    try:
        while True:
            answers.put(pickle.load(process.stdout))
    except (EOFError, OSError, pickle.UnpicklingError, ValueError):
        answers.put(("ended", None))
    process.wait()
    with contextlib.suppress(OSError):
        process.stdout.close()
