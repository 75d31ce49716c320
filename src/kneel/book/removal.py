"""Deleting: first out of sight, which can be undone; then purged, with all that was made of it.

Purging takes the rows, the documents that Kneel made, what is kept of them elsewhere, and their part of every
copy of the Book. Clips in folders of others are listed and left.
"""

from __future__ import annotations

import time

from sqlalchemy import Connection, Table, update

from kneel.book.tables import lessons, students

TABLES: dict[str, Table] = {"student": students, "lesson": lessons}


def hide(db: Connection, what: str, key: str) -> None:
    """Take a student or a lesson out of sight."""
    table = TABLES[what]
    db.execute(update(table).where(table.c.id == key).values(hidden=time.time()))


def show(db: Connection, what: str, key: str) -> None:
    """Bring one back that has not been purged yet."""
    table = TABLES[what]
    db.execute(update(table).where(table.c.id == key).values(hidden=None))
