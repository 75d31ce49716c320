"""Starting the desk."""

from __future__ import annotations

import gc
import logging
import os
import sys
from importlib.resources import files
from pathlib import Path
from typing import NoReturn

from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from kneel.desk.operations import Workers
from kneel.desk.shell.exception_hook import Mishaps, start_logging
from kneel.desk.shell.window import Window
from kneel.desk.widgets.theme import Look, install
from kneel.desk.widgets.theme.size import take_size
from kneel.model import UsageError

NAME = "kneel"
TURN_S = 0.001
"""How long a worker may keep the interpreter while the interface waits for it; the interpreter's own is five
times as long, several times a key.
"""

LEAVING_S = 0.5
"""How long work under way may take to end once the window is closed."""


def need_display() -> None:
    """Raise :class:`UsageError` where no window can be shown, instead of Qt's abort."""
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    if sys.platform.startswith("linux") and not chosen:
        if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
            raise UsageError(
                "There is no display to show a window on; start Kneel on a desktop, "
                "or make pictures of it with “make screenshots”."
            )


def make_application() -> tuple[QApplication, QSettings, Look]:
    """The application in its look."""
    settings = QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, NAME, "desk")
    if QApplication.instance() is None:
        take_size(settings)
        sys.setswitchinterval(TURN_S)
    application = QApplication.instance() or QApplication([NAME])
    assert isinstance(application, QApplication)
    application.setApplicationName(NAME)
    application.setApplicationDisplayName("Kneel")
    application.setDesktopFileName(NAME)
    icon = Path(str(files("kneel.desk.widgets.theme") / "kneel.svg"))
    application.setWindowIcon(QIcon(str(icon)))
    look = Look(dark=str(settings.value("dark", "true")).lower() != "false")
    install(application, look)
    return application, settings, look


def start(path: Path | None, *, demo: bool) -> NoReturn:
    """Run the desk until it is closed, and end the program with it.

    Raises :class:`UsageError` without a display.
    """
    need_display()
    application, settings, look = make_application()
    start_logging()
    window = Window(look, settings)
    mishaps = Mishaps(window.on_desk.autosave.put_aside)
    mishaps.broke.connect(window.status_bar.complain)
    mishaps.install()
    window.show()
    if demo:
        window.open_demo()
    elif path is not None:
        window.open_path(path)
    else:
        window.opener.reopen_last()
    window.opener.look_for_left_over()
    # Modules, widgets and tables stay until the end: without them a search for garbage holds up no picture.
    gc.freeze()
    code = application.exec()
    if window.again:
        Workers.all_done(LEAVING_S)
        settings.sync()
        logging.shutdown()
        os.execv(sys.executable, [sys.executable, "-P", "-m", "kneel"])
    end(code, settings)


def end(code: int, settings: QSettings) -> NoReturn:
    """End the program with what was said written out.

    At once: work may hang in a file system, which nobody must wait for, and an interpreter that is taken
    down object by object beside threads and a toolkit can crash in it.
    """
    Workers.all_done(LEAVING_S)
    settings.sync()
    logging.shutdown()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)
