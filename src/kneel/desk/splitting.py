"""Splitting a long clip into its swings, in the background."""

from __future__ import annotations

from pathlib import Path

import msgspec

from kneel.book.swing_file import save_swing, swing_path, swings_of
from kneel.desk.tasks import Task
from kneel.model import Swing

LONG_S = 7.0
"""A clip longer than this, in real seconds, may hold more than one swing."""


def worth_splitting(clip: Path, swing: Swing, length_s: float) -> bool:
    """Whether to look for several swings: a long clip that nobody has split or marked yet."""
    return length_s > LONG_S and swing.span is None and not swing.marks and not swings_of(clip)


def split(task: Task, clip: Path, swing: Swing) -> list[Path]:
    """Look through the clip and write a document for each swing found; one swing alone gives none.

    Runs in a worker thread. The documents refer to ranges of the one clip.
    """
    # The filters take longer to load than a window to open; only splitting needs them.
    from kneel.footage.probe import probe

    found = probe(clip, progress=task.progressed.emit, stopped=task.stopped)
    if task.stopped() or len(found.swings) < 2:
        return []
    written = []
    for number, span in enumerate(found.swings, 1):
        path = swing_path(clip, number)
        if not path.exists():
            save_swing(path, msgspec.structs.replace(swing, span=(span.first, span.last), frame=0))
        written.append(path)
    return written
