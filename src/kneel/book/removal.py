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

from sqlalchemy import Connection, Table, delete, select, update

from kneel.book import unsaved
from kneel.book.clips import find_clip
from kneel.book.copies import all_copies
from kneel.book.desks import living
from kneel.book.lessons import on_day as of_day
from kneel.book.lessons import save as save_lesson
from kneel.book.made import made_of, noted_of
from kneel.book.merging import joined
from kneel.book.opening import WAITS_S, Book
from kneel.book.receiving import FOLDER
from kneel.book.records import told
from kneel.book.swings import Indexed, of_lesson
from kneel.book.tables import lessons, made, students, swings
from kneel.disk import replacing
from kneel.documents import recovery
from kneel.documents.finding import documents_of
from kneel.documents.glance_file import forget_glance
from kneel.documents.sight_file import forget_sight
from kneel.documents.thumb_file import forget_thumbs
from kneel.evidence.kept import kept_swing
from kneel.evidence.shelf import Shelf, sidecar
from kneel.model import CLIP_SUFFIXES, KneelError, Lesson

TABLES: dict[str, Table] = {"student": students, "lesson": lessons}

GRACE_S = 600.0
"""What was deleted so lately may still be brought back at another desk, and is purged by that one."""

KEPT = "kept"
"""The folder beside the clips in which the desk keeps pages, stills and slow clips."""


def hide(db: Connection, what: str, key: str, desk: str = "") -> None:
    """Take a student or a lesson out of sight; ``desk`` is the one that may bring it back."""
    table = TABLES[what]
    db.execute(
        update(table)
        .where(table.c.id == key, table.c.hidden.is_(None))
        .values(hidden=time.time(), hidden_by=desk)
    )


def show(db: Connection, what: str, key: str) -> bool:
    """Bring one back that has not been purged yet; False where there is none. A lesson joins the one that was
    begun on its day meanwhile.
    """
    table = TABLES[what]
    if what == "lesson":
        _join_day(db, key)
    done = db.execute(update(table).where(table.c.id == key).values(hidden=None, hidden_by=None))
    return done.rowcount == 1


def _join_day(db: Connection, key: str) -> None:
    """Take what another lesson of the same student and day has into a hidden one that comes back."""
    row = db.execute(
        select(lessons.c.student, lessons.c.day, lessons.c.record, lessons.c.revision).where(
            lessons.c.id == key
        )
    ).one_or_none()
    if row is None:
        return
    other, revision = of_day(db, row.student, row.day)
    if not revision:
        return
    mine = told(row.record, Lesson)
    db.execute(update(swings).where(swings.c.lesson == other.id).values(lesson=key))
    db.execute(delete(lessons).where(lessons.c.id == other.id))
    db.execute(update(lessons).where(lessons.c.id == key).values(hidden=None))
    save_lesson(db, joined(mine, other), row.revision)


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
        gone, days = _hidden(book, db, set(own))
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
        documents = [str(row.document) for row in rows]
        db.execute(delete(made).where(made.c.document.in_(documents)))
        db.execute(delete(lessons).where(lessons.c.id.in_(days)))
        db.execute(delete(students).where(students.c.id.in_(gone)))
    unsaved.forget(book, gone, days)
    _settle(book)
    return Purged(len(gone), len(days), tuple(dict.fromkeys(left)))


def _hidden(book: Book, db: Connection, own: set[str]) -> tuple[list[str], list[str]]:
    """Which students and lessons are to go; a student's lessons go too. What another desk deleted may come
    back for as long as that is at work.
    """
    before, at_work = time.time() - GRACE_S, dict[str, bool]()

    def lives(desk: str | None) -> bool:
        if not desk:
            return False
        if desk not in at_work:
            at_work[desk] = living(book, desk)
        return at_work[desk]

    def due(table: Table) -> Sequence[str]:
        wanted = select(table.c.id, table.c.hidden, table.c.hidden_by).where(table.c.hidden.is_not(None))
        return [
            row.id
            for row in db.execute(wanted)
            if row.id in own or (row.hidden < before and not lives(row.hidden_by))
        ]

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
        for path in _told_by_name(book, clip, document):
            _unlink(path)
    for path in made_of(book, document):
        _unlink(path)
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


def _told_by_name(book: Book, clip: Path, document: Path) -> list[Path]:
    """What was made of a swing without a note of it: named like its clip and like no other one there."""
    if any(other != document for other in documents_of(clip)):
        return []
    try:
        stems = [path.stem for path in clip.parent.iterdir() if path.suffix.lower() in CLIP_SUFFIXES]
        kept = [path for path in (clip.parent / KEPT).iterdir() if path.is_file()]
    except OSError:
        return []
    found = []
    for path in kept:
        of = max(
            (stem for stem in (*stems, clip.stem) if path.name.startswith(f"{stem} ")), key=len, default=""
        )
        if of == clip.stem and noted_of(book, path) in (None, document):
            found.append(path)
    return found


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
