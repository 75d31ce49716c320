"""Taking in lessons from elsewhere, as a folder or a zip: looked at as hostile before a byte of it is kept.

Only what the manifest names is copied, each file within its bounds and with its hash, into a folder that
takes its place once it is whole; then the swings are filed anew, so that no stranger's number is believed.
"""

from __future__ import annotations

import contextlib
import hashlib
import shutil
import uuid
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import IO

import msgspec
from msgspec.structs import replace

from kneel.book import lessons, students
from kneel.book.filing import file_document
from kneel.book.merging import both_texts, joined, merged
from kneel.book.opening import Book
from kneel.book.sending import CHUNK, MANIFEST, VERSION, Manifest, SentFile, SentLesson, slug
from kneel.book.sources import MOST_FILES, Source, opened
from kneel.disk import TooLargeError, shown
from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.evidence.shelf import SIDECAR
from kneel.model import CLIP_SUFFIXES, KneelError, Lesson, ParcelError, Student

FOLDER = "lessons"
STAGED = ".incoming-"

LARGEST_MANIFEST = 16 << 20
LARGEST_FILE = 16 << 30
LARGEST_ALL = 64 << 30
MOST_STUDENTS = 200
ALLOWED = (SUFFIX, SIDECAR, ".csv", *CLIP_SUFFIXES)
LARGEST = {SUFFIX: 20 << 20, SIDECAR: 256 << 20, ".csv": 64 << 20}


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
        results, done = [], 0

        def step() -> None:
            nonlocal done
            done += 1
            progress(done, total)
            if stopped():
                raise InterruptedError

        for folder, manifest in told:
            results.append(_one(book, found, folder, manifest, step))
    return results


def _one(
    book: Book, source: Source, folder: PurePosixPath, manifest: Manifest, step: Callable[[], None]
) -> TakenIn:
    """A student's lessons: staged, put in place, and filed."""
    home = book.folder / FOLDER
    staged = home / f"{STAGED}{uuid.uuid4().hex}"
    try:
        staged.mkdir(mode=0o700, parents=True)
        for lesson in manifest.lessons:
            _stage(source, folder, lesson, staged, step)
        placed = [_place(staged, one, home / slug(manifest.student.name)) for one in manifest.lessons]
    except (OSError, zipfile.BadZipFile) as error:
        why = shown(getattr(error, "strerror", None) or error)
        raise ParcelError(f"The lessons could not be copied ({why}); nothing of them was kept.") from error
    finally:
        shutil.rmtree(staged, ignore_errors=True)
    return _write(book, manifest, placed)


def _write(book: Book, manifest: Manifest, placed: list[Path | None]) -> TakenIn:
    """Write student and lessons, then file each swing where it lies now."""
    with book.writing() as db:
        known, revision = students.named(db, " ".join(manifest.student.name.split()))
        there = {
            path.name: str(path)
            for folder in placed
            if folder is not None
            for path in folder.glob(f"*{SUFFIX}")
        }
        sent = students.with_paths(manifest.student, lambda name: there.get(name, name))
        student, _ = students.save(db, _filled(known, sent, new=revision == 0), revision)
        kept = []
        for one in manifest.lessons:
            lesson, at = lessons.on_day(db, student.id, one.lesson.day)
            lesson, _ = lessons.save(db, _joined(lesson, one.lesson, new=at == 0), at)
            kept.append(lesson)
    swings, troubles = 0, []
    for lesson, folder in zip(kept, placed, strict=True):
        for document in sorted(folder.glob(f"*{SUFFIX}")) if folder is not None else []:
            try:
                swings += file_document(book, document, student.id, lesson.id)
            except (KneelError, OSError) as error:
                troubles.append(f"{shown(document.name)} is there and not in any trend yet: {error}")
    return TakenIn(student.id, student.name, len(kept), swings, tuple(troubles))


def _filled(known: Student, sent: Student, *, new: bool) -> Student:
    """A student of the Book with what a parcel knows besides; what both say stays as the Book has it."""
    if new:
        return replace(sent, id="", name=known.name)
    both = merged(Student(name=known.name), replace(sent, id="", name=known.name), replace(known, id=""))
    plans = known.plans or sent.plans
    cues = tuple(dict.fromkeys((*known.tried, *sent.tried)))
    return replace(
        both.record, id=known.id, notes=both_texts(known.notes, sent.notes), plans=plans, tried=cues
    )


def _joined(known: Lesson, sent: Lesson, *, new: bool) -> Lesson:
    return replace(sent, id="", student=known.student) if new else joined(known, sent)


# Looking at what came.


def _manifest(source: Source, name: PurePosixPath) -> Manifest:
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
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError, zipfile.BadZipFile) as error:
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
    source: Source, folder: PurePosixPath, lesson: SentLesson, staged: Path, step: Callable[[], None]
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


def _place(staged: Path, one: SentLesson, home: Path) -> Path | None:
    """Put a staged lesson in its place; one that lies there already, file by file, is taken as it is."""
    if not one.files:
        return None
    home.mkdir(mode=0o700, parents=True, exist_ok=True)
    target, number = home / one.lesson.day.isoformat(), 1
    while target.exists():
        if {file.name: file.size for file in one.files}.items() <= {
            path.name: path.stat().st_size for path in target.iterdir()
        }.items():
            return target
        number += 1
        target = home / f"{one.lesson.day.isoformat()}-{number}"
    (staged / one.folder).rename(target)
    return target


def sweep(book: Book) -> None:
    """Take away what a program that was ended while taking in has left behind."""
    with contextlib.suppress(OSError):
        for staged in (book.folder / FOLDER).glob(f"{STAGED}*"):
            shutil.rmtree(staged, ignore_errors=True)
