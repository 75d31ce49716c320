"""Saving what a desk changed over what another one may have changed meanwhile.

Each keeps what only it changed. Where both changed one thing the other's stands, since it was there first;
the loser is told, and the loser's state is kept in the Book.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

import msgspec
from sqlalchemy import Connection

from kneel.book import declined, lessons, students
from kneel.book.merging import merged
from kneel.book.opening import Book
from kneel.model import Lesson, Student

T = TypeVar("T", Student, Lesson)

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
        now = students.load(db, base.id) if base.id else students.named(db, mine.name)
        return _save_over(db, base, mine, revision, now, students.save, now[0].id)


def save_lesson(book: Book, base: Lesson, mine: Lesson, revision: int) -> Saved[Lesson]:
    """Save a lesson read as ``base`` in ``revision`` (0: not in the Book). Raises :class:`BookError`."""
    with book.writing() as db:
        now = lessons.load(db, mine.id) if mine.id else lessons.on_day(db, mine.student, mine.day)
        return _save_over(db, base, mine, revision, now, lessons.save, now[0].student)


def _save_over(
    db: Connection,
    base: T,
    mine: T,
    revision: int,
    now: tuple[T, int],
    save: Callable[[Connection, T, int], tuple[T, int]],
    student: str,
) -> Saved[T]:
    theirs, at = now
    if at == revision:
        return Saved(*save(db, mine, revision))
    both = merged(_with_id(base, theirs), _with_id(mine, theirs), theirs)
    record, lost = _spoken_together(mine, theirs, both.record, both.lost)
    if lost:
        declined.keep(db, student, _with_id(mine, theirs), lost)
    return Saved(*save(db, record, at), lost)


def _with_id(record: T, other: T) -> T:
    return msgspec.structs.replace(record, id=other.id)


def _spoken_together(mine: T, theirs: T, record: T, lost: tuple[str, ...]) -> tuple[T, tuple[str, ...]]:
    """Texts that both changed stand one after the other; the other fields are lost to theirs."""
    texts = {
        name: f"{getattr(theirs, name)}\n{getattr(mine, name)}".strip() for name in lost if name in APPENDED
    }
    return msgspec.structs.replace(record, **texts), tuple(name for name in lost if name not in APPENDED)
