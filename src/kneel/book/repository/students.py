"""Students in the Book: found by name, saved over what was read, listed with their last lesson."""

from __future__ import annotations

import datetime
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace
from sqlalchemy import Connection, Select, and_, delete, func, insert, or_, select, update

from kneel.book.db.tables import lessons, names, students, swings
from kneel.book.repository.metric import metric_student
from kneel.book.repository.records import as_json, told
from kneel.book.repository.search_text import gathered, name_key, terms
from kneel.disk import shown
from kneel.judge import in_use
from kneel.judge.kinds import ONCE
from kneel.model import (
    CHECKPOINTS,
    Aim,
    BookChangedError,
    BookError,
    BookGoneError,
    Cue,
    Guard,
    Student,
    UsageError,
)
from kneel.model.renamed import as_now
from kneel.motion.measures import REGISTRY
from kneel.speech.words import UNITS


@dataclass(frozen=True)
class Listed:
    """A student as a list shows one: ``day``, ``fault`` and ``verdict`` are of the last lesson, if any.

    ``check_in`` is when the running plan's clip is due.
    """

    id: str
    name: str
    archived: bool
    day: datetime.date | None
    fault: str
    verdict: str
    check_in: datetime.date | None
    lessons: int


def student_id(db: Connection, name: str) -> str | None:
    """Whose name that is or was; None where nobody of the Book is called so."""
    return db.scalar(_whose(name).where(students.c.hidden.is_(None)))


def deleted(db: Connection, name: str) -> bool:
    """Whether the student of that name was deleted and not purged yet."""
    return db.scalar(_whose(name).where(students.c.hidden.is_not(None))) is not None


def _whose(name: str) -> Select[Any]:
    return select(names.c.student).join(students).where(names.c.key == name_key(name))


def load(db: Connection, key: str) -> tuple[Student, int]:
    """A student and the revision that was read. Raises :class:`BookError`."""
    row = db.execute(
        select(students.c.record, students.c.revision).where(
            students.c.id == key, students.c.hidden.is_(None)
        )
    ).one_or_none()
    if row is None:
        raise BookGoneError("This student is not in the Book any more; nothing else was changed.")
    student = metric_student(told(row.record, Student))
    try:
        demand_told(student)
    except ValueError as error:
        raise BookError(
            f"{shown(student.name)}’s record speaks of numbers that this Kneel does not know ({error}); "
            "it is untouched. Open it with a newer one."
        ) from error
    return student, row.revision


def named(db: Connection, name: str) -> tuple[Student, int]:
    """The student of a name; one that is not in the Book yet, and revision 0, where there is none."""
    key = student_id(db, name)
    return (Student(name=name), 0) if key is None else load(db, key)


def save(db: Connection, student: Student, revision: int) -> tuple[Student, int]:
    """Write a student over the revision that was read, 0 for a new one; gives it with its new revision.

    Raises :class:`BookChangedError` where another desk has saved that student meanwhile, and
    ``UsageError`` for a name that belongs to somebody else.
    """
    if not student.name.strip():
        raise UsageError("A student needs a name.")
    student = student if student.id else replace(student, id=uuid.uuid4().hex)
    _take_name(db, student)
    row = {
        "name": student.name,
        "record": as_json(student),
        "words": _words(student),
        "check_in": student.plan.check_in if student.plan else None,
        "archived": student.archived,
        "revision": revision + 1,
    }
    if revision == 0:
        db.execute(insert(students).values(id=student.id, hidden=None, **row))
        db.execute(insert(names).values(key=name_key(student.name), student=student.id))
        return student, 1
    done = db.execute(
        update(students)
        .where(students.c.id == student.id, students.c.revision == revision, students.c.hidden.is_(None))
        .values(**row)
    )
    if done.rowcount != 1:
        raise BookChangedError(
            f"{shown(student.name)} was changed at another desk meanwhile; that is kept, and shown now. "
            "What you changed is kept beside it as a note."
        )
    if student_id(db, student.name) is None:
        db.execute(insert(names).values(key=name_key(student.name), student=student.id))
    return student, revision + 1


def _take_name(db: Connection, student: Student) -> None:
    """Raise ``UsageError`` where somebody else is called so; let a name go that only was somebody's."""
    key = name_key(student.name)
    row = db.execute(
        select(names.c.student, students.c.name, students.c.hidden)
        .join(students)
        .where(names.c.key == key, names.c.student != student.id)
    ).one_or_none()
    if row is None:
        return
    if row.hidden is None and name_key(row.name) == key:
        raise UsageError(
            f"There is a student called {shown(row.name)} already; give a name that tells the two apart."
        )
    db.execute(delete(names).where(names.c.key == key))


def listed(db: Connection, query: str = "", *, archived: bool = False) -> list[Listed]:
    """Students by their last lesson, the latest first; ``query`` looks in all that is written of them."""
    shown_, aliased = lessons.c.hidden.is_(None), lessons.alias("searched")
    newest = (
        select(lessons.c.student, func.max(lessons.c.day).label("day"), func.count().label("held"))
        .where(shown_)
        .group_by(lessons.c.student)
        .subquery()
    )
    filmed = select(swings.c.id).where(swings.c.lesson == lessons.c.id).correlate(lessons).exists()
    last = and_(lessons.c.student == students.c.id, lessons.c.day == newest.c.day, shown_)
    wanted = (
        select(
            students.c.id,
            students.c.name,
            students.c.archived,
            students.c.check_in,
            newest.c.day,
            newest.c.held,
            lessons.c.fault,
            lessons.c.verdict,
            filmed.label("filmed"),
        )
        .outerjoin(newest, newest.c.student == students.c.id)
        .outerjoin(lessons, last)
        .where(students.c.hidden.is_(None))
        .order_by(newest.c.day.desc().nulls_last(), func.lower(students.c.name))
    )
    if not archived:
        wanted = wanted.where(students.c.archived.is_(False))
    for term in terms(query):
        said = aliased.c.words.like(term, escape="\\")
        of_lesson = (
            select(aliased.c.id)
            .where(aliased.c.student == students.c.id, aliased.c.hidden.is_(None), said)
            .correlate(students)
        )
        wanted = wanted.where(or_(students.c.words.like(term, escape="\\"), of_lesson.exists()))
    return [
        Listed(
            row.id,
            row.name,
            row.archived,
            row.day,
            as_now(row.fault or ""),
            row.verdict or ("clear" if row.filmed else "unknown"),
            row.check_in,
            row.held or 0,
        )
        for row in db.execute(wanted)
    ]


def demand_told(student: Student) -> None:
    """Raise ``ValueError`` where a record speaks of numbers that nobody can tell."""
    asked: list[Aim | Guard | Cue] = [*(plan.aim for plan in student.plans), *student.tried]
    asked += [guard for plan in student.plans for guard in plan.guards]
    for one in asked:
        if one.measure not in REGISTRY or one.at not in (*CHECKPOINTS, ONCE) or one.unit not in UNITS:
            raise ValueError(f"{one.measure} at {one.at} in {one.unit}")


def _words(student: Student) -> str:
    faults = in_use().faults
    titles = [faults[plan.fault].title for plan in student.plans if plan.fault in faults]
    cues = [cue.words for cue in student.tried]
    return gathered([student.name, student.goals, student.notes, *student.flags, *titles, *cues])


def with_paths(student: Student, where: Callable[[str], str]) -> Student:
    """A student whose plans name each swing by what ``where`` makes of its path."""
    plans = []
    for plan in student.plans:
        sides = {
            side: tuple(replace(one, path=where(one.path)) for one in getattr(plan, side))
            for side in ("before", "after")
        }
        plans.append(replace(plan, **sides))
    return replace(student, plans=tuple(plans))
