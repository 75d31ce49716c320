"""What the last lesson left: what binds, the swings that tell it, and what became of the number since."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Connection

from kneel.book.db.opening import Book
from kneel.book.index.clips import lies
from kneel.book.index.indexing import day_of
from kneel.book.index.versions import program_version
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.search_text import golfer_name
from kneel.book.repository.swings import Indexed
from kneel.compare.difference import Difference, difference
from kneel.compare.errors import Member
from kneel.compare.family import judged_alone
from kneel.compare.trend import each_once
from kneel.judge.numbers import OfSwing
from kneel.model import Lesson, Root, Swing


@dataclass(frozen=True)
class LastTime:
    """The last lesson before a day, and the last one that ``worked`` on anything, which may lie before it;
    ``rows`` are its swings that tell its root's number.
    """

    lesson: Lesson
    worked: Lesson | None = None
    rows: tuple[Indexed, ...] = ()

    @property
    def root(self) -> Root | None:
        """What was worked on last."""
        return self.worked.root if self.worked is not None else None


def last_time(db: Connection, student: str, day: datetime.date) -> LastTime | None:
    """The last lesson of a student before a day in which anything was worked on or said."""
    lesson = lessons.before(db, student, day)
    if lesson is None:
        return None
    worked = lessons.before(db, student, day, with_root=True)
    root = worked.root if worked is not None else None
    rows = swings.told_of(db, student, root.measure, root.at) if root is not None and root.measure else []
    mine = [row for row in rows if worked is not None and row.lesson == worked.id]
    return LastTime(lesson, worked, tuple(each_once(mine)))


def swing_before(book: Book, clip: Path, like: Swing) -> Path | None:
    """Where the last swing of a golfer lies that was filmed in a lesson before the day of a clip, and seen as
    ``like`` is; one of its club and kind before any other. None where the Book has none.
    """
    with book.reading() as db:
        student, revision = students.named(db, golfer_name(like.golfer))
        day, of = day_of(clip), swings.of_student(db, student.id) if revision else []
    seen = [one for one in of if one.view is like.view and one.day is not None and one.day < day]
    alike = [one for one in seen if (one.club, one.kind) == (like.club, like.kind)]
    last = next(reversed(alike or seen), None)
    return None if last is None else lies(book, last)


def change_since(last: LastTime, swing: Swing, now: OfSwing) -> Difference | None:
    """What lies between the last lesson's swings and this one, like held against like; None where it cannot
    be told.
    """
    root = last.root
    kin = (now.study.setup.view, now.club, now.kind, swing.school, program_version())
    rows = [
        one for one in last.rows if (one.view, one.club, one.kind, one.school, one.versions.program) == kin
    ]
    if root is None or not rows:
        return None
    before = [Member(row, row.lesson, row.lesson) for row in rows]
    found = difference(before, [Member(now, "today", "today")], root.measure, root.at)
    return judged_alone(found, 0.0) if isinstance(found, Difference) else None
