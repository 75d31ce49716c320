"""Finding a filed swing's clip again: where it was, beside its document, or wherever another row knows it."""

from __future__ import annotations

from pathlib import Path

from kneel.book import swings
from kneel.book.opening import Book
from kneel.book.swings import Indexed
from kneel.documents.finding import clip_of
from kneel.documents.swing_file import load_swing
from kneel.footage.content import content_of
from kneel.model import KneelError


def find_clip(book: Book, one: Indexed) -> Path | None:
    """Where a swing's clip lies now, told by content; None where it is not found."""
    if _is(one.clip, one.content):
        return one.clip
    try:
        found = clip_of(load_swing(one.document), one.document)
    except KneelError:
        found = None
    if found is not None and _is(found, one.content):
        return found
    if not one.content:
        return None
    with book.reading() as db:
        others = swings.by_content(db, one.content)
    return next((other.clip for other in others if _is(other.clip, one.content)), None)


def _is(clip: Path, content: str) -> bool:
    try:
        return clip.is_file() and (not content or content_of(clip) == content)
    except (OSError, ValueError):
        return False
