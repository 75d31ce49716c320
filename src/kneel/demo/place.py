"""Where the demo lesson lies: shipped with the package, copied to the user's data on first use.

Kept apart from the making of it, so that opening the desk does not load the simulator.
"""

from __future__ import annotations

import datetime
import os
import shutil
from importlib.resources import as_file, files
from pathlib import Path

import platformdirs

from kneel.book import Book, open_book
from kneel.demo.remembered import remember
from kneel.documents.swing_file import why
from kneel.model import SwingFileError

FOLDER = "data"
TODAY = "2026-11-03"
"""The latest coaching day; a folder holds the clips of one day."""

BOOK = "book.sqlite"
FIRST = "maren-tolhurst-iron"

SIDECAR = ".evidence"
COPIED = (".mp4", ".json", SIDECAR)
"""What was followed goes with the program, not with the user: it is copied anew each time."""


def demo_folder() -> Path:
    """Where the demo lies for this user."""
    return platformdirs.user_data_path("kneel") / "demo"


def is_demo(clip: Path) -> bool:
    """Whether a clip is one of the demo's."""
    return Path(os.path.realpath(clip)).is_relative_to(os.path.realpath(demo_folder()))


def demo_book() -> Book:
    """The demo's own Book, apart from the user's. Raises ``BookError``."""
    folder = demo_folder()
    book = open_book(str(folder / BOOK))
    remember(book, folder, datetime.date.today())
    return book


def demo_lesson() -> Path:
    """The clip the demo opens, copied to the user's data folder where it is not there yet.

    What the user has marked there stays. Raises ``SwingFileError``.
    """
    folder = demo_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with as_file(files("kneel.demo") / FOLDER) as source:
            for path in sorted(source.glob("*/*")):
                target = folder / path.parent.name / path.name
                if path.suffix in COPIED and (not target.exists() or path.suffix == SIDECAR):
                    target.parent.mkdir(exist_ok=True)
                    shutil.copyfile(path, target)
    except OSError as error:
        raise SwingFileError(f"The demo cannot be copied to {folder} ({why(error)}).") from error
    return folder / TODAY / f"{FIRST}.mp4"
