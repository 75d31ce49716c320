"""The other process: does the calls it is sent, one after another, and says how far it is."""

from __future__ import annotations

import logging
import os
import pickle
import queue
import sys
import threading
from typing import Any, BinaryIO

NICENESS = 15
"""The window comes first."""

PACE = 40
"""Progress is told in so many steps at most."""


class _Talk:
    """What a call is given to speak with."""

    def __init__(self, out: BinaryIO) -> None:
        self._out, self._lock = out, threading.Lock()
        self._stop = threading.Event()
        self._told = -1

    def say(self, kind: str, value: Any) -> None:
        with self._lock:
            pickle.dump((kind, value), self._out)
            self._out.flush()

    def progress(self, done: int, total: int) -> None:
        step = PACE * done // max(total, 1)
        if step != self._told:
            self._told = step
            self.say("progress", (done, total))

    def part(self, some: Any) -> None:
        self.say("part", some)

    def stopped(self) -> bool:
        return self._stop.is_set()

    def begin(self) -> None:
        self._stop.clear()
        self._told = -1

    def stop(self) -> None:
        self._stop.set()


def main() -> None:
    """Serve until the input ends."""
    from kneel.model import KneelError

    os.nice(NICENESS)
    # Whatever a library prints must not get between the answers.
    out = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    talk, calls = _Talk(out), queue.Queue[tuple[Any, ...]]()
    threading.Thread(target=_listen, args=(sys.stdin.buffer, talk, calls), daemon=True).start()
    while True:
        _, function, args, kwargs = calls.get()
        talk.begin()
        try:
            answer = function(*args, progress=talk.progress, part=talk.part, stopped=talk.stopped, **kwargs)
            talk.say("done", answer)
        except KneelError as error:
            talk.say("failed", error)
        except Exception:
            logging.getLogger(__name__).exception("a call beside the desk broke")
            broke = "Something broke while the clip was looked through; your marks are safe."
            talk.say("failed", KneelError(broke))


def _listen(source: BinaryIO, talk: _Talk, calls: queue.Queue[tuple[Any, ...]]) -> None:
    """Take calls and stops until the desk is gone, and then end at once."""
    while True:
        try:
            message = pickle.load(source)
        except (EOFError, OSError, pickle.UnpicklingError):
            os._exit(0)
        if message[0] == "stop":
            talk.stop()
        else:
            calls.put(message)


if __name__ == "__main__":
    main()
