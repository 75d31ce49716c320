"""What happens when something inside Kneel breaks: it is logged, said once, and the window lives on."""

from __future__ import annotations

import faulthandler
import logging
import sys
import threading
import traceback
from collections.abc import Callable
from io import TextIOWrapper
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

import platformdirs
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations.threads import BROKE
from kneel.model import KneelError

LOG = logging.getLogger("kneel")
LARGEST_BYTES = 512 * 1024
KEPT_LOGS = 2
END_BYTES = 8 * 1024
MOST_ALIKE = 3
"""One place that breaks with every repaint is logged this often."""


def log_file() -> Path:
    """Where the log lies."""
    return platformdirs.user_log_path("kneel") / "kneel.log"


def log_end() -> str:
    """The end of the log, empty where there is none."""
    try:
        with log_file().open("rb") as file:
            file.seek(0, 2)
            file.seek(max(file.tell() - END_BYTES, 0))
            return file.read().decode("utf-8", "replace")
    except OSError:
        return ""


class _PrivateLog(RotatingFileHandler):
    """A log that nobody else reads, each of its files."""

    def _open(self) -> TextIOWrapper:
        path = Path(self.baseFilename)
        path.touch(mode=0o600)
        path.chmod(0o600)
        return super()._open()


class Mishaps(QObject):
    """The one hook for exceptions that nobody caught. ``broke`` carries a sentence for the user.

    ``keep_safe`` is called first: it keeps a copy of unsaved work.
    """

    broke = pyqtSignal(str)

    def __init__(self, keep_safe: Callable[[], object]) -> None:
        super().__init__()
        self._keep_safe = keep_safe
        self._seen: dict[str, int] = {}
        self._inside = False

    def install(self) -> None:
        """Take over from Python's own hooks; without them Qt ends the program at an exception in a slot."""
        sys.excepthook = self.take
        threading.excepthook = lambda told: self.take(
            told.exc_type, told.exc_value or told.exc_type(), told.exc_traceback
        )
        sys.unraisablehook = lambda told: self.take(
            told.exc_type, told.exc_value or told.exc_type(), told.exc_traceback
        )

    def take(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log an exception, keep the work safe, and say one sentence."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        if self._inside:
            return
        self._inside = True
        try:
            place = "".join(traceback.format_tb(trace)[-1:]) + kind.__name__
            count = self._seen[place] = self._seen.get(place, 0) + 1
            if count <= MOST_ALIKE:
                LOG.error("something broke", exc_info=(kind, error, trace))
            if count == 1:
                self._keep_safe()
                self.broke.emit(str(error) if isinstance(error, KneelError) else BROKE)
        finally:
            self._inside = False


def start_logging() -> None:
    """Write warnings and worse to the log, and there too what ends the program outright."""
    file = log_file()
    try:
        file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        handler = _PrivateLog(
            file, maxBytes=LARGEST_BYTES, backupCount=KEPT_LOGS, encoding="utf-8", errors="backslashreplace"
        )
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        LOG.addHandler(handler)
        LOG.setLevel(logging.WARNING)
        # Stays open as long as the program runs: a crash has no time to open a file.
        faulthandler.enable(handler.stream)
    except (OSError, ValueError):
        faulthandler.enable()
