"""Finding a filed swing's files again: where they were, beside each other, under a root that two machines
share, or wherever another row knows them. A clip is told by its content, never by its path alone.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from kneel.book.db.opening import Book
from kneel.book.repository import swings
from kneel.book.repository.swings import Indexed
from kneel.documents.finding import clip_of
from kneel.documents.swing_file import load_swing
from kneel.footage.content import content_of
from kneel.model import KneelError

ROOT = "KNEEL_CLIPS"
"""Names a folder under which lessons lie, for Books that several machines share."""

UP, DEEP = 3, 5
"""So many folders above the Book's are looked at, and so many of a path's last parts are tried in each."""


def find_clip(book: Book, one: Indexed) -> Path | None:
    """Where a swing's clip lies now, told by content; None where it is not found."""
    if _is(one.clip, one.content):
        return one.clip
    document = find_document(book, one)
    try:
        found = clip_of(load_swing(document), document) if document is not None else None
    except KneelError:
        found = None
    if found is not None and _is(found, one.content):
        return found
    if not one.content:
        return None
    with book.reading() as db:
        others = swings.by_content(db, one.content)
    known = (path for other in others for path in (other.clip, *_elsewhere(book, other.clip)))
    return next((path for path in known if _is(path, one.content)), None)


def lies(book: Book, one: Indexed) -> Path:
    """What to open of a swing: its document, else its clip, wherever they lie now."""
    return find_document(book, one) or find_clip(book, one) or one.clip


def find_document(book: Book, one: Indexed) -> Path | None:
    """Where a swing's document lies now; under another root only one that speaks of the same clip."""
    if one.document.is_file():
        return one.document
    return next((path for path in _elsewhere(book, one.document) if _speaks_of(path, one.content)), None)


def _elsewhere(book: Book, path: Path) -> Iterator[Path]:
    """Where the end of a path may lie under a root of this machine."""
    named = os.environ.get(ROOT, "").strip()
    roots = [Path(named).expanduser()] if named else []
    roots += [book.folder, *list(book.folder.parents)[:UP]]
    parts = path.parts[1:]
    for root in roots:
        for deep in range(min(DEEP, len(parts)), 0, -1):
            yield root.joinpath(*parts[-deep:])


def _speaks_of(document: Path, content: str) -> bool:
    if not content or not document.is_file():
        return False
    try:
        clip = load_swing(document).clip
    except KneelError:
        return False
    return clip is not None and clip.content == content


def _is(clip: Path, content: str) -> bool:
    try:
        return clip.is_file() and (not content or content_of(clip) == content)
    except (OSError, ValueError):
        return False
