"""``kneel book``: copies of the Book, lessons sent and taken in, and a look whether all is well."""

from __future__ import annotations

import argparse
import datetime
import shutil
import sys
from pathlib import Path

from kneel.book import open_book
from kneel.book.db.opening import Book, lies_at
from kneel.book.exchange import exporting, importing
from kneel.book.maintenance import copies
from kneel.book.maintenance.copies import Found
from kneel.book.repository import lessons, students
from kneel.cli.outputs import STDOUT, Output, demand_outputs
from kneel.disk import shown
from kneel.model import BookError, UsageError


def run(asked: argparse.Namespace) -> int:
    """Do what was asked of the Book."""
    return {
        "backup": _back_up,
        "restore": _restore,
        "export": _export,
        "import": _import,
        "check": _check,
    }[asked.what](asked)


def _back_up(asked: argparse.Namespace) -> int:
    path = Path(asked.file)
    if asked.file == STDOUT:
        raise UsageError("A copy is read back to be checked: name a file.")
    demand_outputs([Output(asked.file, "FILE", over_copies=True)], [])
    with _Open() as book:
        found = copies.back_up(book, path)
    print(f"{shown(asked.file)} holds {_counted(found)}; it was read back and is sound.")
    return 0


def _restore(asked: argparse.Namespace) -> int:
    to = lies_at().path
    if to is None:
        raise UsageError("A server’s Book is restored by the server.")
    to.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    found, aside = copies.restore(Path(asked.file), to)
    print(f"The Book holds {_counted(found)} again, as in {shown(asked.file)}.")
    if aside is not None:
        print(f"What it held before lies in {shown(aside)}.")
    return 0


def _export(asked: argparse.Namespace) -> int:
    into = Path(asked.folder)
    with _Open() as book:
        chosen = _chosen(book, asked)
        for key, only in chosen:
            folder = exporting.export(book, key, into, only=only)
            if asked.zip:
                packed = folder.with_name(f"{folder.name}.zip")
                exporting.zipped(folder, packed)
                shutil.rmtree(folder)
                folder = packed
            print(shown(folder))
    return 0


def _chosen(book: Book, asked: argparse.Namespace) -> list[tuple[str, str]]:
    """Which students, and of each which lesson if not all. Raises ``UsageError``."""
    with book.reading() as db:
        if asked.student is None:
            if asked.day is not None:
                raise UsageError("--day goes with --student: whose lesson?")
            return [(one.id, "") for one in students.listed(db, archived=True)]
        key = students.student_id(db, asked.student)
        if key is None:
            raise UsageError(f"There is no student called {shown(asked.student)} in the Book.")
        if asked.day is None:
            return [(key, "")]
        try:
            day = datetime.date.fromisoformat(asked.day)
        except ValueError as error:
            raise UsageError(f"--day takes a date such as 2026-11-03, not {shown(asked.day)}.") from error
        lesson, revision = lessons.on_day(db, key, day)
        if revision == 0:
            raise UsageError(f"{shown(asked.student)} has no lesson on {asked.day}.")
        return [(key, lesson.id)]


def _import(asked: argparse.Namespace) -> int:
    with _Open() as book:
        importing.sweep(book)
        for one in importing.take_in(book, Path(asked.source)):
            print(
                f"{shown(one.name)}: {_many(one.lessons, 'lesson')}, {_many(one.swings, 'swing')} taken in."
            )
            for trouble in one.troubles:
                print(trouble, file=sys.stderr)
    return 0


def _check(_: argparse.Namespace) -> int:
    with _Open(make=False) as book:
        found = copies.check(book)
    print(f"The Book holds {_counted(found)} (schema {found.schema}).")
    for trouble in found.troubles:
        print(trouble)
    if not found.troubles:
        print("All is well.")
    return 2 if any(trouble.startswith("the file is damaged") for trouble in found.troubles) else 0


def _counted(found: Found) -> str:
    many = ((found.students, "student"), (found.lessons, "lesson"), (found.swings, "swing"))
    words = [_many(count, what) for count, what in many]
    return f"{words[0]}, {words[1]} and {words[2]}"


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


class _Open:
    """The Book for as long as a command needs it."""

    def __init__(self, *, make: bool = True) -> None:
        path = lies_at().path
        if not make and path is not None and not path.is_file():
            raise BookError(f"There is no Book at {shown(path)} yet.")
        self._book = open_book()

    def __enter__(self) -> Book:
        return self._book

    def __exit__(self, *_: object) -> None:
        self._book.close()
