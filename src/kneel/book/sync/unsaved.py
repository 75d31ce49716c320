"""What a desk could not write into the Book: kept beside it, and written when somebody opens it again.

One file a desk, in the folder ``unsaved`` beside the Book, or in the user's state where that cannot be
written. What is kept is each record as it was read and as it was meant, so that it is merged by the one rule
of :mod:`kneel.book.sync.merging` whenever it comes, also where it had been written after all.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec
import platformdirs
from sqlalchemy import select

from kneel.book.db.opening import Book
from kneel.book.db.tables import lessons as lessons_
from kneel.book.db.tables import students as students_
from kneel.book.sync.desks import Desk, living
from kneel.book.sync.saving import save_lesson, save_student
from kneel.disk import read_bounded, write_bytes
from kneel.model import BookGoneError, KneelError, Lesson, Student
from kneel.model.take import Record

FOLDER = "unsaved"
SUFFIX = ".unsaved.json"
LARGEST = 64 << 20


class Unsaved(Record, frozen=True):
    """A record as it was read in ``revision``, and as it is meant; a student's or a lesson's."""

    revision: int
    student: tuple[Student, Student] | None = None
    lesson: tuple[Lesson, Lesson] | None = None

    @property
    def whose(self) -> str:
        """The student's id in the Book; empty where there was none yet."""
        if self.student is not None:
            return self.student[0].id
        return self.lesson[0].student if self.lesson is not None else ""

    @property
    def words(self) -> str:
        """What it is, to say so."""
        if self.student is not None:
            return self.student[1].name
        return self.lesson[1].day.isoformat() if self.lesson is not None else ""


class _File(msgspec.Struct):
    kneel_unsaved: int
    book: str
    records: list[Unsaved]


@dataclass(frozen=True)
class Rewritten:
    """What was written now, in words; and a sentence for each that could not be."""

    written: tuple[str, ...]
    troubles: tuple[str, ...] = ()


def keep(where: Path | None, book: str, desk: str, records: Sequence[Unsaved]) -> None:
    """Keep records for a Book, over what this desk kept before; with none the file goes.

    ``where`` is the Book's folder. Raises ``OSError`` where nothing can be written anywhere.
    """
    folders = [folder for folder in (where, _state()) if folder is not None]
    name = f"{desk}{SUFFIX}"
    if not records:
        for folder in folders:
            with contextlib.suppress(OSError):
                (folder / FOLDER / name).unlink(missing_ok=True)
        return
    raw = msgspec.json.encode(_File(1, _token(book), list(records)))
    for folder in folders:
        try:
            (folder / FOLDER).mkdir(mode=0o700, parents=True, exist_ok=True)
            write_bytes(folder / FOLDER / name, raw, private=True)
            return
        except OSError:
            if folder is folders[-1]:
                raise


def take_up(book: Book, own: Desk) -> Rewritten:
    """Write what desks that are gone could not write. What fails again stays kept."""
    written, troubles = [], []
    for file in _files(book):
        desk = file.name.removesuffix(SUFFIX)
        if desk == own.id or living(book, desk):
            continue
        try:
            content = msgspec.json.decode(read_bounded(file, LARGEST), type=_File)
        except (OSError, ValueError, RecursionError):
            continue
        if content.book != _token(book.url):
            continue
        left = []
        for one in content.records:
            try:
                _write(book, one)
                written.append(one.words)
            except BookGoneError:
                if _hidden(book, one):
                    # Deleted, and may still be brought back.
                    left.append(one)
            except KneelError as error:
                left.append(one)
                troubles.append(str(error))
        with contextlib.suppress(OSError):
            if left:
                content.records = left
                write_bytes(file, msgspec.json.encode(content), private=True)
            else:
                file.unlink(missing_ok=True)
    return Rewritten(tuple(dict.fromkeys(written)), tuple(troubles))


def forget(book: Book, students: Iterable[str], lessons: Iterable[str]) -> None:
    """Purge what is kept of these students and lessons."""
    people, days = set(students), set(lessons)
    for file in _files(book):
        with contextlib.suppress(OSError, ValueError, RecursionError):
            content = msgspec.json.decode(read_bounded(file, LARGEST), type=_File)
            left = [
                one
                for one in content.records
                if one.whose not in people and (one.lesson is None or one.lesson[0].id not in days)
            ]
            if not left:
                file.unlink(missing_ok=True)
            elif len(left) < len(content.records):
                content.records = left
                write_bytes(file, msgspec.json.encode(content), private=True)


def _hidden(book: Book, one: Unsaved) -> bool:
    table, record = (students_, one.student) if one.student is not None else (lessons_, one.lesson)
    with book.reading() as db:
        known = select(table.c.id).where(table.c.id == (record[0].id if record is not None else ""))
        return db.scalar(known) is not None


def _write(book: Book, one: Unsaved) -> None:
    if one.student is not None:
        save_student(book, *one.student, one.revision)
    if one.lesson is not None:
        save_lesson(book, *one.lesson, one.revision)


def _files(book: Book) -> list[Path]:
    return [
        file
        for folder in dict.fromkeys((book.folder, _state()))
        for file in sorted((folder / FOLDER).glob(f"*{SUFFIX}"))
    ]


def _state() -> Path:
    return platformdirs.user_state_path("kneel")


def _token(url: str) -> str:
    """Which Book it is for, without telling where it is or how to get into it."""
    return hashlib.sha256(os.fsencode(url)).hexdigest()
