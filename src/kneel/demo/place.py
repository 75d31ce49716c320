"""Where the demo lesson lies: shipped with the package, copied to the user's data on first use.

Kept apart from the making of it, so that opening the desk does not load the simulator.
"""

from __future__ import annotations

import datetime
import shutil
from importlib.resources import as_file, files
from pathlib import Path

import platformdirs

from kneel.documents.swing_file import why
from kneel.demo.practice import place_students
from kneel.model import StudentFileError, SwingFileError

FOLDER = "data"
TODAY = "2026-11-03"
"""The latest coaching day; a folder holds the clips of one day."""

FIRST = "maren-tolhurst-iron"

SIDECAR = ".evidence"
COPIED = (".mp4", ".json", SIDECAR)
"""What was followed goes with the program, not with the user: it is copied anew each time."""


def demo_lesson() -> Path:
    """The clip the demo opens, copied to the user's data folder where it is not there yet.

    What the user has marked there stays. Raises ``SwingFileError``.
    """
    folder = platformdirs.user_data_path("kneel") / "demo"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with as_file(files("kneel.demo") / FOLDER) as source:
            for path in sorted(source.glob("*/*")):
                target = folder / path.parent.name / path.name
                if path.suffix in COPIED and (not target.exists() or path.suffix == SIDECAR):
                    target.parent.mkdir(exist_ok=True)
                    shutil.copyfile(path, target)
        place_students(folder, datetime.date.today())
    except (OSError, StudentFileError) as error:
        raise SwingFileError(f"The demo cannot be copied to {folder} ({why(error)}).") from error
    return folder / TODAY / f"{FIRST}.mp4"
