"""What the last lesson left: its root, its swings that tell it, and what became of the number since."""

from __future__ import annotations

import datetime
from dataclasses import dataclass

from sqlalchemy import Connection

from kneel.book import lessons, swings
from kneel.book.swings import Indexed
from kneel.judge.change import Between, Change, compare, judged_alone
from kneel.judge.numbers import OfSwing
from kneel.model import Lesson, Swing
from kneel.motion.failure import Failed


@dataclass(frozen=True)
class LastTime:
    """The last lesson before a day; ``rows`` are its swings that tell its root's number."""

    lesson: Lesson
    rows: tuple[Indexed, ...] = ()


def last_time(db: Connection, student: str, day: datetime.date) -> LastTime | None:
    """The last lesson of a student before a day in which anything was worked on or said."""
    lesson = lessons.before(db, student, day)
    if lesson is None:
        return None
    root = lesson.root
    rows = swings.told_of(db, student, root.measure, root.at) if root is not None and root.measure else []
    return LastTime(lesson, tuple(row for row in rows if row.lesson == lesson.id))


def change_since(last: LastTime, swing: Swing, now: OfSwing) -> Change | None:
    """What lies between the last lesson's swings and this one, like held against like; None where it cannot
    be told.
    """
    root = last.lesson.root
    kin = (now.study.setup.view, now.club, now.kind, swing.school)
    rows = [one for one in last.rows if (one.view, one.club, one.kind, one.school) == kin]
    if root is None or not rows:
        return None
    found = compare(rows, [now], root.measure, root.at, Between(lessons=True))
    return None if isinstance(found, Failed) else judged_alone(found, 0.0)
