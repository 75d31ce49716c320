"""The real window for the benchmarks, in a home of its own."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from kneel.desk.shell.window import Window

PATIENCE_S = 120.0

_ALIVE: list[QApplication] = []
"""Held, or it would go with the first window, and with it what carries answers from the workers."""


@contextmanager
def own_home() -> Iterator[Path]:
    """A home that is taken away again; windows are drawn without a screen unless one is asked for."""
    with tempfile.TemporaryDirectory() as home:
        for name in ("DATA", "CONFIG", "CACHE", "STATE"):
            os.environ[f"XDG_{name}_HOME"] = home
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        yield Path(home)


def shown_window(home: Path) -> tuple[QApplication, Window]:
    """The desk at 1280 x 800, with settings of its own."""
    from PyQt6.QtCore import QSettings

    from kneel.desk.shell.app import make_application
    from kneel.desk.shell.window import Window

    application, _, look = make_application()
    _ALIVE.append(application)
    window = Window(look, QSettings(str(home / "bench.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    return application, window


def run_until(application: QApplication, ready: Callable[[], bool], *, rest_s: float = 0.0) -> None:
    """Turn the event loop until something is so. Raises ``TimeoutError``."""
    end = time.monotonic() + PATIENCE_S
    while not ready():
        application.processEvents()
        if rest_s:
            time.sleep(rest_s)
        if time.monotonic() > end:
            raise TimeoutError("the desk did not get ready")
