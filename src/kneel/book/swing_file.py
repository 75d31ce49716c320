"""Swing documents: ``*.swing.json``, versioned, validated, written atomically."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from kneel.book.atomic import write_text
from kneel.model import CHECKPOINTS, POINTS, ClipRef, Swing, SwingFileError

VERSION = 1
SUFFIX = ".swing.json"
LARGEST_BYTES = 20 * 1024 * 1024

# One entry per past version: turns its content into that of the next one.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel_swing: int
    swing: dict[str, Any]


def swing_path(clip: Path, number: int | None = None) -> Path:
    """Where the document of a clip lies: beside it, under its name; ``number`` counts several swings.

    >>> swing_path(Path("range.mp4")).name, swing_path(Path("range.mp4"), 2).name
    ('range.swing.json', 'range.2.swing.json')
    """
    return clip.with_name(clip.stem + (f".{number}" if number else "") + SUFFIX)


def swings_of(clip: Path) -> list[Path]:
    """The documents of the several swings of one clip, in order; empty where it was never split."""
    found: list[Path] = []
    while (path := swing_path(clip, len(found) + 1)).exists():
        found.append(path)
    return found


def save_swing(path: str | Path, swing: Swing) -> None:
    """Write a swing; its clip is stored relative to the document.

    Raises :class:`SwingFileError`; the earlier document then stands untouched.
    """
    target = Path(path)
    if swing.clip is not None:
        moved = _replaced_path(swing.clip, _relative(Path(swing.clip.path), target.parent))
        swing = msgspec.structs.replace(swing, clip=moved)
    content = {"kneel_swing": VERSION, "swing": msgspec.to_builtins(swing)}
    try:
        write_text(target, msgspec.json.format(msgspec.json.encode(content), indent=1).decode() + "\n")
    except OSError as error:
        raise SwingFileError(
            f"{target.name} could not be saved ({error.strerror}); the last saved state stands. "
            "Free some space or save elsewhere."
        ) from error


def load_swing(path: str | Path) -> Swing:
    """Read a swing; its clip's path comes back absolute.

    Raises :class:`SwingFileError` where the file is missing, too large, not
    valid, or of a newer program.
    """
    source = Path(path)
    try:
        if source.stat().st_size > LARGEST_BYTES:
            raise SwingFileError(f"{source.name} is larger than a swing file can be.")
        raw = source.read_bytes()
    except OSError as error:
        raise SwingFileError(f"{source.name} cannot be read ({error.strerror}).") from error
    try:
        envelope = msgspec.json.decode(raw, type=_Envelope)
        content, version = envelope.swing, envelope.kneel_swing
        if version > VERSION:
            raise SwingFileError(
                f"{source.name} was written by a newer Kneel; it is untouched, open it with that one."
            )
        while version < VERSION:
            content, version = UPGRADES[version](content), version + 1
        swing = msgspec.convert(content, Swing)
    except (msgspec.MsgspecError, KeyError) as error:
        raise SwingFileError(
            f"{source.name} is not a swing file that can be read; it is untouched. "
            "Open the clip itself to start anew."
        ) from error
    _check(source, swing)
    if swing.clip is None:
        return swing
    return msgspec.structs.replace(
        swing, clip=_replaced_path(swing.clip, str((source.parent / swing.clip.path).resolve()))
    )


def _check(source: Path, swing: Swing) -> None:
    """Refuse points, checkpoints and numbers that mean nothing."""
    numbers = [v for m in swing.marks for v in (m.x, m.y, m.sigma)] + list(swing.pinned.values())
    sound = (
        all(m.point in POINTS and m.frame >= 0 and m.sigma > 0 for m in swing.marks)
        and all(name in CHECKPOINTS for name in swing.pinned)
        and all(abs(v) < 1e6 for v in numbers)
    )
    if not sound:
        raise SwingFileError(f"{source.name} holds marks or checkpoints that cannot be; it is untouched.")


def _replaced_path(clip: ClipRef, path: str) -> ClipRef:
    return msgspec.structs.replace(clip, path=path)


def _relative(clip: Path, folder: Path) -> str:
    try:
        return os.path.relpath(clip.resolve(), folder.resolve())
    except ValueError:
        return str(clip)
