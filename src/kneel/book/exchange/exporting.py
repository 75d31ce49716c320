"""Lessons as folders: a student's clips, documents and what was followed, and a manifest of all of it.

    maren-tolhurst/
        student.kneel.json          who, the lessons, and every file with its size and hash
        2026-11-03/
            iron.mp4  iron.mp4.evidence  iron.swing.json

A zip of it is the same. Whoever takes it in has its verdicts at once, since what was followed comes along.
"""

from __future__ import annotations

import hashlib
import re
import shutil
import unicodedata
import zipfile
from collections.abc import Callable
from pathlib import Path

import msgspec
from msgspec.structs import replace

from kneel.book.db.opening import Book
from kneel.book.exchange.reviews import send_reviews
from kneel.book.index.clips import find_clip, find_document
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.swings import Indexed
from kneel.disk import free_path, replacing, shown, write_bytes
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing, why
from kneel.evidence.kept import kept_swing
from kneel.evidence.shelf import Shelf
from kneel.model import BookError, KneelError, Lesson, Student, Take
from kneel.model.take import Record

VERSION = 1
MANIFEST = "student.kneel.json"
CHUNK = 1 << 20


class SentFile(Record, frozen=True):
    """A file of a lesson: its name within the lesson's folder, its size and its SHA-256."""

    name: str
    size: int
    sha256: str


class SentLesson(Record, frozen=True):
    """A lesson, the folder it lies in, and its files."""

    lesson: Lesson
    folder: str
    files: tuple[SentFile, ...] = ()


class Manifest(Record, frozen=True):
    """What a student's folder holds."""

    kneel: int
    student: Student
    lessons: tuple[SentLesson, ...] = ()


def slug(name: str) -> str:
    """A name as a folder is called.

    >>> slug("Ébba  Quill"), slug("…")
    ('ebba-quill', 'student')
    """
    plain = unicodedata.normalize("NFKD", name.casefold()).encode("ascii", "ignore").decode()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "student"


def folder_name(name: str, key: str) -> str:
    """A student's folder: two who are written alike in plain letters, or not at all, have two.

    >>> folder_name("Ébba Quill", "3f2a9c1d77"), folder_name("陈", "9b1c04aa12")
    ('ebba-quill-3f2a9c1d', 'student-9b1c04aa')
    """
    return f"{slug(name)}-{key[:8]}"


def export(
    book: Book,
    student: str,
    into: Path,
    *,
    only: str = "",
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Path:
    """Write a student's lessons (or the one whose id is ``only``) as a folder in ``into``; gives the folder.

    Clips that are not found are left out; their numbers stay with the lesson's words. Raises ``BookError``.
    """
    with book.reading() as db:
        person, _ = students.load(db, student)
        told = [(one, swings.of_lesson(db, one.id)) for one, _ in lessons.of_student(db, student)]
    told = [(one, rows) for one, rows in reversed(told) if only in ("", one.id)]
    target = _free(into / folder_name(person.name, person.id))
    total = sum(len(rows) for _, rows in told)
    done = 0
    try:
        target.mkdir(mode=0o700, parents=True)
        sent = []
        for lesson, rows in told:
            folder = _free(target / lesson.day.isoformat())
            folder.mkdir(mode=0o700)
            went: dict[Path, tuple[Path, Path | None]] = {}
            for row in rows:
                if stopped():
                    raise InterruptedError
                progress(done, total)
                done += 1
                went |= _send(book, row, folder)
            send_reviews(book, went, folder)
            files = tuple(_described(path) for path in sorted(folder.iterdir()))
            sent.append(SentLesson(lesson, folder.name, files))
        # Where the swings of plans lie here is nobody's matter there.
        here = students.with_paths(person, lambda path: Path(path).name)
        _write(target / MANIFEST, Manifest(VERSION, here, tuple(sent)))
    except BaseException as error:
        shutil.rmtree(target, ignore_errors=True)
        if isinstance(error, InterruptedError) or not isinstance(error, OSError | KneelError):
            raise
        words = str(error) if isinstance(error, KneelError) else why(error)
        raise BookError(
            f"{shown(person.name)} could not be written to {shown(into)} ({words.rstrip('.')}); "
            "nothing is left there, and the Book is untouched."
        ) from error
    return target


def zipped(folder: Path, path: Path) -> None:
    """A student's folder as a zip; clips are stored as they are. Raises ``OSError``."""
    with replacing(path, private=True) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as packed:
        for file in sorted(folder.rglob("*")):
            if file.is_file():
                packed.write(file, Path(folder.name) / file.relative_to(folder))


def _send(book: Book, row: Indexed, folder: Path) -> dict[Path, tuple[Path, Path | None]]:
    """Copy a swing: document, clips, what was followed, and a plate's trace; gives where document and clip
    went.

    A file that is not found is named where it would lie, so that no document leads out of its folder.
    """
    document = find_document(book, row)
    if document is None:
        return {}
    swing = load_swing(document)
    clip = find_clip(book, row)
    takes = [_placed(take, clip if k == 0 else None, folder) for k, take in enumerate(swing.takes)]
    own = folder / _own_name(folder, document.name)
    save_swing(own, replace(swing, takes=tuple(takes)))
    placed = takes[0].clip
    went = {document: (own, Path(placed.path) if placed is not None else None)}
    if clip is None or swing.clip is None:
        return went
    shelves = [
        Shelf(clip),
        *(Shelf(Path(take.clip.path)) for take in swing.takes[1:] if take.clip is not None),
    ]
    try:
        known = kept_swing(document, *shelves)
    except KneelError:
        known = None
    for shelf, take, sent in zip(shelves, swing.takes, takes, strict=False):
        if known is not None and take.clip is not None and sent.clip is not None:
            shelf.carry(Path(sent.clip.path), take.clip.content)
    return went


def _placed(take: Take, clip: Path | None, folder: Path) -> Take:
    """A take whose files lie in a folder: copied there, from ``clip`` where its own moved there."""
    placed = {}
    for name in ("clip", "plate"):
        file = getattr(take, name)
        if file is None:
            continue
        source = clip if name == "clip" and clip is not None else Path(file.path)
        target = _target(source, folder)
        if source.is_file() and not target.exists():
            shutil.copyfile(source, target)
        placed[name] = replace(file, path=str(target))
    return take.with_(**placed)


def _target(source: Path, folder: Path) -> Path:
    """Where a file goes: two that are called alike and are not the same have names by their content."""
    target = folder / source.name
    if not target.exists() or not source.is_file():
        return target
    mine = hash_of(source)
    if hash_of(target) == mine:
        return target
    return folder / f"{source.stem}-{mine[:8]}{source.suffix}"


def _own_name(folder: Path, name: str) -> str:
    stem = name.removesuffix(SUFFIX)
    number = 1
    while (folder / name).exists():
        number += 1
        name = f"{stem}.{number}{SUFFIX}"
    return name


def _described(path: Path) -> SentFile:
    return SentFile(path.name, path.stat().st_size, hash_of(path))


def hash_of(path: Path) -> str:
    """The SHA-256 of a file. Raises ``OSError``."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while part := file.read(CHUNK):
            digest.update(part)
    return digest.hexdigest()


def _write(path: Path, manifest: Manifest) -> None:
    write_bytes(path, msgspec.json.format(msgspec.json.encode(manifest), indent=1) + b"\n", private=True)


def _free(path: Path) -> Path:
    """A path that nothing has yet."""
    return free_path(path.parent, lambda number: f"{path.name}-{number}" if number > 1 else path.name)
