"""The index of swings: what each document came to, and by which program and knowledge."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Row, Select, delete, func, insert, or_, select, update

from kneel.book.db.tables import lessons, numbers, students, swings
from kneel.book.repository.lessons import titles
from kneel.book.repository.records import Facts, as_json, packed_causes, told, unpacked_causes
from kneel.book.repository.search_text import gathered
from kneel.model import Club, Kind, View
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.motion.sample import Key


@dataclass(frozen=True)
class Versions:
    """By which program a swing was measured, and under which windows and faults it was judged."""

    program: str
    knowledge: str


@dataclass(frozen=True)
class IndexedNumber:
    """A measure of a swing at a checkpoint as the index holds it."""

    measure: str
    at: str
    unit: str
    value: float
    sigma: float
    causes: dict[Key, float]

    @staticmethod
    def of(at: str, single: Single) -> IndexedNumber:
        """What is kept of a number."""
        return IndexedNumber(single.key, at, single.unit, single.value, single.sigma, single.causes)

    def single(self) -> Single:
        """The number again, with its causes of error."""
        return Single.given(self.measure, self.unit, self.value, self.sigma, self.causes)


@dataclass(frozen=True)
class Indexed:
    """A swing of the index. ``day`` is that of its lesson; ``numbers`` are those that were asked for."""

    document: Path
    clip: Path
    content: str
    stamp: str
    versions: Versions
    view: View
    club: Club
    kind: Kind
    school: str
    facts: Facts
    numbers: tuple[IndexedNumber, ...] = ()
    day: datetime.date | None = None
    lesson: str = ""
    id: int = 0
    words: str = field(default="", compare=False)

    @property
    def source(self) -> tuple[str, float]:
        """What its scale rests on."""
        return self.facts.source

    @property
    def size(self) -> float:
        """The body's, as a share of 1.75 m."""
        return self.facts.size

    def cm(self, unit: str) -> tuple[float, float]:
        """Centimetres per unit of a length; its error is not kept."""
        return (self.facts.cm_per_unit, 0.0) if unit == "stance" else (1.0, 0.0)

    def tell(self, measure: str, at: str) -> Single | Failed:
        """A number of it with its causes of error."""
        one = self.number(measure, at)
        return Failed("This swing does not tell it.", "none") if one is None else one.single()

    def number(self, measure: str, at: str) -> IndexedNumber | None:
        """A number of it, None where it is not told."""
        return next((one for one in self.numbers if (one.measure, one.at) == (measure, at)), None)


def put(db: Connection, lesson: str, one: Indexed) -> int:
    """Write what a document came to, over what was there of it; gives the row's id."""
    row = {
        "lesson": lesson,
        "stamp": one.stamp,
        "program": one.versions.program,
        "knowledge": one.versions.knowledge,
        "clip": str(one.clip),
        "content": one.content,
        "view": one.view.value,
        "club": one.club.value,
        "kind": one.kind.value,
        "school": one.school,
        "facts": as_json(one.facts),
        "words": _words(one),
    }
    known = db.scalar(select(swings.c.id).where(swings.c.document == str(one.document)))
    if known is None:
        made = db.execute(insert(swings).values(document=str(one.document), **row))
        assert made.inserted_primary_key is not None
        known = int(made.inserted_primary_key[0])
    else:
        db.execute(update(swings).where(swings.c.id == known).values(**row))
        db.execute(delete(numbers).where(numbers.c.swing == known))
    rows = [
        {
            "swing": known,
            "measure": n.measure,
            "at": n.at,
            "unit": n.unit,
            "value": n.value,
            "sigma": n.sigma,
            "causes": packed_causes(n.causes, n.sigma),
        }
        for n in one.numbers
    ]
    if rows:
        db.execute(insert(numbers), rows)
    return known


def of_lesson(db: Connection, lesson: str, *, hidden: bool = False) -> list[Indexed]:
    """The swings of a lesson, as they were filed, without their numbers; ``hidden``: of a deleted one too."""
    wanted = select(swings, lessons.c.day).join(lessons) if hidden else _asked()
    return [_indexed(row) for row in db.execute(wanted.where(lessons.c.id == lesson).order_by(swings.c.id))]


def of_student(db: Connection, student: str) -> list[Indexed]:
    """A student's swings, oldest first, without their numbers."""
    return [_indexed(row) for row in db.execute(_of(student))]


def told_of(db: Connection, student: str, measure: str, at: str) -> list[Indexed]:
    """A student's swings that tell a number, oldest first, each with that number alone."""
    wanted = (
        _of(student)
        .add_columns(numbers.c.unit, numbers.c.value, numbers.c.sigma, numbers.c.causes)
        .join(numbers, (numbers.c.swing == swings.c.id))
    )
    wanted = wanted.where(numbers.c.measure == measure, numbers.c.at == at)
    return [
        _indexed(
            row, (IndexedNumber(measure, at, row.unit, row.value, row.sigma, unpacked_causes(row.causes)),)
        )
        for row in db.execute(wanted)
    ]


def numbers_of(db: Connection, rows: Sequence[int]) -> dict[int, dict[tuple[str, str], Single]]:
    """All that is kept of some swings, by row, measure and checkpoint."""
    found: dict[int, dict[tuple[str, str], Single]] = {row: {} for row in rows}
    for one in db.execute(select(numbers).where(numbers.c.swing.in_(rows))):
        kept = IndexedNumber(one.measure, one.at, one.unit, one.value, one.sigma, unpacked_causes(one.causes))
        found[one.swing][one.measure, one.at] = kept.single()
    return found


def judged_by(db: Connection, school: str) -> int:
    """How many swings are judged by a school."""
    return int(db.scalar(select(func.count()).select_from(swings).where(swings.c.school == school)) or 0)


def by_content(db: Connection, content: str) -> list[Indexed]:
    """Swings whose clip has that content, wherever it was when they were filed."""
    return [_indexed(row) for row in db.execute(_asked().where(swings.c.content == content))]


def by_document(db: Connection, document: Path) -> Indexed | None:
    """What a document came to, None where it is not in the Book."""
    row = db.execute(_asked().where(swings.c.document == str(document))).one_or_none()
    return None if row is None else _indexed(row)


def hidden(db: Connection, document: Path) -> bool:
    """Whether a document is of a lesson or student that was deleted and not purged yet."""
    wanted = (
        select(swings.c.id)
        .join(lessons, lessons.c.id == swings.c.lesson)
        .join(students, students.c.id == lessons.c.student)
        .where(
            swings.c.document == str(document),
            or_(lessons.c.hidden.is_not(None), students.c.hidden.is_not(None)),
        )
    )
    return db.scalar(wanted.limit(1)) is not None


def measures_told(db: Connection, student: str) -> list[tuple[str, str, int]]:
    """Which numbers a student's swings tell, and how many of them, most first."""
    count = func.count().label("told")
    wanted = (
        select(numbers.c.measure, numbers.c.at, count)
        .join(swings, swings.c.id == numbers.c.swing)
        .join(lessons, lessons.c.id == swings.c.lesson)
        .where(lessons.c.student == student, lessons.c.hidden.is_(None))
        .group_by(numbers.c.measure, numbers.c.at)
        .order_by(count.desc(), numbers.c.measure, numbers.c.at)
    )
    return [(row.measure, row.at, row.told) for row in db.execute(wanted)]


def _asked() -> Select[Any]:
    here = lessons.c.hidden.is_(None), students.c.hidden.is_(None)
    found = select(swings, lessons.c.day).join(lessons, lessons.c.id == swings.c.lesson)
    return found.join(students, students.c.id == lessons.c.student).where(*here)


def _of(student: str) -> Select[Any]:
    return _asked().where(lessons.c.student == student).order_by(lessons.c.day, swings.c.id)


def _indexed(row: Row[Any], found: Sequence[IndexedNumber] = ()) -> Indexed:
    return Indexed(
        document=Path(row.document),
        clip=Path(row.clip),
        content=row.content,
        stamp=row.stamp,
        versions=Versions(row.program, row.knowledge),
        view=View(row.view),
        club=Club(row.club),
        kind=Kind(row.kind),
        school=row.school,
        facts=told(row.facts, Facts),
        numbers=tuple(found),
        day=row.day,
        lesson=row.lesson,
        id=row.id,
        words=row.words,
    )


def _words(one: Indexed) -> str:
    facts = one.facts
    ball = facts.ball
    spoken = [ball.set, ball.strike, ball.start, ball.curve, ball.cue] if ball is not None else []
    reasons = [word.reason for word in facts.overrides]
    seen = titles([one.fault for one in facts.seen])
    return gathered([facts.complaint, facts.flight, *spoken, *reasons, *seen])
