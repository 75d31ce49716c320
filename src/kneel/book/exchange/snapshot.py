"""A student's part of the Book as one record: what the demo ships, and what is exported to be read."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from pathlib import Path

import msgspec
from msgspec.structs import replace
from sqlalchemy import Connection, select

from kneel.book.db.tables import numbers
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.records import Facts, unpacked_causes
from kneel.book.repository.swings import Indexed, IndexedNumber, Versions
from kneel.model import Club, Kind, Lesson, Student, View
from kneel.model.take import Record

VERSION = 1


class SentNumber(Record, frozen=True):
    """A measure of a swing at a checkpoint and its standard error; ``causes`` by names joined by a slash."""

    measure: str
    at: str
    unit: str
    value: float
    sigma: float
    causes: dict[str, float] = msgspec.field(default_factory=dict)


class SentSwing(Record, frozen=True):
    """A swing of the index; paths are as the sender tells them."""

    document: str
    clip: str
    content: str
    stamp: str
    program: str
    knowledge: str
    view: View
    club: Club
    kind: Kind
    school: str
    facts: Facts
    numbers: tuple[SentNumber, ...]


class SentLesson(Record, frozen=True):
    """A lesson with its swings."""

    lesson: Lesson
    swings: tuple[SentSwing, ...]


class Sent(Record, frozen=True):
    """All that the Book holds of a student."""

    student: Student
    lessons: tuple[SentLesson, ...]


def packed(db: Connection, student: str, told: Callable[[Path], str] = str) -> Sent:
    """All of a student; ``told`` writes a path. Raises ``BookError``."""
    record, _ = students.load(db, student)
    found = []
    for lesson, _ in reversed(lessons.of_student(db, student)):
        rows = swings.of_lesson(db, lesson.id)
        found.append(SentLesson(lesson, tuple(_sent(db, one, told) for one in rows)))
    return Sent(record, tuple(found))


def unpacked(db: Connection, sent: Sent, path: Callable[[str], Path]) -> str:
    """Write a student with lessons and swings as new; ``path`` reads what ``told`` wrote. Gives the id.

    Only for what this program wrote itself: what others send has its swings filed anew.
    """
    student, _ = students.save(db, replace(sent.student, id=""), 0)
    for one in sent.lessons:
        lesson, _ = lessons.save(db, replace(one.lesson, id="", student=student.id), 0)
        for swing in one.swings:
            swings.put(db, lesson.id, _indexed(swing, one.lesson.day, path))
        lessons.save(db, lesson, 1)
    return student.id


def _sent(db: Connection, one: Indexed, told: Callable[[Path], str]) -> SentSwing:
    rows = db.execute(select(numbers).where(numbers.c.swing == one.id))
    return SentSwing(
        told(one.document),
        told(one.clip),
        one.content,
        one.stamp,
        one.versions.program,
        one.versions.knowledge,
        one.view,
        one.club,
        one.kind,
        one.school,
        one.facts,
        tuple(
            SentNumber(
                row.measure,
                row.at,
                row.unit,
                round(row.value, 4),
                round(row.sigma, 4),
                {"/".join(key): round(moved, 5) for key, moved in unpacked_causes(row.causes).items()},
            )
            for row in rows
        ),
    )


def _indexed(one: SentSwing, day: datetime.date, path: Callable[[str], Path]) -> Indexed:
    return Indexed(
        document=path(one.document),
        clip=path(one.clip),
        content=one.content,
        stamp=one.stamp,
        versions=Versions(one.program, one.knowledge),
        view=one.view,
        club=one.club,
        kind=one.kind,
        school=one.school,
        facts=one.facts,
        numbers=tuple(
            IndexedNumber(
                n.measure,
                n.at,
                n.unit,
                n.value,
                n.sigma,
                {tuple(key.split("/")): moved for key, moved in n.causes.items()},
            )
            for n in one.numbers
        ),
        day=day,
    )
