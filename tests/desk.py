"""How the tests of the desk drive it."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import Qt

CLIP, LINE = "maren-tolhurst-iron.mp4", "maren-tolhurst-iron-line.mp4"
PATIENCE_MS = int(os.environ.get("KNEEL_PATIENCE_MS", "240000"))


def open_clip(qtbot, window, path: Path) -> None:
    window.open_path(path)
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not window.on_desk.gathering.following.busy, timeout=PATIENCE_MS)


def press(qtbot, window, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    qtbot.keyClick(window, key, modifier)


def saved(qtbot, on_desk) -> None:
    """Save now, and wait until it is on the disk."""
    on_desk.save()
    qtbot.waitUntil(lambda: not on_desk.autosave.dirty, timeout=PATIENCE_MS)


def in_step(qtbot, window) -> None:
    """Wait until the desk has read and written all it wants of its Books."""
    records = window.practice.record.records
    qtbot.waitUntil(lambda: not records.busy, timeout=PATIENCE_MS)
    # Waiting lets the screen of the tests take the keys away.
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=PATIENCE_MS)
