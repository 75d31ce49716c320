"""Deleting: first out of sight, which can be undone; then purged, with all that was made of it.

Purging takes the documents that Kneel made, what is kept of them elsewhere, their part of every copy of the
Book, and last the rows; so one that was broken off is done again. Clips in folders of others are listed and
left, clips in Kneel's own folder go.
"""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
import time
from collections.abc import Iterable, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Connection, Table, delete, or_, select, update

from kneel.book.clips import find_clip
from kneel.book.copies import all_copies
from kneel.book.opening import WAITS_S, Book
from kneel.book.receiving import FOLDER
from kneel.book.swings import Indexed, of_lesson
from kneel.book.tables import lessons, students
from kneel.disk import replacing
from kneel.documents import recovery
from kneel.documents.glance_file import forget_glance
from kneel.documents.sight_file import forget_sight
from kneel.documents.thumb_file import forget_thumbs
from kneel.evidence.kept import kept_swing
from kneel.evidence.shelf import Shelf, sidecar
from kneel.model import KneelError

TABLES: dict[str, Table] = {"student": students, "lesson": lessons}

GRACE_S = 600.0
"""What was deleted so lately may still be brought back at another desk, and is purged by that one."""

KEPT = "kept"
"""The folder beside the clips in which the desk keeps pages, stills and slow clips."""


def hide(db: Connection, what: str, key: str) -> None:
    """Take a student or a lesson out of sight."""
    table = TABLES[what]
    db.execute(update(table).where(table.c.id == key).values(hidden=time.time()))


def show(db: Connection, what: str, key: str) -> None:
    """Bring one back that has not been purged yet."""
    table = TABLES[what]
    db.execute(update(table).where(table.c.id == key).values(hidden=None))


@dataclass(frozen=True)
class Purged:
    """How much was purged for good, and which clips were left where they are."""

    students: int = 0
    lessons: int = 0
    clips_left: tuple[Path, ...] = ()


def purge(book: Book, own: Iterable[str] = ()) -> Purged:
    """Purge what was deleted: ``own`` by this desk, and whatever was deleted a while ago.

    Raises ``BookError`` where the Book cannot be written; it is then done the next time.
    """
    with book.reading() as db:
        gone, days = _hidden(db, set(own))
        if not gone and not days:
            return Purged()
        rows = [row for key in days for row in _swings(db, key)]
    left: list[Path] = []
    for row in rows:
        left += _forget(book, row)
    for copy in all_copies(book):
        with contextlib.suppress(OSError, sqlite3.Error):
            _rewrite(copy, gone, days)
    with book.writing() as db:
        db.execute(delete(lessons).where(lessons.c.id.in_(days)))
        db.execute(delete(students).where(students.c.id.in_(gone)))
    _settle(book)
    return Purged(len(gone), len(days), tuple(dict.fromkeys(left)))


def _hidden(db: Connection, own: set[str]) -> tuple[list[str], list[str]]:
    """Which students and lessons are to go; a student's lessons go too."""
    before = time.time() - GRACE_S

    def due(table: Table) -> Sequence[str]:
        old = or_(table.c.hidden < before, table.c.id.in_(own))
        return [row.id for row in db.execute(select(table.c.id).where(table.c.hidden.is_not(None), old))]

    gone = list(due(students))
    theirs = [row.id for row in db.execute(select(lessons.c.id).where(lessons.c.student.in_(gone)))]
    return gone, list(dict.fromkeys([*due(lessons), *theirs]))


def _swings(db: Connection, lesson: str) -> list[Indexed]:
    return of_lesson(db, lesson, hidden=True)


def _forget(book: Book, row: Indexed) -> list[Path]:
    """Take away all that Kneel made of a swing; gives its clip where that is left."""
    document = row.document
    clip = find_clip(book, row)
    if clip is not None:
        shelf = Shelf(clip)
        with contextlib.suppress(KneelError, OSError):
            kept_swing(document, shelf)
        shelf.forget()
        forget_thumbs(clip)
        _unlink(sidecar(clip))
        for made in _glob(clip.parent / KEPT, f"{clip.stem} "):
            _unlink(made)
    forget_glance(document)
    forget_sight(document)
    recovery.forget(document)
    _unlink(document)
    if clip is None:
        return []
    own = book.folder / FOLDER
    if not clip.resolve().is_relative_to(own.resolve()):
        return [clip]
    _unlink(clip)
    with contextlib.suppress(OSError):
        (clip.parent / KEPT).rmdir()
    for folder in (clip.parent, clip.parent.parent):
        with contextlib.suppress(OSError):
            folder.rmdir()
    return []


def _glob(folder: Path, start: str) -> list[Path]:
    try:
        return [path for path in folder.iterdir() if path.name.startswith(start) and path.is_file()]
    except OSError:
        return []


def _unlink(path: Path) -> None:
    with contextlib.suppress(OSError):
        path.unlink(missing_ok=True)


def _rewrite(copy: Path, gone: Sequence[str], days: Sequence[str]) -> None:
    """Write a copy anew without them."""
    with replacing(copy, private=True) as part:
        shutil.copyfile(copy, part)
        with closing(sqlite3.connect(part)) as db:
            db.execute("PRAGMA foreign_keys = ON")
            db.execute("PRAGMA secure_delete = ON")
            with db:
                db.executemany("DELETE FROM lessons WHERE id = ?", [(key,) for key in days])
                db.executemany("DELETE FROM students WHERE id = ?", [(key,) for key in gone])
            db.execute("VACUUM")


def _settle(book: Book) -> None:
    """Empty the log, so that nothing of what went is left in it."""
    if book.path is None:
        return
    with contextlib.suppress(sqlite3.Error), closing(sqlite3.connect(book.path, timeout=WAITS_S)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
