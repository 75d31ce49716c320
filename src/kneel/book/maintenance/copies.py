"""Copies of the Book: on asking, and one a day by itself, of which the last seven are kept.

A copy is made by SQLite itself from one moment's view, so that nobody has to stop writing; it is checked
before it takes its name. Restoring copies back in one transaction, what was there having been laid aside.
"""

from __future__ import annotations

import contextlib
import datetime
import glob
import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

from kneel.book.db import schema
from kneel.book.db.opening import DAMAGE, WAITS_S, Book, looked_at, none_of_ours, open_book, read_only, reason
from kneel.disk import replacing, shown
from kneel.model import BookError

FOLDER = "copies"
KEPT = 7
DAILY = "book-{day}.sqlite"
ASIDE = "before-restoring-{when}.sqlite"
WRITE_AHEAD = b"\x02"
"""What stands in the file of a database with a log: a Book has one, a copy has none."""


@dataclass(frozen=True)
class Found:
    """What a check found: how much there is, and what is wrong, each in a sentence."""

    students: int
    lessons: int
    swings: int
    schema: str
    troubles: tuple[str, ...] = ()


def back_up(book: Book, path: Path, number: int = 0) -> Found:
    """Write a copy of the Book as it is now to a file, checked; ``number`` tells copies of one Book in order.

    Raises :class:`BookError`.
    """
    source = _file_of(book)
    if path.exists():
        if _same(source, path):
            raise BookError("A copy cannot be the Book itself; name another file.")
        _demand_copy(path)
    try:
        with replacing(path, private=True) as part:
            _copy(source, part, number)
            found = check_file(part)
            if found.troubles:
                raise BookError(f"The copy is not sound ({found.troubles[0]}); nothing was written.")
    except (OSError, *DAMAGE) as error:
        why = shown(getattr(error, "strerror", None) or reason(error))
        raise BookError(f"{shown(path)} cannot be written ({why}); the Book is untouched.") from error
    return found


def restore(path: Path, to: Path) -> tuple[Found, Path | None]:
    """Put a copy in the place of the Book at ``to``; gives what it holds, and where the old state lies now.

    Raises :class:`BookError` where the copy is none, is damaged, or is of a newer Kneel.
    """
    found = check_file(path)
    if found.troubles:
        raise BookError(f"{shown(path.name)} is not sound ({found.troubles[0]}); the Book is untouched.")
    _demand_known(found.schema, path)
    if to.exists() and _same(path, to):
        raise BookError("That is the Book itself; name a copy of it.")
    aside = _laid_aside(to) if to.exists() and to.stat().st_size else None
    # A new Book's file is made as any other's.
    open_book(str(to)).close()
    try:
        with (
            closing(sqlite3.connect(path)) as source,
            closing(sqlite3.connect(to, timeout=WAITS_S)) as target,
        ):
            source.backup(target)
    except DAMAGE as error:
        raise BookError(
            f"The copy could not be put in place ({reason(error)}). The Book is as it was."
        ) from error
    open_book(str(to)).close()
    return check_file(to), aside


def _laid_aside(to: Path) -> Path:
    """Keep what lies where a copy is to go: a Book as a copy of it, a damaged one as it is, out of the way.

    Raises :class:`BookError`, for a sound database of something else too.
    """
    when = datetime.datetime.now().strftime("%Y-%m-%d-%H%M%S")
    aside = to.parent / FOLDER / ASIDE.format(when=when)
    _make_folder(aside.parent)
    try:
        sound = not check_file(to).troubles
    except BookError:
        _demand_damaged(to)
        sound = False
    if sound:
        try:
            book = open_book(str(to))
            try:
                back_up(book, aside)
            finally:
                book.close()
            return aside
        except BookError as error:
            if "newer Kneel" in str(error) or "busy" in str(error):
                raise
    for suffix in ("", "-wal", "-shm"):
        with contextlib.suppress(FileNotFoundError):
            to.with_name(f"{to.name}{suffix}").rename(aside.with_name(f"{aside.name}{suffix}"))
    return aside


def _demand_damaged(path: Path) -> None:
    """Raise :class:`BookError` for a database that is sound and none of ours."""
    try:
        tables, _ = looked_at(path)
    except DAMAGE:
        return
    if tables and not tables & schema.OURS:
        raise none_of_ours(path)


def _demand_copy(path: Path) -> None:
    """Raise :class:`BookError` for a file that is no copy of a Book: a Book in use is none either."""
    with contextlib.suppress(BookError, OSError):
        check_file(path)
        with path.open("rb") as file:
            if file.read(19)[18:] != WRITE_AHEAD:
                return
    raise BookError(
        f"{shown(path.name)} is there already and is no copy of a Book; it is untouched. Choose another name."
    )


def daily(book: Book, today: datetime.date) -> Path | None:
    """Make today's copy where there is none yet, and let the oldest go. Raises :class:`BookError`."""
    if book.path is None:
        return None
    folder = book.path.parent / FOLDER
    _make_folder(folder)
    target = folder / DAILY.format(day=today.isoformat())
    # In the order in which they were made, whatever day the clock said it was.
    known = {path: _number(path) for path in folder.glob(DAILY.format(day="????-??-??"))}
    last = max(known.values(), default=0)
    made = target not in known or known[target] < last
    if made:
        back_up(book, target, last + 1)
        known[target] = last + 1
    for old in sorted(known, key=lambda path: (known[path], path.name))[:-KEPT]:
        with contextlib.suppress(OSError):
            old.unlink()
    return target if made else None


def _number(copy: Path) -> int:
    """The how-manieth daily copy it says it is; 0 where it does not, as older ones."""
    try:
        with _reading(copy) as db:
            return int(db.execute("PRAGMA user_version").fetchone()[0])
    except DAMAGE:
        return 0


def all_copies(book: Book) -> list[Path]:
    """Every copy that Kneel made of a Book by itself."""
    if book.path is None:
        return []
    beside = book.path.parent.glob(f"{glob.escape(book.path.stem)}-before-*{book.path.suffix}")
    return sorted([*(book.path.parent / FOLDER).glob("*.sqlite"), *beside])


def check(book: Book) -> Found:
    """Look the Book through: the file itself, what hangs on nothing, documents that are gone."""
    found = check_file(_file_of(book))
    from kneel.book.maintenance.integrity import gone

    return Found(found.students, found.lessons, found.swings, found.schema, (*found.troubles, *gone(book)))


def check_file(path: Path) -> Found:
    """Look a file through that should be a Book. Raises :class:`BookError` where it cannot be read at all."""
    if not path.is_file():
        raise BookError(f"There is no file {shown(path)}.")
    try:
        with _reading(path) as db:
            troubles = _troubles(db)
            tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if not {"students", "lessons", "swings", "alembic_version"} <= tables:
                raise BookError(f"{shown(path.name)} is no Book; it is untouched.")
            people, days, filed = (_count(db, table) for table in ("students", "lessons", "swings"))
            row = db.execute("SELECT version_num FROM alembic_version").fetchone()
            version = str(row[0]) if row is not None else ""
    except DAMAGE as error:
        raise BookError(f"{shown(path.name)} is no Book, or a damaged one ({reason(error)}).") from error
    return Found(people, days, filed, version, tuple(troubles))


def _troubles(db: sqlite3.Connection) -> list[str]:
    said = [str(row[0]) for row in db.execute("PRAGMA integrity_check(5)")]
    troubles = [] if said == ["ok"] else [f"the file is damaged: {words}" for words in said]
    loose = db.execute("PRAGMA foreign_key_check").fetchall()
    if loose:
        troubles.append(f"{len(loose)} rows hang on nothing, the first in {loose[0][0]}")
    return troubles


def _count(db: sqlite3.Connection, table: str) -> int:
    hidden = "" if table == "swings" else " WHERE hidden IS NULL"
    return int(db.execute(f"SELECT count(*) FROM {table}{hidden}").fetchone()[0])


def _demand_known(version: str, path: Path) -> None:
    if version not in schema.known():
        raise BookError(
            f"{shown(path.name)} is of a newer Kneel (schema {shown(version)}); restore it with that one."
        )


@contextmanager
def _reading(path: Path) -> Iterator[sqlite3.Connection]:
    with closing(read_only(path)) as db:
        yield db


def _copy(source: Path, target: Path, number: int) -> None:
    """Copy one moment of a Book; the copy is one file without a log."""
    with closing(sqlite3.connect(source, timeout=WAITS_S)) as old, closing(sqlite3.connect(target)) as new:
        old.backup(new)
        new.execute("PRAGMA journal_mode=DELETE")
        new.execute(f"PRAGMA user_version = {number:d}")


def _file_of(book: Book) -> Path:
    if book.path is None:
        raise BookError(
            "Only a Book in a file of its own is copied here; a server’s is copied by the server."
        )
    return book.path


def _make_folder(folder: Path) -> None:
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    except OSError as error:
        raise BookError(
            f"{shown(folder)} cannot be made ({error.strerror}); the Book is untouched."
        ) from error


def _same(one: Path, other: Path) -> bool:
    return os.path.realpath(one) == os.path.realpath(other)
