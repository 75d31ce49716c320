"""Lessons in the Book: one a student and day, saved over what was read."""

from __future__ import annotations

import datetime
import uuid
from collections.abc import Sequence

from msgspec.structs import replace
from sqlalchemy import Connection, delete, insert, select, update

from kneel.book.db.tables import lessons, swings
from kneel.book.repository.metric import metric_lesson
from kneel.book.repository.records import as_json, told
from kneel.book.repository.search_text import gathered, terms
from kneel.judge import in_use
from kneel.model import BookChangedError, BookGoneError, Lesson
from kneel.practice import drills_in_use


def of_student(db: Connection, student: str, query: str = "") -> list[tuple[Lesson, int]]:
    """A student's lessons, newest first, each with its revision."""
    wanted = (
        select(lessons.c.record, lessons.c.revision)
        .where(lessons.c.student == student, lessons.c.hidden.is_(None))
        .order_by(lessons.c.day.desc())
    )
    for term in terms(query):
        wanted = wanted.where(lessons.c.words.like(term, escape="\\"))
    return [(metric_lesson(told(row.record, Lesson)), row.revision) for row in db.execute(wanted)]


def load(db: Connection, key: str) -> tuple[Lesson, int]:
    """A lesson and the revision that was read. Raises :class:`BookError`."""
    row = db.execute(
        select(lessons.c.record, lessons.c.revision).where(lessons.c.id == key, lessons.c.hidden.is_(None))
    ).one_or_none()
    if row is None:
        raise BookGoneError("This lesson is not in the Book any more; nothing else was changed.")
    return metric_lesson(told(row.record, Lesson)), row.revision


def on_day(db: Connection, student: str, day: datetime.date) -> tuple[Lesson, int]:
    """The student's lesson of a day; a new one, and revision 0, where there was none yet."""
    row = db.execute(
        select(lessons.c.record, lessons.c.revision).where(
            lessons.c.student == student, lessons.c.day == day, lessons.c.hidden.is_(None)
        )
    ).one_or_none()
    if row is None:
        return Lesson(student, day), 0
    return metric_lesson(told(row.record, Lesson)), row.revision


def before(db: Connection, student: str, day: datetime.date, *, with_root: bool = False) -> Lesson | None:
    """The student's last lesson before a day; ``with_root``: the last in which anything was worked on."""
    wanted = select(lessons.c.record).where(
        lessons.c.student == student, lessons.c.day < day, lessons.c.hidden.is_(None)
    )
    if with_root:
        wanted = wanted.where(lessons.c.fault != "")
    row = db.execute(wanted.order_by(lessons.c.day.desc()).limit(1)).one_or_none()
    return None if row is None else metric_lesson(told(row.record, Lesson))


def save(db: Connection, lesson: Lesson, revision: int) -> tuple[Lesson, int]:
    """Write a lesson over the revision that was read, 0 for a new one; gives it with its new revision.

    Raises :class:`BookChangedError` where another desk has saved it meanwhile.
    """
    lesson = lesson if lesson.id else replace(lesson, id=uuid.uuid4().hex)
    row = {
        "record": as_json(lesson),
        "words": words_of(db, lesson),
        "fault": lesson.root.fault if lesson.root else "",
        "verdict": lesson.root.verdict if lesson.root else "",
        "archived": lesson.archived,
        "revision": revision + 1,
    }
    if revision == 0:
        _demand_new(db, lesson)
        db.execute(
            insert(lessons).values(id=lesson.id, student=lesson.student, day=lesson.day, hidden=None, **row)
        )
        return lesson, 1
    done = db.execute(
        update(lessons)
        .where(lessons.c.id == lesson.id, lessons.c.revision == revision, lessons.c.hidden.is_(None))
        .values(**row)
    )
    if done.rowcount != 1:
        raise BookChangedError(
            f"The lesson of {lesson.day.isoformat()} was changed at another desk meanwhile; that is kept, "
            "and shown now. What you changed is kept beside it as a note."
        )
    return lesson, revision + 1


def drop_if_empty(db: Connection, key: str) -> None:
    """Take a lesson away that has no swing left and in which nobody wrote anything."""
    lesson, _ = load(db, key)
    written = lesson.said or lesson.handed or (lesson.root is not None and lesson.root.by_hand)
    filed = db.scalar(select(swings.c.id).where(swings.c.lesson == key).limit(1))
    if filed is None and not written:
        db.execute(delete(lessons).where(lessons.c.id == key))


def _demand_new(db: Connection, lesson: Lesson) -> None:
    """Raise :class:`BookChangedError` where the student has a lesson on that day already."""
    if on_day(db, lesson.student, lesson.day)[1]:
        raise BookChangedError(
            f"The lesson of {lesson.day.isoformat()} was begun at another desk meanwhile; that is shown now."
        )


def renew_words(db: Connection, lesson: Lesson) -> None:
    """Its swings have changed: the lesson is found by what is said in them now."""
    db.execute(update(lessons).where(lessons.c.id == lesson.id).values(words=words_of(db, lesson)))


def words_of(db: Connection, lesson: Lesson) -> str:
    """All text of a lesson as it is searched for, that of its swings among it."""
    parts = [lesson.complaint, lesson.flight, lesson.said]
    if lesson.root is not None:
        parts += [lesson.root.given_up, *titles([lesson.root.fault], [lesson.root.drill])]
    if lesson.id:
        rows = db.execute(select(swings.c.words).where(swings.c.lesson == lesson.id))
        parts += [row.words for row in rows]
    return gathered(parts)


def titles(faults: Sequence[str], drills: Sequence[str] = ()) -> list[str]:
    """Faults and drills as one says them; what is not known any more by its key."""
    known_faults, all_drills = in_use().faults, drills_in_use().all
    found = [known_faults[key].title if key in known_faults else key for key in faults]
    return found + [all_drills[key].title if key in all_drills else key for key in drills if key]
