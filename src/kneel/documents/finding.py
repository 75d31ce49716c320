"""Which documents belong to a clip: those that name it, by size and content, whatever they are called."""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Sequence
from pathlib import Path

from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX, peek
from kneel.footage.content import content_of
from kneel.model import CLIP_SUFFIXES, ClipRef, Swing, SwingFileError

MOST_READ = 2000
"""A folder holds a season's documents at most; more are not looked through."""

LONGEST_NAME = 240
"""Bytes of a document's name; most file systems take 255."""


def documents_of(clip: Path) -> list[Path]:
    """The documents beside a clip that name it first, in the order of their spans.

    A document tells its clip by size and content, so it is found though the
    clip was renamed; one written before that was kept, by size and name.
    """
    return documents_by_clip([clip])[clip]


def linked_to(clip: Path) -> list[Path]:
    """The documents beside a clip that name it as the second camera's of their swing."""
    return documents_by_clip([clip], take=1)[clip]


def documents_by_clip(clips: Sequence[Path], *, take: int = 0) -> dict[Path, list[Path]]:
    """The same for the clips of one folder, as the first or the second take; every document is read once."""
    found: dict[Path, list[Path]] = {clip: [] for clip in clips}
    if not clips:
        return found
    try:
        beside = sorted(clips[0].parent.glob(f"*{SUFFIX}"))[:MOST_READ]
    except OSError:
        return found
    swings = [(path, swing) for path in beside if (swing := peek(path)) is not None]
    for clip in clips:
        try:
            size = clip.stat().st_size
        except (OSError, ValueError):
            continue
        own = [(path, swing) for path, swing in swings if _names(swing, clip, size, take)]
        own.sort(key=lambda one: (one[1].take.start, _natural(one[0].name)))
        found[clip] = [path for path, _ in own]
    return found


def free_document(clip: Path, number: int | None = None) -> Path:
    """Where a new document for a clip goes: beside it, under a name that no other document has.

    ``number`` counts several swings of one clip.
    """
    tail = (f".{number}" if number else "") + SUFFIX
    names = [] if _has_namesake(clip) else [clip.stem]
    for name in (*names, clip.name, *(f"{clip.name}.{again}" for again in range(2, MOST_READ))):
        path = clip.with_name(_short(name, tail) + tail)
        if not path.exists():
            return path
    raise SwingFileError(f"There are too many documents beside {shown(clip.name)}.")


def others_document(clip: Path) -> Path | None:
    """A document called as this clip's would be, made on another clip: one that was replaced or cut."""
    for name in (clip.stem, clip.name):
        path = clip.with_name(_short(name, SUFFIX) + SUFFIX)
        swing = peek(path) if path.is_file() else None
        known = swing.clip if swing else None
        if known is not None and Path(known.path).name == clip.name and not is_clip(known, clip):
            return path
    return None


def _has_namesake(clip: Path) -> bool:
    """Whether another clip beside it differs in its ending alone: they cannot share a document."""
    try:
        beside = [p for p in clip.parent.iterdir() if p.stem == clip.stem and p.name != clip.name]
    except OSError:
        return False
    return any(p.suffix.lower() in CLIP_SUFFIXES for p in beside)


def _short(name: str, tail: str) -> str:
    """A name that leaves room for a tail; one cut short is told from others by its own hash."""
    raw = os.fsencode(name)
    if len(raw) + len(tail) <= LONGEST_NAME:
        return name
    token = hashlib.sha256(raw).hexdigest()[:8]
    kept = raw[: LONGEST_NAME - len(tail) - len(token) - 1].decode("utf-8", "ignore")
    return f"{kept}~{token}"


def clip_of(swing: Swing, document: Path) -> Path | None:
    """The clip a loaded document was made on, else whatever lies where it names it, or None."""
    if swing.clip is None:
        return None
    named = Path(swing.clip.path)
    there = named.is_file()
    if there and is_clip(swing.clip, named):
        return named
    try:
        beside = [p for p in sorted(document.parent.iterdir()) if p.is_file()]
    except OSError:
        beside = []
    same = next((p for p in beside if swing.clip.content and is_clip(swing.clip, p)), None)
    return same or (named if there else None)


def is_clip(known: ClipRef, clip: Path) -> bool:
    """Whether a file is the clip a document knows; what it does not know is not held against it."""
    try:
        size = clip.stat().st_size
        if known.size_bytes and known.size_bytes != size:
            return False
        return not known.content or known.content == content_of(clip)
    except (OSError, ValueError):
        return False


def _names(swing: Swing, clip: Path, size: int, take: int) -> bool:
    known = swing.takes[take].clip if take < len(swing.takes) else None
    if known is None:
        return False
    if known.content:
        return known.size_bytes == size and is_clip(known, clip)
    return known.size_bytes in (0, size) and Path(known.path).name == clip.name


def _natural(name: str) -> list[tuple[int, str]]:
    """A key by which swing 10 comes after swing 9."""
    return [(int(part), "") if part.isdigit() else (0, part) for part in re.split(r"(\d+)", name)]
