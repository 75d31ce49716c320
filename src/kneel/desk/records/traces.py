"""Where the desk itself may still speak of somebody who was purged: its log and its settings."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSettings


def forget_in_log(log: Path, words: Sequence[str]) -> None:
    """Take every line of a log, and of those before it, that holds one of these words; it stays the same file
    for whoever is writing to it.
    """
    wanted = [word.encode("utf-8", "surrogateescape").lower() for word in words if word]
    for path in [log, *sorted(log.parent.glob(f"{log.name}.*"))]:
        with contextlib.suppress(OSError), path.open("r+b") as file:
            lines = file.readlines()
            kept = [line for line in lines if not any(word in line.lower() for word in wanted)]
            if len(kept) < len(lines):
                file.seek(0)
                file.truncate()
                file.writelines(kept)


def forget_in_settings(settings: QSettings, words: Sequence[str]) -> None:
    """Take the paths of files that are gone from the settings, as they stand or written in bytes."""
    gone = {word for word in words if word}
    packed = {os.fsencode(word).hex() for word in gone}
    for key in settings.allKeys():
        value = settings.value(key)
        if isinstance(value, str) and value in gone | packed:
            settings.remove(key)
        elif isinstance(value, list):
            left = [one for one in value if one not in gone | packed]
            if len(left) < len(value):
                settings.setValue(key, left)
    settings.sync()
