"""What was lost to another desk: kept in the Book until somebody has looked at it."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, delete, insert, select

from kneel.book.db.tables import declined
from kneel.book.repository.records import as_json
from kneel.model import Lesson, Student


@dataclass(frozen=True)
class Declined:
    """A state that was not saved: of a ``student`` or a ``lesson``, the ``fields`` it is about, and when."""

    id: int
    about: str
    when: float
    fields: tuple[str, ...]
    record: dict[str, Any]


def keep(db: Connection, student: str, record: Student | Lesson, fields: tuple[str, ...]) -> None:
    """Keep what could not be saved."""
    about = type(record).__name__.lower()
    row = {"student": student, "about": about, "when": time.time(), "fields": list(fields)}
    db.execute(insert(declined).values(record=as_json(record), **row))


def kept(db: Connection, student: str) -> list[Declined]:
    """All that is kept of a student, newest first."""
    wanted = select(declined).where(declined.c.student == student).order_by(declined.c.when.desc())
    return [
        Declined(row.id, row.about, row.when, tuple(row.fields), row.record) for row in db.execute(wanted)
    ]


def let_go(db: Connection, number: int) -> None:
    """It has been looked at."""
    db.execute(delete(declined).where(declined.c.id == number))
