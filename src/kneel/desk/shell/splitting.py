"""Parting a long clip into its swings, in the background."""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from kneel.desk.operations import Beside, Task
from kneel.desk.swing.opening import Opened
from kneel.documents.finding import documents_of, free_document
from kneel.documents.swing_file import peek, save_swing
from kneel.evidence.swings import parts_of
from kneel.footage.hearing import in_real_time
from kneel.model import Swing


@dataclass(frozen=True)
class Parted:
    """What a long clip was parted into: documents of its swings, or the frames of the only one."""

    documents: tuple[Path, ...] = ()
    only: tuple[int, int] | None = None


def split(task: Task, beside: Beside, opened: Opened, swing: Swing) -> Parted:
    """Look through a long clip and write a document for each of its swings where it shows several.

    Runs in a worker thread. The documents refer to ranges of the one clip.
    """
    clip = opened.store.info.path
    if any((known := peek(path)) is not None and known.span for path in documents_of(clip)):
        return Parted()
    heard = in_real_time(opened.strikes, opened.store.info, swing.capture_rate)
    found = beside.call(
        parts_beside,
        swing,
        opened.store.info,
        opened.content,
        heard,
        opened.shelf,
        long=True,
        progress=task.progress,
        stopped=task.stopped,
    )
    spans: list[tuple[int, int]] = found or []
    if task.stopped():
        return Parted()
    if len(spans) < 2:
        may = os.access(clip.parent, os.W_OK)
        return Parted(only=spans[0]) if spans and may else Parted()
    written = []
    for number, span in enumerate(spans, 1):
        if task.stopped():
            break
        path = free_document(clip, number)
        save_swing(path, swing.given(id=uuid.uuid4().hex, span=span, guessed=swing.guessed))
        written.append(path)
    return Parted(tuple(written))


def parts_beside(
    *about: Any,
    progress: Callable[[int, int], None],
    part: Callable[[object], None],  # noqa: ARG001
    stopped: Callable[[], bool],
) -> list[tuple[int, int]]:
    """:func:`kneel.evidence.swings.parts_of`, in a process beside the desk."""
    return parts_of(*about, progress=progress, stopped=stopped)
