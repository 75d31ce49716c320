"""Where the demo lesson lies: shipped with the package, copied to the user's data on first use.

Kept apart from the making of it, so that opening the desk does not load the simulator.
"""

from __future__ import annotations

import shutil
from importlib.resources import as_file, files
from pathlib import Path

import platformdirs

from kneel.model import SwingFileError

FOLDER = "data"
FIRST = "maren-tolhurst-iron"


def demo_lesson() -> Path:
    """The demo's first clip, copied to the user's data folder where it is not there yet.

    What the user has marked there stays. Raises ``SwingFileError``.
    """
    folder = platformdirs.user_data_path("kneel") / "demo"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with as_file(files("kneel.demo") / FOLDER) as source:
            for path in sorted(source.iterdir()):
                target = folder / path.name
                if path.suffix in (".mp4", ".json") and not target.exists():
                    shutil.copyfile(path, target)
    except OSError as error:
        raise SwingFileError(f"The demo cannot be copied to {folder} ({error.strerror}).") from error
    return folder / f"{FIRST}.mp4"
