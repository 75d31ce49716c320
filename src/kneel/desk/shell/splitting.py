"""Parting a long clip into its swings, in the background."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from kneel.desk.operations import Beside, Task
from kneel.desk.swing.intake import write_others
from kneel.desk.swing.opening import Opened
from kneel.desk.swing.parting import parts_beside
from kneel.documents.finding import documents_of
from kneel.documents.swing_file import peek
from kneel.model import Swing


@dataclass(frozen=True)
class Parted:
    """What a long clip was parted into: the frames of its first swing, None where it stays whole, and the
    documents of the others.
    """

    first: tuple[int, int] | None = None
    others: tuple[Path, ...] = ()


def split(task: Task, beside: Beside, opened: Opened, swing: Swing) -> Parted:
    """Look through a long clip for its swings, and write a document for each but the first, which is that of
    the document on the desk.

    Runs in a worker thread. The documents refer to ranges of the one clip. Raises ``KneelError``.
    """
    clip = opened.store.info.path
    parted = any((known := peek(path)) is not None and known.span for path in documents_of(clip))
    if parted or not os.access(clip.parent, os.W_OK):
        return Parted()
    found = beside.call(
        parts_beside,
        swing,
        opened.store.info,
        opened.content,
        opened.strikes,
        opened.shelf,
        long=True,
        progress=task.progress,
        stopped=task.stopped,
    )
    if not found or task.stopped():
        return Parted()
    return Parted(found[0], write_others(clip, swing, found[1:]))
