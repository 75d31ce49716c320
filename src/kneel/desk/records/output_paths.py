"""The folder beside the clips in which the desk keeps what it makes of them, for their owner alone.

Each file is noted in the Book with the swing it was made of, so that exactly these go where that is deleted.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from pathlib import Path

from kneel.book.index.made import note_made
from kneel.book.maintenance.purge import KEPT
from kneel.book.repository.search_text import name_key
from kneel.desk.records import Books, Which
from kneel.desk.swing import OpenSwing
from kneel.disk import free_path, write_bytes
from kneel.model import KneelError

LONGEST = 60
"""Letters of a name in the name of a file."""


def free_name(clip: Path, what: str, suffix: str, golfer: str = "") -> Path:
    """A name in the folder of what is kept that no file has yet, with the golfer's where there is one.

    Raises ``OSError`` without such a folder, or where it has too many of that name.
    """
    folder = clip.parent / KEPT
    folder.mkdir(mode=0o700, exist_ok=True)
    whose = file_words(golfer)
    known = name_key(whose).replace("-", " ") in name_key(clip.stem).replace("-", " ").replace("_", " ")
    stem = clip.stem if known or not whose else f"{clip.stem} {whose}"
    return free_path(folder, lambda number: f"{stem} {what}{f' {number}' if number > 1 else ''}{suffix}")


def file_words(name: str) -> str:
    """A name as it may stand in the name of a file.

    >>> file_words(" Ida  Fenn/../x "), file_words("")
    ('Ida Fenn x', '')
    """
    words = "".join(char if char.isalnum() or char in " -'" else " " for char in name)
    return " ".join(words.split())[:LONGEST]


class OutputKeeper:
    """Keeps what is made of one swing; made in the interface thread, used in workers."""

    @staticmethod
    def of(opened: OpenSwing, books: Books, others: Sequence[OpenSwing] = ()) -> OutputKeeper | None:
        """The keeper of the open swing, of a picture that shows ``others`` too; None where none is open."""
        store, path = opened.store, opened.path
        if store is None or path is None:
            return None
        also = [one.path for one in others if one.path is not None]
        return OutputKeeper(books, store.info.path, path, opened.swing.golfer, also)

    def __init__(
        self, books: Books, clip: Path, document: Path, golfer: str = "", also: Sequence[Path] = ()
    ) -> None:
        self._books, self.clip, self._golfer = books, clip, golfer
        self._of: dict[Which, list[Path]] = {books.which(clip): [document]}
        for one in also:
            self._of.setdefault(books.which(one), []).append(one)

    def keep(self, what: str, suffix: str, made: bytes) -> Path:
        """Keep bytes; gives where. Raises ``OSError``."""
        target = free_name(self.clip, what, suffix, self._golfer)
        write_bytes(target, made, private=True)
        self.note(target)
        return target

    def keep_as(self, what: str, suffix: str, write: Callable[[Path], object]) -> Path | None:
        """Keep what ``write`` makes at a path it is given; None where it made nothing."""
        target = free_name(self.clip, what, suffix, self._golfer)
        write(target)
        try:
            target.chmod(0o600)
        except FileNotFoundError:
            return None
        self.note(target)
        return target

    def note(self, target: Path, also: Sequence[Path] = ()) -> None:
        """Have it known of which swings a file was made, and of which ``also``; without the Book it is told
        by its name.
        """
        of = {which: list(documents) for which, documents in self._of.items()}
        for document in also:
            of.setdefault(self._books.which(document), []).append(document)
        for which, documents in of.items():
            with contextlib.suppress(KneelError):
                note_made(self._books.open(which), target, *documents)
