"""Students' records as files, one a student, from before there was a Book: they are taken in once."""

from __future__ import annotations

import logging
from pathlib import Path

import msgspec
from msgspec.structs import replace

from kneel.book.db.opening import Book
from kneel.book.repository import students
from kneel.disk import TooLargeError, read_bounded, shown
from kneel.documents.swing_file import why
from kneel.model import KneelError, Student, StudentFileError

LOG = logging.getLogger(__name__)

VERSION = 1
FOLDER = "students"
SUFFIX, TAKEN = ".student.json", ".in-the-book.json"
LARGEST_BYTES = 4 << 20


class _Version(msgspec.Struct):
    kneel: int = 0


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel: int
    student: Student


def take_in_files(book: Book, folder: Path) -> list[str]:
    """Take the records in a folder into the Book and lay each file aside; gives what could not be read.

    A student who is in the Book already stays as there. Raises :class:`BookError`.
    """
    troubles = []
    for path in sorted(folder.glob(f"*{SUFFIX}")):
        try:
            student = read_student(path)
        except StudentFileError as error:
            troubles.append(str(error))
            continue
        with book.writing() as db:
            if students.student_id(db, student.name) is None:
                students.save(db, replace(student, id=""), 0)
        try:
            path.rename(path.with_name(path.name.removesuffix(SUFFIX) + TAKEN))
        except OSError:
            LOG.info("a record that was taken in stays where it is", exc_info=True)
    return troubles


def read_student(path: Path) -> Student:
    """A student's record in a file. Raises :class:`StudentFileError`."""
    try:
        raw = read_bounded(path, LARGEST_BYTES)
    except TooLargeError as error:
        raise StudentFileError(
            f"{shown(path.name)} is too large for a student’s record; it is untouched."
        ) from error
    except OSError as error:
        raise StudentFileError(
            f"{shown(path.name)} cannot be read ({why(error)}); it is untouched."
        ) from error
    try:
        if msgspec.json.decode(raw, type=_Version).kneel > VERSION:
            raise StudentFileError(
                f"{shown(path.name)} is of a newer Kneel; it is untouched. Open it with that one."
            )
        found = msgspec.json.decode(raw, type=_Envelope).student
        students.demand_told(found)
        if not found.name.strip():
            raise ValueError("a student needs a name")
    except KneelError:
        raise
    except (ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise StudentFileError(
            f"{shown(path.name)} is no student’s record, or a damaged one; it is untouched. "
            "Take it away to begin a new one."
        ) from error
    return found
