"""Splitting a long clip into its swings, in the background."""

from __future__ import annotations

import uuid
from pathlib import Path

from kneel.desk.operations import Task
from kneel.documents.finding import documents_of, free_document
from kneel.documents.swing_file import peek, save_swing
from kneel.model import Swing

LONG_S = 7.0
"""A clip longer than this, in real seconds, may hold more than one swing."""


def worth_splitting(clip: Path, swing: Swing, length_s: float) -> bool:
    """Whether to look for several swings: a long clip that nobody has split or marked yet."""
    if length_s <= LONG_S or swing.span is not None or swing.marks:
        return False
    return not any((known := peek(path)) is not None and known.span for path in documents_of(clip))


def split(task: Task, clip: Path, swing: Swing, length_s: float) -> list[Path]:
    """Look through a long clip and write a document for each swing found; one swing alone gives none.

    Runs in a worker thread. The documents refer to ranges of the one clip.
    """
    if not worth_splitting(clip, swing, length_s):
        return []
    # The filters take longer to load than a window to open; only splitting needs them.
    from kneel.footage.probe import probe

    found = probe(clip, progress=task.progress, stopped=task.stopped)
    if task.stopped() or len(found.swings) < 2:
        return []
    written = []
    for number, span in enumerate(found.swings, 1):
        if task.stopped():
            break
        path = free_document(clip, number)
        part = swing.given(id=uuid.uuid4().hex, span=(span.first, span.last), guessed=swing.guessed)
        save_swing(path, part)
        written.append(path)
    return written
