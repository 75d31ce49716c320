"""Looking the Book through for what its rows say and the disk does not."""

from __future__ import annotations

from sqlalchemy import select

from kneel.book.db.opening import Book
from kneel.book.db.tables import lessons as lesson_table
from kneel.book.db.tables import students as student_table
from kneel.book.index.clips import find_clip, find_document
from kneel.book.repository import lessons, students
from kneel.book.repository.swings import of_student
from kneel.disk import shown
from kneel.model import BookError, KneelError

MOST = 50
"""So many sentences are told one by one."""


def gone(book: Book) -> tuple[str, ...]:
    """Documents and clips that are not where the Book has them, and records that cannot be read."""
    said: list[str] = []
    with book.reading() as db:
        keys = [
            row.id for row in db.execute(select(student_table.c.id).where(student_table.c.hidden.is_(None)))
        ]
        rows = []
        for key in keys:
            try:
                students.load(db, key)
                lessons.of_student(db, key)
                rows += of_student(db, key)
            except BookError as error:
                said.append(str(error))
        loose = db.scalar(
            select(lesson_table.c.id)
            .where(lesson_table.c.student.not_in(select(student_table.c.id)))
            .limit(1)
        )
    if loose is not None:
        said.append("a lesson hangs on no student")
    for row in rows:
        if find_document(book, row) is None:
            said.append(f"the document {shown(row.document)} is not there; its numbers are still known")
            continue
        try:
            found = find_clip(book, row)
        except KneelError:
            found = None
        if found is None:
            said.append(f"the clip {shown(row.clip)} is not there; its numbers are still known")
    more = len(said) - MOST
    return (*said[:MOST], f"and {more} more") if more > 0 else tuple(said)
