"""Recordings that were broken off when the program ended."""

from __future__ import annotations

from pathlib import Path

from kneel.review.beside import KEPT
from kneel.review.journal import broken_off, read_journal, settled


def take_up_broken(clip: Path) -> list[Path]:
    """Make reviews of recordings in a clip's folder that were broken off when the program ended; gives them.
    For workers. Raises ``ReviewError``.
    """
    found = []
    for part in broken_off(clip.parent / KEPT):
        recovered = read_journal(part)
        settled(recovered, part)
        found.append(recovered.document)
    return found
