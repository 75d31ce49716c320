"""How the tests of the desk drive it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt

CLIP = "maren-tolhurst-iron.mp4"
PATIENCE_MS = 240_000


def open_clip(qtbot, window, path: Path) -> None:
    window.open_path(path)
    qtbot.waitUntil(lambda: window.session.store is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not window.session.following.busy, timeout=PATIENCE_MS)


def press(qtbot, window, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    qtbot.keyClick(window, key, modifier)
