"""Which desks are at work on a Book: what one of them deleted it may bring back for as long as it lives.

Each holds a lock on a file of its own beside the Book; the system lets it go with the program, however that
ends.
"""

from __future__ import annotations

import contextlib
import uuid
from pathlib import Path

from filelock import FileLock, Timeout

from kneel.book.db.opening import Book

FOLDER = "desks"


class Desk:
    """One program that has Books open."""

    def __init__(self) -> None:
        self.id = uuid.uuid4().hex
        self._locks: list[FileLock] = []

    def enter(self, book: Book) -> None:
        """Say that this desk works on a Book; where nothing can be written there nobody will know."""
        with contextlib.suppress(OSError, Timeout):
            (book.folder / FOLDER).mkdir(mode=0o700, parents=True, exist_ok=True)
            lock = FileLock(_file(book, self.id), thread_local=False, mode=0o600)
            lock.acquire(timeout=0)
            self._locks.append(lock)

    def leave(self) -> None:
        """The desk closes."""
        for lock in self._locks:
            with contextlib.suppress(OSError):
                lock.release()
                Path(lock.lock_file).unlink(missing_ok=True)
        self._locks.clear()


def living(book: Book, desk: str) -> bool:
    """Whether a desk is at work; one that ended without a word has its file swept."""
    file = _file(book, desk)
    if not desk or not file.exists():
        return False
    held = is_held(file)
    if held is False:
        with contextlib.suppress(OSError):
            file.unlink(missing_ok=True)
    return bool(held)


def is_held(file: Path) -> bool | None:
    """Whether a program holds the lock on a file; None where that cannot be told."""
    lock = FileLock(file, thread_local=False, mode=0o600)
    try:
        lock.acquire(timeout=0)
    except Timeout:
        return True
    except OSError:
        return None
    with contextlib.suppress(OSError):
        lock.release()
    return False


def _file(book: Book, desk: str) -> Path:
    return book.folder / FOLDER / f"{desk}.lock"
