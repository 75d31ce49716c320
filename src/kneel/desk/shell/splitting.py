"""Parting a long clip into its swings, in the background."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from kneel.desk.operations import Beside, Task
from kneel.desk.swing.intake import is_parted, write_others
from kneel.desk.swing.opening import Opened
from kneel.desk.swing.parting import parts_beside
from kneel.evidence.swings import untouched
from kneel.model import Swing


@dataclass(frozen=True)
class Parted:
    """What a long clip was parted into: the frames of its first swing, None where it stays whole, and the
    documents of the others.
    """

    first: tuple[int, int] | None = None
    others: tuple[Path, ...] = ()


def split(task: Task, beside: Beside, opened: Opened, swing: Callable[[], Swing]) -> Parted:
    """Look through a long clip for its swings, and write a document for each but the first, which is that of
    the document on the desk.

    ``swing`` gives what stands on the desk now. Runs in a worker thread. The documents refer to ranges of the
    one clip. Raises ``KneelError``.
    """
    clip = opened.store.info.path
    if is_parted(clip) or not os.access(clip.parent, os.W_OK):
        return Parted()
    found = beside.call(
        parts_beside,
        swing(),
        opened.store.info,
        opened.content,
        opened.strikes,
        opened.shelf,
        long=True,
        progress=task.progress,
        stopped=task.stopped,
    )
    # Its golfer may have been named meanwhile, or somebody works on it.
    now = swing()
    if not found or task.stopped() or not untouched(now):
        return Parted()
    return Parted(found[0], write_others(clip, now, found[1:]))
