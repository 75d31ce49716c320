"""Which documents belong to a clip: those that name it, by size and content, whatever they are called."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from kneel.book.swing_file import SUFFIX, peek
from kneel.footage.content import content_of
from kneel.model import ClipRef, Swing

MOST_READ = 2000
"""A folder holds a season's documents at most; more are not looked through."""


def documents_of(clip: Path) -> list[Path]:
    """The documents beside a clip that name it, in the order of their spans.

    A document tells its clip by size and content, so it is found though the
    clip was renamed; one written before that was kept, by size and name.
    """
    return documents_by_clip([clip])[clip]


def documents_by_clip(clips: Sequence[Path]) -> dict[Path, list[Path]]:
    """The same for the clips of one folder; every document is read once."""
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
        except OSError:
            continue
        own = [(path, swing) for path, swing in swings if _names(swing, clip, size)]
        own.sort(key=lambda one: (one[1].take.start, _natural(one[0].name)))
        found[clip] = [path for path, _ in own]
    return found


def free_document(clip: Path, number: int | None = None) -> Path:
    """Where a new document for a clip goes: beside it, under a name that no other document has.

    ``number`` counts several swings of one clip.
    """
    tail = (f".{number}" if number else "") + SUFFIX
    path = clip.with_name(clip.stem + tail)
    if path.exists():
        path = clip.with_name(clip.name + tail)
    again = 2
    while path.exists():
        path = clip.with_name(f"{clip.name}.{again}{tail}")
        again += 1
    return path


def clip_of(swing: Swing, document: Path) -> Path | None:
    """The clip a loaded document names, or the one beside the document with its content, or None."""
    if swing.clip is None:
        return None
    named = Path(swing.clip.path)
    if named.is_file():
        return named
    try:
        beside = [p for p in sorted(document.parent.iterdir()) if p.is_file()]
    except OSError:
        return None
    return next((p for p in beside if swing.clip.content and is_clip(swing.clip, p)), None)


def is_clip(known: ClipRef, clip: Path) -> bool:
    """Whether a file is the clip a document knows; what it does not know is not held against it."""
    try:
        size = clip.stat().st_size
        if known.size_bytes and known.size_bytes != size:
            return False
        return not known.content or known.content == content_of(clip)
    except OSError:
        return False


def _names(swing: Swing, clip: Path, size: int) -> bool:
    for take in swing.takes:
        known = take.clip
        if known is None:
            continue
        if known.content:
            if known.size_bytes == size and is_clip(known, clip):
                return True
        elif known.size_bytes in (0, size) and Path(known.path).name == clip.name:
            return True
    return False


def _natural(name: str) -> list[tuple[int, str]]:
    """A key by which swing 10 comes after swing 9."""
    return [(int(part), "") if part.isdigit() else (0, part) for part in re.split(r"(\d+)", name)]
