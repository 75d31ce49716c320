"""The files of a swing that is purged: what Kneel made of it goes, what is others' stays and is told."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from kneel.book.db.opening import Book
from kneel.book.exchange.importing import FOLDER
from kneel.book.index.clips import find_clip
from kneel.book.index.made import made_of, noted_of
from kneel.book.repository import swings
from kneel.book.repository.search_text import golfer_name, name_key
from kneel.book.repository.swings import Indexed
from kneel.documents import recovery
from kneel.documents.finding import documents_of, linked_to
from kneel.documents.glance_file import forget_glance
from kneel.documents.keeper import put_beside
from kneel.documents.sight_file import forget_sight
from kneel.documents.swing_file import load_swing
from kneel.documents.thumb_file import forget_thumbs
from kneel.evidence.kept import kept_swing
from kneel.evidence.shelf import Shelf, sidecar
from kneel.model import CLIP_SUFFIXES, PHOTO_SUFFIXES, KneelError, Swing

KEPT = "kept"
"""The folder beside the clips in which the desk keeps pages, stills and slow clips."""


@dataclass(frozen=True)
class Forgotten:
    """Which files went, and which were left where they are."""

    gone: tuple[Path, ...]
    left: tuple[Path, ...]


def forgotten(book: Book, row: Indexed, names: frozenset[str], going: Sequence[Indexed]) -> Forgotten:
    """Take away all that Kneel made of a swing of somebody known by ``names``; ``going`` are the swings that
    go with it. A document that somebody has made another's since is theirs, and stays.
    """
    document = row.document
    swing = _loaded(document)
    if swing is not None and (name := golfer_name(swing.golfer)) and name_key(name) not in names:
        return Forgotten((), ())
    gone: list[Path] = []
    left: list[Path] = []
    clip = find_clip(book, row)
    if clip is not None:
        gone += _told_by_name(book, clip, document)
        if not _others(book, row, going):
            gone += _seen_in(clip, document, 0)
            (gone if _own(book, clip) else left).append(clip)
    for which, take in enumerate(swing.takes if swing is not None else ()):
        for file in (take.clip, take.plate):
            path = Path(file.path) if file is not None else None
            if (
                path is not None
                and path.is_file()
                and path not in (clip, *left)
                and not _shared(path, document)
            ):
                (gone if _own(book, path) else left).append(path)
                if file is take.clip:
                    gone += _seen_in(path, document, which)
    gone += [*made_of(book, document), *put_beside(document), document]
    forget_glance(document)
    forget_sight(document)
    recovery.purge(document)
    for path in gone:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
    for folder in dict.fromkeys(path.parent for path in gone):
        for empty in (folder / KEPT, folder, folder.parent):
            if _own(book, empty):
                with contextlib.suppress(OSError):
                    empty.rmdir()
    return Forgotten(tuple(gone), tuple(left))


def _seen_in(clip: Path, document: Path, take: int) -> list[Path]:
    """Forget all that was seen in the clip of a document's take; the file beside it is to go, too."""
    shelves = [Shelf(clip) if k == take else None for k in range(2)]
    with contextlib.suppress(KneelError, OSError):
        kept_swing(document, *shelves)
    for shelf in shelves:
        if shelf is not None:
            shelf.forget()
    forget_thumbs(clip)
    return [sidecar(clip)]


def _loaded(document: Path) -> Swing | None:
    try:
        return load_swing(document)
    except KneelError:
        return None


def _own(book: Book, path: Path) -> bool:
    """Whether a file lies in Kneel's own folder."""
    return path.resolve().is_relative_to((book.folder / FOLDER).resolve())


def _others(book: Book, row: Indexed, going: Sequence[Indexed]) -> bool:
    """Whether another swing of the Book is in the same clip, and stays."""
    known = {one.document for one in going}
    with book.reading() as db:
        return any(one.document not in known for one in swings.by_content(db, row.content))


def _shared(path: Path, document: Path) -> bool:
    """Whether another document beside it speaks of a film."""
    films = (*CLIP_SUFFIXES, *PHOTO_SUFFIXES)
    return path.suffix.lower() in films and any(
        one != document for one in (*documents_of(path), *linked_to(path))
    )


def _told_by_name(book: Book, clip: Path, document: Path) -> list[Path]:
    """What was made of a swing without a note of it: named like its clip and like no other one there."""
    if any(other != document for other in (*documents_of(clip), *linked_to(clip))):
        return []
    try:
        stems = [path.stem for path in clip.parent.iterdir() if path.suffix.lower() in CLIP_SUFFIXES]
        kept = [path for path in (clip.parent / KEPT).iterdir() if path.is_file()]
    except OSError:
        return []
    found = []
    for path in kept:
        fits = [stem for stem in (*stems, clip.stem) if path.name.startswith(f"{stem} ")]
        if max(fits, key=len, default="") == clip.stem:
            noted = noted_of(book, path)
            if not noted or document in noted:
                found.append(path)
    return found
