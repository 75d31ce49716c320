"""A student's page: all that is shown of one student, read at one moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import Connection

from kneel.book.index.versions import versions
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.swings import Indexed
from kneel.book.sync import conflicts
from kneel.book.sync.conflicts import Declined
from kneel.compare.trend import Trend, named_first, trend_of
from kneel.judge import Knowledge
from kneel.model import Lesson, Student

Asked = tuple[str, str]


@dataclass(frozen=True)
class Page:
    """``lessons`` are newest first; ``swings`` are those of each lesson by its id; ``told`` are the numbers
    there are, the one to show first in front. ``stale`` is whether another program or other knowledge made
    some of them.
    """

    student: Student
    revision: int
    lessons: tuple[tuple[Lesson, int], ...]
    swings: Mapping[str, tuple[Indexed, ...]]
    told: tuple[Asked, ...]
    trend: Trend[Indexed] | None
    declined: tuple[Declined, ...]
    stale: bool

    def lesson(self, key: str) -> tuple[Lesson, int] | None:
        """A lesson with its revision."""
        return next((one for one in self.lessons if one[0].id == key), None)


def page_of(db: Connection, key: str, asked: Asked | None, knowledge: Knowledge, since: str = "") -> Page:
    """The page of a student, with the trend of a number, the one that matters where none is asked for; held
    against the lesson ``since`` where one is named.

    Raises ``BookError``.
    """
    student, revision = students.load(db, key)
    found = lessons.of_student(db, key)
    rows = swings.of_student(db, key)
    roots = [(one.root.measure, one.root.at) for one, _ in found if one.root is not None and one.root.measure]
    told = named_first(swings.measures_told(db, key), student, roots, knowledge)
    wanted = asked if asked in told else next(iter(told), None)
    now = versions(knowledge)
    trend = None
    if wanted is not None:
        trend = trend_of(
            swings.told_of(db, key, *wanted),
            *wanted,
            student=student,
            knowledge=knowledge,
            program=now.program,
            others=len(told) - 1,
            since=since,
        )
    by_lesson: dict[str, list[Indexed]] = {}
    for row in rows:
        by_lesson.setdefault(row.lesson, []).append(row)
    return Page(
        student,
        revision,
        tuple(found),
        {lesson: tuple(some) for lesson, some in by_lesson.items()},
        tuple(told),
        trend,
        tuple(conflicts.kept(db, key)),
        any(row.versions != now for row in rows),
    )
