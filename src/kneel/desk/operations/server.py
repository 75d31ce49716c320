"""The process beside the desk: does the calls it is sent, one after another, and says how far it is."""

from __future__ import annotations

import logging
import os
import pickle
import queue
import sys
import threading
from multiprocessing.connection import Connection
from typing import Any

from kneel.model import KneelError

NICENESS = 15
"""The window comes first."""

PACE = 40
"""Progress is told in so many steps at most."""

BROKE = (
    "Something broke in the work beside the desk; your marks are safe. Help, “The log” holds what to report."
)


class _Talk:
    """What a call is given to speak with."""

    def __init__(self, pipe: Connection[Any, Any]) -> None:
        self._pipe, self._lock = pipe, threading.Lock()
        self._stop = threading.Event()
        self._told = -1

    def say(self, kind: str, value: Any) -> None:
        """Say something; nothing of it is sent where it cannot be pickled, and that is raised."""
        with self._lock:
            self._pipe.send((kind, value))

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


def main(number: int) -> None:
    """Serve until the pipe, whose file has this number, ends."""
    os.nice(NICENESS)
    pipe: Connection[Any, Any] = Connection(number)
    talk, calls = _Talk(pipe), queue.Queue[tuple[Any, ...]]()
    threading.Thread(target=_listen, args=(pipe, talk, calls), daemon=True).start()
    while True:
        what, *asked = calls.get()
        talk.begin()
        try:
            if what == "unreadable":
                raise KneelError(BROKE)
            function, args, kwargs = asked
            talk.say(
                "done",
                function(*args, progress=talk.progress, part=talk.part, stopped=talk.stopped, **kwargs),
            )
        except KneelError as error:
            talk.say("failed", error if _travels(error) else KneelError(str(error)))
        except (BrokenPipeError, ConnectionError):
            os._exit(0)
        except Exception:
            logging.getLogger(__name__).exception("a call beside the desk broke")
            talk.say("failed", KneelError(BROKE))


def _travels(error: KneelError) -> bool:
    """Whether an error comes out of a pickle as it went in."""
    try:
        return type(pickle.loads(pickle.dumps(error))) is type(error)
    except Exception:
        return False


def _listen(pipe: Connection[Any, Any], talk: _Talk, calls: queue.Queue[tuple[Any, ...]]) -> None:
    """Take calls and stops until the desk is gone, and then end at once."""
    while True:
        try:
            message = pipe.recv()
        except (EOFError, OSError):
            os._exit(0)
        except Exception:
            logging.getLogger(__name__).exception("a call could not be read")
            calls.put(("unreadable",))
            continue
        if message[0] == "stop":
            talk.stop()
        else:
            calls.put(message)


if __name__ == "__main__":
    main(int(sys.argv[1]))
