"""Opening the Book: by URL, brought up to the present schema, its file for its owner alone.

SQLite runs with a write-ahead log, foreign keys and ``secure_delete``; a transaction that writes says so when
it begins, so that two desks wait for each other and never meet in the middle.
"""

from __future__ import annotations

import contextlib
import logging
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import platformdirs
from filelock import FileLock, Timeout
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DatabaseError, DBAPIError, NoSuchModuleError

from kneel.book import schema
from kneel.disk import shown
from kneel.model import BookError

LOG = logging.getLogger(__name__)

VARIABLE = "KNEEL_BOOK"
NAME = "book.sqlite"
WAITS_S = 8.0
"""So long a desk waits for another one that writes."""


def book_url() -> str:
    """Where the Book is: ``KNEEL_BOOK`` as a URL or a path, else a file in the user's data."""
    named = os.environ.get(VARIABLE, "").strip()
    return named or str(platformdirs.user_data_path("kneel") / NAME)


def sqlite_url(path: Path) -> URL:
    """The URL of a file."""
    return URL.create("sqlite", database=str(path))


@dataclass(frozen=True)
class Lies:
    """Where a Book is: its ``url`` in one form, and its ``folder``."""

    url: str
    folder: Path


def lies_at(url: str | None = None) -> Lies:
    """Where the Book at a URL or path is, :func:`book_url` where none is given; opens nothing.

    Raises :class:`BookError`.
    """
    known, path = _known(url or book_url())
    return Lies(known.render_as_string(hide_password=False), _folder_of(path))


def _folder_of(path: Path | None) -> Path:
    return path.parent if path is not None else platformdirs.user_data_path("kneel")


class Book:
    """An open Book. Reading and writing may be asked from any thread; each block is one transaction."""

    def __init__(self, engine: Engine, path: Path | None) -> None:
        self._engine, self.path = engine, path

    @property
    def url(self) -> str:
        """How another process opens it."""
        return self._engine.url.render_as_string(hide_password=False)

    @property
    def folder(self) -> Path:
        """Where what belongs to it lies: its copies, and the lessons that were taken in."""
        return _folder_of(self.path)

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A view of the Book as it is at one moment. Raises :class:`BookError`."""
        with self._told("read"), self._engine.begin() as db:
            yield db

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """All that is written in the block, or nothing of it. Raises :class:`BookError`."""
        engine = self._engine.execution_options(kneel_writes=True)
        with self._told("written to"), engine.begin() as db:
            yield db

    def close(self) -> None:
        """Let its files go."""
        self._engine.dispose()

    @contextmanager
    def _told(self, what: str) -> Iterator[None]:
        try:
            yield
        except DBAPIError as error:
            raise BookError(f"The Book cannot be {what} ({reason(error)}). {SAFE}") from error


SAFE = "What was saved in it before is safe."


def reason(error: BaseException) -> str:
    """What is wrong with a database, in a few words."""
    cause = error.orig if isinstance(error, DBAPIError) and error.orig is not None else error
    words = str(cause).casefold()
    known = {
        "full": "the disk is full",
        "readonly": "its file or folder is read-only",
        "locked": "another desk keeps it busy; try again",
        "not a database": "the file is no book, or a damaged one: restore one of its copies",
        "malformed": "the file is damaged: restore one of its copies",
        "unable to open": "its file or folder may not be opened",
        "unique constraint": "there is another one in its place already",
        "disk i/o": "the disk does not answer as it should",
    }
    return next((said for part, said in known.items() if part in words), shown(str(cause).splitlines()[0]))


def open_book(url: str | None = None) -> Book:
    """Open the Book at a URL or path, :func:`book_url` where none is given; a new one where there is none.

    Raises :class:`BookError`.
    """
    known, path = _known(url or book_url())
    if path is not None:
        _prepare(path)
    try:
        engine = create_engine(known, connect_args={"timeout": WAITS_S} if path is not None else {})
    except (ModuleNotFoundError, NoSuchModuleError, ArgumentError) as error:
        raise BookError(
            f"A Book at {known.get_backend_name()} needs a driver that is not installed ({shown(error)})."
        ) from error
    if path is not None:
        event.listen(engine, "connect", _connected)
        event.listen(engine, "begin", _begun)
    try:
        with _alone(path):
            schema.bring_up(engine, path)
    except (DatabaseError, OSError) as error:
        engine.dispose()
        where = shown(path or known.render_as_string())
        raise BookError(f"The Book {where} cannot be opened ({reason(error)}). It is untouched.") from error
    except BaseException:
        engine.dispose()
        raise
    return Book(engine, path)


def _known(text: str) -> tuple[URL, Path | None]:
    """A URL in the one form it is used in, and its file; None for a server's."""
    known = _url(text)
    if known.get_backend_name() != "sqlite":
        return known, None
    path = Path(known.database or "").expanduser().absolute()
    return known.set(database=str(path)), path


def _url(text: str) -> URL:
    if "://" not in text:
        return sqlite_url(Path(text))
    try:
        known = make_url(text)
    except ArgumentError as error:
        raise BookError(
            f"{VARIABLE} is no URL of a database ({shown(text.rsplit('@', maxsplit=1)[-1])}); give a path, "
            "or a URL such as sqlite:////home/me/book.sqlite."
        ) from error
    if known.get_backend_name() == "sqlite" and known.database in (None, "", ":memory:"):
        raise BookError(f"{VARIABLE} names no file; give a path.")
    return known


def _prepare(path: Path) -> None:
    """A folder and a file that only their owner reads. Raises :class:`BookError`."""
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        with contextlib.suppress(FileExistsError):
            os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR | os.O_CLOEXEC, 0o600))
        if not path.is_file():
            raise BookError(f"The Book {shown(path)} is no file; name another one in {VARIABLE}.")
    except (OSError, ValueError) as error:
        why = shown(getattr(error, "strerror", None) or error)
        raise BookError(f"The Book {shown(path)} cannot be opened ({why}); nothing was changed.") from error


@contextmanager
def _alone(path: Path | None) -> Iterator[None]:
    """Only one program brings a Book up to date."""
    if path is None:
        yield
        return
    lock = FileLock(path.with_name(f".{path.name}.opening.lock"), thread_local=False, mode=0o600)
    try:
        lock.acquire(timeout=60)
    except Timeout as error:
        raise BookError("Another program has been opening the Book for a minute; try again.") from error
    except OSError:
        # A folder that takes no lock takes no change either; the opening tells what is wrong.
        yield
        return
    try:
        yield
    finally:
        lock.release()


def _connected(connection: sqlite3.Connection, _: Any) -> None:
    connection.isolation_level = None
    for words in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "secure_delete=ON"):
        connection.execute(f"PRAGMA {words}")


def _begun(connection: Connection) -> None:
    writes = connection.get_execution_options().get("kneel_writes")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")
