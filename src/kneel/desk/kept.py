"""The folder beside the clips in which the desk keeps what it makes of them, for their owner alone.

Each file is noted in the Book with the swing it was made of, so that exactly these go where that is deleted.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from pathlib import Path

from kneel.book.made import note_made
from kneel.book.removal import KEPT
from kneel.desk.records import Books, Which
from kneel.desk.swing import OpenSwing
from kneel.disk import write_bytes
from kneel.model import KneelError


def free_name(clip: Path, what: str, suffix: str) -> Path:
    """A name in the folder of what is kept that no file has yet. Raises ``OSError`` without such a folder."""
    folder = clip.parent / KEPT
    folder.mkdir(mode=0o700, exist_ok=True)
    names = (f"{clip.stem} {what}{f' {n}' if n > 1 else ''}{suffix}" for n in range(1, 10_000))
    return next(folder / name for name in names if not (folder / name).exists())


class Keeper:
    """Keeps what is made of one swing; made in the interface thread, used in workers."""

    @staticmethod
    def of(opened: OpenSwing, books: Books) -> Keeper | None:
        """The keeper of the open swing; None where none is open."""
        store, path = opened.store, opened.path
        return Keeper(books, store.info.path, path) if store is not None and path is not None else None

    def __init__(self, books: Books, clip: Path, document: Path) -> None:
        self._books, self.clip, self._document = books, clip, document
        self._which: Which = books.which(clip)

    def keep(self, what: str, suffix: str, made: bytes) -> Path:
        """Keep bytes; gives where. Raises ``OSError``."""
        target = free_name(self.clip, what, suffix)
        write_bytes(target, made, private=True)
        self.note(target)
        return target

    def keep_as(self, what: str, suffix: str, write: Callable[[Path], object]) -> Path | None:
        """Keep what ``write`` makes at a path it is given; None where it made nothing."""
        target = free_name(self.clip, what, suffix)
        write(target)
        try:
            target.chmod(0o600)
        except FileNotFoundError:
            return None
        self.note(target)
        return target

    def note(self, target: Path) -> None:
        """Have it known of which swing a file was made; without the Book it is told by its name."""
        with contextlib.suppress(KneelError):
            note_made(self._books.open(self._which), target, self._document)
