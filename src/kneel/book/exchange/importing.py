"""Taking in lessons from elsewhere, as a folder or a zip: looked at as hostile before a byte of it is kept.

Only what the manifest names is copied, each file within its bounds and with its hash, into a folder that
takes its place once it is whole; then the swings are filed anew, so that no stranger's number is believed.
"""

from __future__ import annotations

import contextlib
import hashlib
import shutil
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import IO

import msgspec
from filelock import FileLock
from msgspec.structs import replace
from sqlalchemy import Connection, select

from kneel.book.db.opening import Book
from kneel.book.db.tables import lessons as lesson_table
from kneel.book.exchange.exporting import (
    CHUNK,
    MANIFEST,
    VERSION,
    Manifest,
    SentFile,
    SentLesson,
    folder_name,
    hash_of,
)
from kneel.book.exchange.reviews import VOICES, demand_own, note_reviews
from kneel.book.exchange.sources import DAMAGED, MOST_FILES, LessonFiles, opened
from kneel.book.index.indexing import file_document
from kneel.book.repository import lessons, students
from kneel.book.sync.desks import is_held
from kneel.book.sync.merging import both_texts, joined, merged
from kneel.disk import TooLargeError, shown
from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.evidence.shelf import SIDECAR
from kneel.model import CLIP_SUFFIXES, PHOTO_SUFFIXES, KneelError, Lesson, ParcelError, Student
from kneel.review.file import SUFFIX as REVIEW

FOLDER = "lessons"
STAGED = ".incoming-"
PLACED = "placed"
"""The file in which it stands which folders were put in their place."""

LARGEST_MANIFEST = 16 << 20
LARGEST_FILE = 16 << 30
LARGEST_ALL = 64 << 30
MOST_STUDENTS = 200
ALLOWED = (SUFFIX, SIDECAR, REVIEW, ".csv", *VOICES, *CLIP_SUFFIXES, *PHOTO_SUFFIXES)
LARGEST = {SUFFIX: 20 << 20, SIDECAR: 256 << 20, REVIEW: 200 << 20, ".csv": 64 << 20}


@dataclass(frozen=True)
class TakenIn:
    """What came in: whose lessons, how many, how many swings; ``troubles`` are sentences."""

    student: str
    name: str
    lessons: int
    swings: int
    troubles: tuple[str, ...] = ()


def take_in(
    book: Book,
    source: Path,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[TakenIn]:
    """Take in what a folder or a zip holds. Raises :class:`ParcelError`; nothing of it is then kept."""
    with opened(source) as found:
        names = found.manifests()
        if not names:
            raise ParcelError(
                f"{shown(source.name)} holds no lessons that Kneel wrote: there is no {MANIFEST} in it."
            )
        if len(names) > MOST_STUDENTS:
            raise ParcelError(f"{shown(source.name)} holds more students than are taken in at once.")
        told = [(name.parent, _manifest(found, name)) for name in names]
        total = sum(len(one.files) for _, m in told for one in m.lessons)
        if total > MOST_FILES:
            raise ParcelError(f"{shown(source.name)} holds more files than lessons can.")
        if sum(file.size for _, m in told for one in m.lessons for file in one.files) > LARGEST_ALL:
            raise ParcelError(f"{shown(source.name)} holds more than lessons can.")
        done = 0

        def step() -> None:
            nonlocal done
            done += 1
            progress(done, total)
            if stopped():
                raise _StoppedError

        try:
            return _all(book, found, told, step)
        except _StoppedError:
            return []


class _StoppedError(Exception):
    """Somebody wanted no more of it."""


def _all(
    book: Book,
    source: LessonFiles,
    told: Sequence[tuple[PurePosixPath, Manifest]],
    step: Callable[[], None],
) -> list[TakenIn]:
    """Every student's lessons: staged, put in place and written in one step; then filed. What fails or is
    stopped before that leaves nothing behind.
    """
    home = book.folder / FOLDER
    staged = home / f"{STAGED}{uuid.uuid4().hex}"
    made: list[Path] = []
    claim = FileLock(home / f"{staged.name}.lock", thread_local=False, mode=0o600)
    try:
        staged.mkdir(mode=0o700, parents=True)
        claim.acquire(timeout=0)
        for number, (folder, manifest) in enumerate(told):
            into = staged / str(number)
            into.mkdir(mode=0o700)
            for lesson in manifest.lessons:
                _stage(source, folder, lesson, into, step)
        with book.writing() as db:
            written = []
            for number, (_, manifest) in enumerate(told):
                person = _person(db, manifest)
                into = home / folder_name(person.name, person.id)
                placed = [_place(staged / str(number), one, into, made) for one in manifest.lessons]
                written.append(_write(db, person, manifest, placed))
    except BaseException as error:
        for placed_in in made:
            shutil.rmtree(placed_in, ignore_errors=True)
            with contextlib.suppress(OSError):
                placed_in.parent.rmdir()
        if isinstance(error, (OSError, *DAMAGED)):
            why = shown(getattr(error, "strerror", None) or error)
            raise ParcelError(
                f"The lessons could not be copied ({why}); nothing of them was kept."
            ) from error
        raise
    finally:
        shutil.rmtree(staged, ignore_errors=True)
        with contextlib.suppress(OSError):
            claim.release()
            Path(claim.lock_file).unlink(missing_ok=True)
            home.rmdir()
    return [_file_all(book, *one) for one in written]


def _person(db: Connection, manifest: Manifest) -> Student:
    """The student that lessons are of, as the Book has them; written where they are new."""
    known, revision = students.named(db, " ".join(manifest.student.name.split()))
    return known if revision else students.save(db, Student(name=known.name), 0)[0]


def _write(
    db: Connection, person: Student, manifest: Manifest, placed: Sequence[Path | None]
) -> tuple[Student, list[Lesson], Sequence[Path | None]]:
    """Write what a parcel says of a student and of the lessons."""
    known, revision = students.load(db, person.id)
    there = {
        path.name: str(path) for folder in placed if folder is not None for path in folder.glob(f"*{SUFFIX}")
    }
    sent = students.with_paths(manifest.student, lambda name: there.get(name, name))
    student, _ = students.save(db, _filled(known, sent), revision)
    kept = []
    for one in manifest.lessons:
        lesson, at = lessons.on_day(db, student.id, one.lesson.day)
        lesson, _ = lessons.save(db, _joined(lesson, one.lesson, new=at == 0), at)
        kept.append(lesson)
    return student, kept, placed


def _file_all(book: Book, student: Student, kept: list[Lesson], placed: Sequence[Path | None]) -> TakenIn:
    """File each swing where it lies now."""
    swings, troubles = 0, []
    for lesson, folder in zip(kept, placed, strict=True):
        for document in sorted(folder.glob(f"*{SUFFIX}")) if folder is not None else []:
            try:
                swings += file_document(book, document, student.id, lesson.id)
            except (KneelError, OSError) as error:
                troubles.append(f"{shown(document.name)} is there and not in any trend yet: {error}")
        if folder is not None:
            note_reviews(book, folder)
    return TakenIn(student.id, student.name, len(kept), swings, tuple(troubles))


def _filled(known: Student, sent: Student) -> Student:
    """A student of the Book with what a parcel knows besides; what both say stays as the Book has it."""
    both = merged(Student(name=known.name), replace(sent, id="", name=known.name), replace(known, id=""))
    plans = known.plans or sent.plans
    cues = tuple(dict.fromkeys((*known.tried, *sent.tried)))
    return replace(
        both.record, id=known.id, notes=both_texts(known.notes, sent.notes), plans=plans, tried=cues
    )


def _joined(known: Lesson, sent: Lesson, *, new: bool) -> Lesson:
    return replace(sent, id="", student=known.student) if new else joined(known, sent)


# Looking at what came.


def _manifest(source: LessonFiles, name: PurePosixPath) -> Manifest:
    try:
        raw = source.read(name, LARGEST_MANIFEST)
        version = msgspec.json.decode(raw, type=_Version).kneel
        if version > VERSION:
            raise ParcelError("These lessons are of a newer Kneel; take them in with that one.")
        found = msgspec.json.decode(raw, type=Manifest)
        students.demand_told(found.student)
        if not found.student.name.strip():
            raise ValueError("a student needs a name")
    except ParcelError:
        raise
    except TooLargeError as error:
        raise ParcelError(f"{MANIFEST} is larger than it can be; nothing was kept.") from error
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError, *DAMAGED) as error:
        raise ParcelError(f"{MANIFEST} is damaged, or none that Kneel wrote; nothing was kept.") from error
    days = [one.lesson.day for one in found.lessons]
    if len(set(days)) != len(days):
        raise ParcelError(f"{MANIFEST} has two lessons of one day; nothing was kept.")
    for one in found.lessons:
        _demand_plain(one.folder)
        seen = set()
        for file in one.files:
            _demand_plain(file.name)
            _demand_kind(file)
            if file.name.casefold() in seen:
                raise ParcelError(f"{shown(file.name)} stands twice in {MANIFEST}; nothing was kept.")
            seen.add(file.name.casefold())
    return found


class _Version(msgspec.Struct):
    kneel: int


def _demand_plain(name: str) -> None:
    """Raise ``ParcelError`` for a name that leads anywhere but into its own folder."""
    wrong = (
        name in ("", ".", "..")
        or name.startswith(".")
        or any(c in name for c in "/\\\0")
        or len(name.encode("utf-8", "surrogatepass")) > 240
    )
    if wrong:
        raise ParcelError(f"{MANIFEST} names {shown(name)!r}, which is no plain name; nothing was kept.")


def _demand_kind(file: SentFile) -> None:
    kind = next((ending for ending in ALLOWED if file.name.lower().endswith(ending)), None)
    if kind is None:
        raise ParcelError(f"{shown(file.name)} is nothing that belongs to a lesson; nothing was kept.")
    if not 0 <= file.size <= LARGEST.get(kind, LARGEST_FILE):
        raise ParcelError(f"{shown(file.name)} is larger than it can be; nothing was kept.")


def _stage(
    source: LessonFiles, folder: PurePosixPath, lesson: SentLesson, staged: Path, step: Callable[[], None]
) -> None:
    """Copy a lesson's files, each no longer than it says and with the hash it says."""
    into = staged / lesson.folder
    into.mkdir(mode=0o700, exist_ok=False)
    for file in lesson.files:
        name = folder / lesson.folder / file.name
        try:
            with source.open(name) as stream, (into / file.name).open("xb") as target:
                _pour(stream, target, file)
        except KeyError as error:
            raise ParcelError(f"{shown(file.name)} is named and not there; nothing was kept.") from error
        step()
    for document in into.glob(f"*{SUFFIX}"):
        _demand_own_files(document, into)
    for review in into.glob(f"*{REVIEW}"):
        demand_own(review)


def _pour(stream: IO[bytes], target: IO[bytes], file: SentFile) -> None:
    digest, left = hashlib.sha256(), file.size
    while part := stream.read(min(CHUNK, left + 1)):
        left -= len(part)
        if left < 0:
            break
        digest.update(part)
        target.write(part)
    if left != 0 or digest.hexdigest() != file.sha256:
        raise ParcelError(f"{shown(file.name)} is not what {MANIFEST} says of it; nothing was kept.")


def _demand_own_files(document: Path, folder: Path) -> None:
    """A document from elsewhere may name files of its own folder alone."""
    swing = load_swing(document)
    for take in swing.takes:
        for file in (take.clip, take.plate):
            if file is not None and Path(file.path).parent != folder.resolve():
                raise ParcelError(f"{shown(document.name)} names a file elsewhere; nothing was kept.")


def _place(staged: Path, one: SentLesson, home: Path, made: list[Path]) -> Path | None:
    """Put a staged lesson in its place, and note that in ``made``; one that lies there already, with the same
    content file by file, is taken as it is.
    """
    if not one.files:
        return None
    home.mkdir(mode=0o700, parents=True, exist_ok=True)
    target, number = home / one.lesson.day.isoformat(), 1
    while target.exists():
        if all(_same(target / file.name, file) for file in one.files):
            return target
        number += 1
        target = home / f"{one.lesson.day.isoformat()}-{number}"
    made.append(target)
    # Known to whoever sweeps, should this be the last that is heard of it.
    (staged / PLACED).write_text("\n".join(map(str, made)), encoding="utf-8")
    (staged / one.folder).rename(target)
    return target


def _same(path: Path, file: SentFile) -> bool:
    return path.is_file() and path.stat().st_size == file.size and hash_of(path) == file.sha256


def sweep(book: Book) -> None:
    """Take away what a program that was ended while taking in has left behind."""
    with contextlib.suppress(OSError):
        for staged in (book.folder / FOLDER).glob(f"{STAGED}*"):
            lock = staged.with_name(f"{staged.name}.lock")
            if staged.suffix == ".lock" or is_held(lock):
                continue
            for placed in staged.glob(f"*/{PLACED}"):
                _take_back(book, placed.read_text(encoding="utf-8").split("\n"))
            shutil.rmtree(staged, ignore_errors=True)
            lock.unlink(missing_ok=True)


def _take_back(book: Book, folders: Sequence[str]) -> None:
    """Remove folders that were put in their place for lessons that never came into the Book."""
    own = book.folder / FOLDER
    for folder in map(Path, folders):
        if not folder.is_relative_to(own) or not folder.is_dir():
            continue
        with book.reading() as db:
            wanted = select(lesson_table.c.day).where(
                lesson_table.c.student.startswith(folder.parent.name.rsplit("-", 1)[-1])
            )
            days = {row.day.isoformat() for row in db.execute(wanted)}
        if folder.name[:10] not in days:
            shutil.rmtree(folder, ignore_errors=True)
            with contextlib.suppress(OSError):
                folder.parent.rmdir()
