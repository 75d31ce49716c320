"""Spoken reviews that go with a lesson: those that show its swings and nobody else's, with their voices."""

from __future__ import annotations

import shutil
from collections.abc import Mapping
from pathlib import Path

from msgspec.structs import replace

from kneel.book.db.opening import Book
from kneel.book.index.made import made_of, note_made
from kneel.model import KneelError, ParcelError
from kneel.model.review import Review, SpokenTake
from kneel.review.file import SUFFIX, files_of, load_review, save_review

VOICES = (".wav", ".mp3", ".m4a", ".flac", ".ogg", ".opus")
"""What a voice may be."""


def reviews_of(book: Book, document: Path) -> list[Path]:
    """The reviews that show a document's swing. Raises ``BookError``."""
    return [path for path in made_of(book, document) if path.name.endswith(SUFFIX) and path.is_file()]


def send_reviews(book: Book, sent: Mapping[Path, tuple[Path, Path | None]], folder: Path) -> None:
    """Copy the reviews of a lesson's swings; ``sent`` maps each document to where it and its clip went. One
    that shows another swing too stays: it is not this lesson's alone to send.
    """
    for path in dict.fromkeys(one for document in sent for one in reviews_of(book, document)):
        try:
            review = load_review(path)
        except KneelError:
            continue
        if not review.swings or any(Path(one.document) not in sent for one in review.swings):
            continue
        swings = []
        for one in review.swings:
            document, clip = sent[Path(one.document)]
            there = str(clip) if clip is not None else one.clip.path
            swings.append(replace(one, document=str(document), clip=replace(one.clip, path=there)))
        takes = tuple(_sent(one, folder) for one in review.takes)
        save_review(folder / path.name, replace(review, swings=tuple(swings), takes=takes))


def _sent(take: SpokenTake, folder: Path) -> SpokenTake:
    """A take whose voice lies in a folder."""
    if take.voice is None:
        return take
    source = Path(take.voice.path)
    target = folder / source.name
    if source.is_file() and not target.exists():
        shutil.copyfile(source, target)
    return replace(take, voice=replace(take.voice, path=str(target)))


def demand_own(path: Path) -> None:
    """Raise ``ParcelError`` where a review from elsewhere names files of another folder, or is none."""
    try:
        review = load_review(path)
    except KneelError as error:
        raise ParcelError(f"{error} Nothing was kept.") from error
    for name in _named(review):
        if Path(name).parent != path.parent.resolve():
            raise ParcelError(f"{path.name} names a file elsewhere; nothing was kept.")


def _named(review: Review) -> list[str]:
    voices = [take.voice.path for take in review.takes if take.voice is not None]
    return [*(one.document for one in review.swings), *(one.clip.path for one in review.swings), *voices]


def note_reviews(book: Book, folder: Path) -> None:
    """Have it known of which swings the reviews of a folder are. Raises ``BookError``."""
    for path in sorted(folder.glob(f"*{SUFFIX}")):
        try:
            review = load_review(path)
        except KneelError:
            continue
        documents = [Path(one.document) for one in review.swings]
        for file in files_of(path, review):
            note_made(book, file, *documents)
