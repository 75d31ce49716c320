"""Which files were made of which swing: pages, stills, slow clips, so that exactly these go with it."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import delete, insert, select

from kneel.book.db.opening import Book
from kneel.book.db.tables import made


def note_made(book: Book, path: Path, *documents: Path) -> None:
    """A file was made of some documents. Raises ``BookError``."""
    with book.writing() as db:
        db.execute(delete(made).where(made.c.path == str(path)))
        for document in dict.fromkeys(documents):
            db.execute(insert(made).values(path=str(path), document=str(document)))


def made_of(book: Book, document: Path) -> list[Path]:
    """What was made of a document. Raises ``BookError``."""
    with book.reading() as db:
        rows = db.execute(select(made.c.path).where(made.c.document == str(document)))
        return [Path(row.path) for row in rows]


def noted_of(book: Book, path: Path) -> list[Path]:
    """The documents a file was noted with, none where it was not. Raises ``BookError``."""
    with book.reading() as db:
        rows = db.execute(select(made.c.document).where(made.c.path == str(path)))
        return [Path(row.document) for row in rows]
