"""Two students made one, who were written down under two names; and parted again.

Lessons of one day become one, what is written of both stands together, and every name leads to who stays.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace
from sqlalchemy import Connection, Table, delete, insert, select, update

from kneel.book.db.tables import declined, names, swings
from kneel.book.db.tables import lessons as lesson_rows
from kneel.book.db.tables import students as student_rows
from kneel.book.repository import lessons, students
from kneel.book.sync.merging import both_texts, joined, merged
from kneel.model import Lesson, Student, UsageError

Row = dict[str, Any]


@dataclass(frozen=True)
class United:
    """What was before two were made one: enough to part them again."""

    kept: Student
    made: Student
    student: Row
    names: tuple[str, ...]
    lessons: tuple[Row, ...]
    swings: tuple[tuple[int, str], ...]
    days: tuple[tuple[Lesson, Lesson], ...]
    """Lessons of who stays, as they were and as they became, where both had one on a day."""


def unite(db: Connection, keep: str, other: str) -> United:
    """Make ``other`` and ``keep`` one: ``keep`` stays, and ``other`` is no student of its own any more.

    Raises ``BookGoneError`` where either is not in the Book any more, and ``UsageError`` for one student.
    """
    if keep == other:
        raise UsageError("These two are one student already.")
    (kept, revision), (gone, _) = students.load(db, keep), students.load(db, other)
    row = _rows(db, student_rows, student_rows.c.id == other)[0]
    called = db.scalars(select(names.c.key).where(names.c.student == other)).all()
    theirs = _rows(db, lesson_rows, lesson_rows.c.student == other)
    filed = db.execute(
        select(swings.c.id, swings.c.lesson).where(swings.c.lesson.in_([one["id"] for one in theirs]))
    )
    moved = tuple((one.id, one.lesson) for one in filed)
    days = [made for one in theirs if (made := _give(db, keep, one)) is not None]
    db.execute(update(declined).where(declined.c.student == other).values(student=keep))
    db.execute(update(names).where(names.c.student == other).values(student=keep))
    db.execute(delete(student_rows).where(student_rows.c.id == other))
    whole, _ = students.save(db, _both(kept, gone), revision)
    return United(kept, whole, row, tuple(called), tuple(theirs), moved, tuple(days))


def part(db: Connection, united: United) -> None:
    """Part them again; what was changed of who stays meanwhile stays theirs."""
    key = united.student["id"]
    now, revision = students.load(db, united.kept.id)
    db.execute(insert(student_rows).values(united.student | {"revision": united.student["revision"] + 1}))
    db.execute(update(names).where(names.c.key.in_(united.names)).values(student=key))
    for was, became in united.days:
        lesson, at = lessons.load(db, was.id)
        lessons.save(db, merged(became, was, lesson, both=False).record, at)
    whole = {was.day for was, _ in united.days}
    for row in united.lessons:
        if row["day"] in whole and row["hidden"] is None:
            db.execute(insert(lesson_rows).values(row))
        else:
            back = {"student": key, "record": row["record"]}
            db.execute(update(lesson_rows).where(lesson_rows.c.id == row["id"]).values(back))
    for swing, lesson_id in united.swings:
        db.execute(update(swings).where(swings.c.id == swing).values(lesson=lesson_id))
    record = merged(united.made, united.kept, now, both=False).record
    if now.plans == united.made.plans:
        record = replace(record, plans=united.kept.plans)
    students.save(db, record, revision)


def _give(db: Connection, keep: str, row: Row) -> tuple[Lesson, Lesson] | None:
    """Give a lesson to who stays; where that one has a lesson of the day, it joins that, which is told."""
    hers, at = lessons.on_day(db, keep, row["day"])
    if not at or row["hidden"] is not None:
        record = row["record"] | {"student": keep}
        changed = {"student": keep, "record": record}
        db.execute(update(lesson_rows).where(lesson_rows.c.id == row["id"]).values(changed))
        return None
    other, _ = lessons.load(db, row["id"])
    db.execute(update(swings).where(swings.c.lesson == row["id"]).values(lesson=hers.id))
    db.execute(delete(lesson_rows).where(lesson_rows.c.id == row["id"]))
    made, _ = lessons.save(db, joined(hers, other), at)
    return hers, made


def _both(kept: Student, gone: Student) -> Student:
    """What is written of both: of one thing that of who stays, texts and sets together, plans in order."""
    fields: dict[str, Any] = {}
    for name in ("hand", "stature_cm", "sex", "born", "school", "shot", "places", "props"):
        fields[name] = getattr(kept, name) or getattr(gone, name)
    for name in ("goals", "notes"):
        fields[name] = both_texts(getattr(kept, name), getattr(gone, name))
    for name in ("tried", "flags", "clubs"):
        fields[name] = tuple(dict.fromkeys((*getattr(kept, name), *getattr(gone, name))))
    running = kept.plan or gone.plan
    ended = [one for one in (*kept.plans, *gone.plans) if one is not running]
    plans = [one if one.ended else replace(one, ended="made one with another") for one in ended]
    plans.sort(key=lambda one: one.start)
    fields["plans"] = (*plans, *([running] if running is not None else []))
    return replace(kept, **fields)


def _rows(db: Connection, table: Table, where: Any) -> Sequence[Row]:
    return [dict(row) for row in db.execute(select(table).where(where)).mappings()]
