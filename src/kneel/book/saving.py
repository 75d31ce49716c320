"""Saving what a desk changed over what another one may have changed meanwhile.

Each keeps what only it changed. Where both changed one thing the other's stands, since it was there first;
the loser is told, and the loser's state is kept in the Book.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

import msgspec
from sqlalchemy import Connection

from kneel.book import declined, lessons, students
from kneel.book.merging import merged
from kneel.book.opening import Book
from kneel.model import Lesson, Student

T = TypeVar("T", bound=msgspec.Struct)

APPENDED = ("said", "goals", "notes", "complaint", "flight")
"""Texts, of which both desks' words are kept one after the other."""


@dataclass(frozen=True)
class Saved(Generic[T]):
    """What stands in the Book now; ``lost`` are the fields in which another desk's stands over ours."""

    record: T
    revision: int
    lost: tuple[str, ...] = ()


def save_student(book: Book, base: Student, mine: Student, revision: int) -> Saved[Student]:
    """Save a student read as ``base`` in ``revision`` (0: not in the Book). Raises :class:`BookError`."""
    with book.writing() as db:
        theirs, at = _student_now(db, base, mine)
        if at == revision:
            return Saved(*students.save(db, mine, revision))
        both = merged(_with_id(base, theirs), _with_id(mine, theirs), theirs)
        record, lost = _spoken_together(mine, theirs, both.record, both.lost)
        if lost:
            declined.keep(db, theirs.id, _with_id(mine, theirs), lost)
        return Saved(*students.save(db, record, at), lost)


def save_lesson(book: Book, base: Lesson, mine: Lesson, revision: int) -> Saved[Lesson]:
    """Save a lesson read as ``base`` in ``revision`` (0: not in the Book). Raises :class:`BookError`."""
    with book.writing() as db:
        theirs, at = lessons.load(db, mine.id) if mine.id else lessons.on_day(db, mine.student, mine.day)
        if at == revision:
            return Saved(*lessons.save(db, mine, revision))
        both = merged(_with_id(base, theirs), _with_id(mine, theirs), theirs)
        record, lost = _spoken_together(mine, theirs, both.record, both.lost)
        if lost:
            declined.keep(db, theirs.student, _with_id(mine, theirs), lost)
        return Saved(*lessons.save(db, record, at), lost)


def _student_now(db: Connection, base: Student, mine: Student) -> tuple[Student, int]:
    if base.id:
        return students.load(db, base.id)
    return students.named(db, mine.name)


def _with_id(record: T, other: T) -> T:
    return msgspec.structs.replace(record, id=other.id)  # type: ignore[attr-defined]


def _spoken_together(mine: T, theirs: T, record: T, lost: tuple[str, ...]) -> tuple[T, tuple[str, ...]]:
    """Texts that both changed stand one after the other; the other fields are lost to theirs."""
    texts = {
        name: f"{getattr(theirs, name)}\n{getattr(mine, name)}".strip() for name in lost if name in APPENDED
    }
    return msgspec.structs.replace(record, **texts), tuple(name for name in lost if name not in APPENDED)
