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
from dataclasses import dataclass, field
from pathlib import Path

import msgspec
from sqlalchemy import Connection, Table, delete, select, update

from kneel.book.db.opening import DAMAGE, WAITS_S, Book
from kneel.book.db.tables import declined, lessons, made, names, students, swings
from kneel.book.maintenance.copies import all_copies
from kneel.book.maintenance.purged_files import KEPT, forgotten
from kneel.book.repository.lessons import on_day as of_day
from kneel.book.repository.lessons import save as save_lesson
from kneel.book.repository.records import told
from kneel.book.repository.swings import of_lesson
from kneel.book.sync import unsaved
from kneel.book.sync.desks import living
from kneel.book.sync.merging import joined
from kneel.disk import read_bounded, replacing, write_bytes
from kneel.model import Lesson

__all__ = ["KEPT", "Purged", "hide", "purge", "show"]

TABLES: dict[str, Table] = {"student": students, "lesson": lessons}

UNPURGED = "unpurged.json"
"""The file beside the Book in which it stands which copies still hold somebody who was deleted."""

GRACE_S = 600.0
"""What was deleted so lately may still be brought back at another desk, and is purged by that one."""


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
    """How much was purged for good; which clips and traces were left where they are, as files of others;
    which copies could not be rewritten; and by which ``words`` logs and settings may still speak of it.
    """

    students: int = 0
    lessons: int = 0
    clips_left: tuple[Path, ...] = ()
    copies_left: tuple[Path, ...] = ()
    words: tuple[str, ...] = field(default=(), compare=False)


def purge(book: Book, own: Iterable[str] = ()) -> Purged:
    """Purge what was deleted: ``own`` by this desk, and whatever was deleted a while ago.

    Raises ``BookError`` where the Book cannot be written; it is then done the next time.
    """
    with book.reading() as db:
        gone, days = _hidden(book, db, set(own))
        if not gone and not days:
            return Purged(copies_left=_try_again(book))
        rows = [row for key in days for row in of_lesson(db, key, hidden=True)]
        called = {row.key for row in db.execute(select(names.c.key).where(names.c.student.in_(gone)))}
        people = [row.name for row in db.execute(select(students.c.name).where(students.c.id.in_(gone)))]
        theirs = {row.document: _names_of(db, row.lesson) for row in rows}
    files = [forgotten(book, row, theirs[row.document], rows) for row in rows]
    stuck = _rewrite_all(book, all_copies(book), gone, days)
    with book.writing() as db:
        documents = [str(row.document) for row in rows]
        db.execute(delete(made).where(made.c.document.in_(documents)))
        db.execute(delete(declined).where(declined.c.id.in_(_declined(db, days))))
        db.execute(delete(lessons).where(lessons.c.id.in_(days)))
        db.execute(delete(students).where(students.c.id.in_(gone)))
    unsaved.forget(book, gone, days)
    _settle(book)
    left = [path for one in files for path in one.left]
    words = [*people, *called, *map(str, left), *(str(path) for one in files for path in one.gone)]
    return Purged(len(gone), len(days), tuple(dict.fromkeys(left)), stuck, tuple(dict.fromkeys(words)))


def _names_of(db: Connection, lesson: str) -> frozenset[str]:
    """By which names the student of a lesson is known."""
    wanted = select(names.c.key).join(lessons, lessons.c.student == names.c.student)
    return frozenset(row.key for row in db.execute(wanted.where(lessons.c.id == lesson)))


def _declined(db: Connection, days: Sequence[str]) -> list[int]:
    """What was kept of clashes over lessons that go."""
    rows = db.execute(select(declined.c.id, declined.c.record).where(declined.c.about == "lesson"))
    return [row.id for row in rows if isinstance(row.record, dict) and row.record.get("id") in days]


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


class _Stuck(msgspec.Struct):
    """What has to go from copies that could not be rewritten yet, by ids alone."""

    gone: list[str]
    days: list[str]
    copies: list[str]


def _rewrite_all(
    book: Book, some: Sequence[Path], gone: Sequence[str], days: Sequence[str]
) -> tuple[Path, ...]:
    """Write copies anew without them; those that cannot be are remembered, and tried at every start."""
    stuck = []
    for copy in some:
        try:
            _rewrite(copy, gone, days)
        except (OSError, *DAMAGE):
            stuck.append(copy)
    file, known = book.folder / UNPURGED, _stuck(book)
    there = {path.name for path in all_copies(book)}
    content = _Stuck(
        list(dict.fromkeys([*known.gone, *gone])),
        list(dict.fromkeys([*known.days, *days])),
        sorted((there & {*known.copies}) - {path.name for path in some} | {path.name for path in stuck}),
    )
    with contextlib.suppress(OSError):
        if content.copies:
            write_bytes(file, msgspec.json.encode(content), private=True)
        else:
            file.unlink(missing_ok=True)
    return tuple(stuck)


def _try_again(book: Book) -> tuple[Path, ...]:
    known = _stuck(book)
    some = [copy for copy in all_copies(book) if copy.name in known.copies]
    return _rewrite_all(book, some, known.gone, known.days) if known.copies else ()


def _stuck(book: Book) -> _Stuck:
    try:
        return msgspec.json.decode(read_bounded(book.folder / UNPURGED, 16 << 20), type=_Stuck)
    except (OSError, ValueError):
        return _Stuck([], [], [])


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
    with contextlib.suppress(*DAMAGE), closing(sqlite3.connect(book.path, timeout=WAITS_S)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
