"""Saving what a desk changed over what another one may have changed meanwhile, by the rule of
:mod:`kneel.book.sync.merging`; who loses a field to another desk is told, and their state is kept.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from sqlalchemy import Connection

from kneel.book.db.opening import Book
from kneel.book.repository import lessons, students
from kneel.book.sync import conflicts
from kneel.book.sync.merging import merged, with_id
from kneel.model import Lesson, Student

T = TypeVar("T", Student, Lesson)


@dataclass(frozen=True)
class Saved(Generic[T]):
    """What stands in the Book now; ``lost`` are the fields in which another desk's stands over ours."""

    record: T
    revision: int
    lost: tuple[str, ...] = ()


def save_student(book: Book, base: Student, mine: Student, revision: int) -> Saved[Student]:
    """Save a student read as ``base`` in ``revision`` (0: not in the Book). Raises :class:`BookError`."""
    with book.writing() as db:
        now = students.load(db, base.id) if revision else students.named(db, mine.name)
        return _save_over(db, base, mine, revision, now, students.save, now[0].id)


def save_lesson(book: Book, base: Lesson, mine: Lesson, revision: int) -> Saved[Lesson]:
    """Save a lesson read as ``base`` in ``revision`` (0: not in the Book). Raises :class:`BookError`."""
    with book.writing() as db:
        now = lessons.load(db, mine.id) if revision else lessons.on_day(db, mine.student, mine.day)
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
    both = merged(with_id(base, theirs), with_id(mine, theirs), theirs)
    if both.lost:
        conflicts.keep(db, student, with_id(mine, theirs), both.lost)
    if both.record == theirs:
        return Saved(theirs, at, both.lost)
    return Saved(*save(db, both.record, at), both.lost)
