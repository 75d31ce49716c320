"""Opening the Book: by URL, brought up to the present schema, its file for its owner alone.

SQLite runs with a write-ahead log, foreign keys and ``secure_delete``; a transaction that writes says so when
it begins, so that two desks wait for each other and never meet in the middle.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

import platformdirs
from filelock import FileLock, Timeout
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DatabaseError, DBAPIError, NoSuchModuleError

from kneel.book.db import schema
from kneel.disk import shown
from kneel.model import BookError, KneelError

LOG = logging.getLogger(__name__)

VARIABLE = "KNEEL_BOOK"
NAME = "book.sqlite"
DAMAGE = (sqlite3.Error, UnicodeDecodeError)
"""How a file that is no sound database shows; its own words may be no text."""

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
    """Where a Book is: its ``url`` in one form, its ``folder``, and its file, None for a server's."""

    url: str
    folder: Path
    path: Path | None


def lies_at(url: str | None = None) -> Lies:
    """Where the Book at a URL or path is, :func:`book_url` where none is given; opens nothing.

    Raises :class:`BookError`.
    """
    known, path = _known(url or book_url())
    return Lies(known.render_as_string(hide_password=False), _folder_of(path), path)


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
        except UnicodeEncodeError as error:
            raise BookError(f"That is no text that the Book could hold. {SAFE}") from error
        except (DBAPIError, UnicodeDecodeError) as error:
            raise BookError(f"The Book cannot be {what} ({reason(error)}). {SAFE}") from error


SAFE = "What was saved in it before is safe."


def reason(error: BaseException) -> str:
    """What is wrong with a database, in a few words."""
    if isinstance(error, UnicodeDecodeError):
        return "the file is damaged: restore one of its copies"
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
    told = next((said for part, said in known.items() if part in words), "")
    # What a server's driver says may name hosts, users and more.
    return told or (shown(str(cause).splitlines()[0]) if isinstance(cause, sqlite3.Error | OSError) else "")


def open_book(url: str | None = None) -> Book:
    """Open the Book at a URL or path, :func:`book_url` where none is given; a new one where there is none.

    Raises :class:`BookError`.
    """
    known, path = _known(url or book_url())
    if path is None:
        return _open_server(known)
    _prepare(path)
    engine = create_engine(known, connect_args={"timeout": WAITS_S}, json_deserializer=_told_json)
    event.listen(engine, "connect", _connected)
    event.listen(engine, "begin", _begun)
    try:
        with _alone(path):
            demand_book(path)
            schema.bring_up(engine, path)
    except (DatabaseError, *DAMAGE, OSError) as error:
        engine.dispose()
        raise BookError(
            f"The Book {shown(path)} cannot be opened ({reason(error)}). It is untouched."
        ) from error
    except BaseException:
        engine.dispose()
        raise
    return Book(engine, path)


def _open_server(known: URL) -> Book:
    """A server's Book. Nothing of its URL is told, nor what a driver says, which may repeat it."""
    kind = known.get_backend_name()
    try:
        engine = create_engine(known, json_deserializer=_told_json)
    except (ModuleNotFoundError, NoSuchModuleError, ArgumentError):
        raise BookError(f"A Book at {shown(kind)} needs a driver that is not installed.") from None
    try:
        schema.bring_up(engine, None)
    except KneelError:
        engine.dispose()
        raise
    except Exception as error:
        engine.dispose()
        raise BookError(
            f"The Book at {shown(kind)} cannot be opened ({type(error).__name__}); look at {VARIABLE} and at "
            "the server. It is untouched."
        ) from None
    return Book(engine, None)


def _told_json(text: str) -> Any:
    """What a column of JSON holds; None where that is damaged, which whoever reads the record tells."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return None


def demand_book(path: Path) -> None:
    """Look at a file without changing a byte of it. Raises :class:`BookError` where it is a database of
    something else, or of a newer Kneel; a new file, and one that is damaged, is for others to find out.
    """
    try:
        tables, version = looked_at(path)
    except sqlite3.OperationalError:
        # As with a log whose index is gone, which reading alone cannot make anew: the opening tells.
        return
    if tables and not tables >= schema.OURS:
        raise none_of_ours(path)
    schema.demand_known(version)


def none_of_ours(path: Path) -> BookError:
    """What is said of a database of something else."""
    return BookError(
        f"{shown(path)} is a database of something else; it is untouched. Name another file in {VARIABLE}."
    )


def looked_at(path: Path) -> tuple[frozenset[str], str | None]:
    """The tables of a database file and the schema it names; nothing is written, beside it neither.

    Raises one of ``DAMAGE`` where it is none, or a damaged one.
    """
    with contextlib.closing(read_only(path)) as db:
        found = frozenset(row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'"))
        if "alembic_version" not in found:
            return found, None
        try:
            row = db.execute("SELECT version_num FROM alembic_version").fetchone()
        except sqlite3.OperationalError:
            return found, None
    return found, None if row is None else str(row[0])


def read_only(path: Path) -> sqlite3.Connection:
    """A connection that reads a file as it lies and writes nothing, beside it neither; text that is damaged
    comes as far as it can be read. Raises ``sqlite3.Error``.
    """
    lone = "" if path.with_name(f"{path.name}-wal").exists() else "&immutable=1"
    uri = f"file:{quote(str(path.absolute()))}?mode=ro{lone}"
    db = sqlite3.connect(uri, uri=True, timeout=WAITS_S)
    db.text_factory = _as_text
    return db


def _as_text(raw: bytes) -> str:
    """Text of a file that may be damaged."""
    return raw.decode("utf-8", "replace")


def _known(text: str) -> tuple[URL, Path | None]:
    """A URL in the one form it is used in, and its file; None for a server's."""
    known = _url(text)
    if known.get_backend_name() != "sqlite":
        return known, None
    path = Path(unquote(known.database or "") if "://" in text else text).expanduser().absolute()
    try:
        str(path).encode()
    except UnicodeEncodeError:
        raise BookError(f"The Book cannot lie at {shown(path)}: its name is no text. Name another.") from None
    return sqlite_url(path), path


def _url(text: str) -> URL:
    if "://" not in text:
        return sqlite_url(Path(text))
    try:
        known = make_url(text)
    except (ArgumentError, ValueError):
        raise BookError(
            f"{VARIABLE} is no URL of a database; give a path, or a URL such as "
            "sqlite:////home/me/book.sqlite."
        ) from None
    database = known.database or ""
    elsewhere = known.host or known.username or known.password
    if known.get_backend_name() == "sqlite" and (
        elsewhere or database in ("", ":memory:") or database.startswith("file:")
    ):
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
