"""Swing documents: ``*.swing.json``, versioned, validated, written atomically."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from kneel.book.atomic import write_text
from kneel.book.draft import from_draft
from kneel.judge import schools
from kneel.model import Swing, SwingFileError

VERSION = 1
SUFFIX = ".swing.json"
LARGEST_BYTES = 20 * 1024 * 1024

# One entry per past version: turns its content into that of the next one.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel_swing: int
    swing: dict[str, Any]


def save_swing(path: str | Path, swing: Swing) -> None:
    """Write a swing; files it names are stored relative to the document.

    Raises :class:`SwingFileError`; the earlier document then stands untouched.
    """
    target = Path(path)
    stored = _with_paths(swing, lambda name: _relative(Path(name), target.parent))
    content = {"kneel_swing": VERSION, "swing": msgspec.to_builtins(stored)}
    try:
        write_text(target, msgspec.json.format(msgspec.json.encode(content), indent=1).decode() + "\n")
    except OSError as error:
        raise SwingFileError(
            f"{target.name} could not be saved ({error.strerror}); the last saved state stands. "
            "Free some space or save elsewhere."
        ) from error


def load_swing(path: str | Path) -> Swing:
    """Read a swing; paths of the files it names come back absolute.

    Raises :class:`SwingFileError` where the file is missing, too large, not
    valid, or of a newer program.
    """
    source = Path(path)
    swing = _read(source)
    if swing.school not in schools():
        raise SwingFileError(
            f"{source.name} is judged by the school “{swing.school}”, which this Kneel does not have; "
            "it is untouched. Put the school's file back, or change the name in the document."
        )
    return _with_paths(swing, lambda name: str((source.parent / name).resolve()))


def peek(path: Path) -> Swing | None:
    """A swing as it lies in the file, paths and all; None where it cannot be read."""
    try:
        return _read(path)
    except SwingFileError:
        return None


def _read(source: Path) -> Swing:
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
        return msgspec.convert(content if "takes" in content else from_draft(content), Swing)
    except msgspec.ValidationError as error:
        what = str(error).split(" - at")[0]
        raise SwingFileError(
            f"{source.name} holds what cannot be ({what}); it is untouched. "
            "Open the clip itself to start anew."
        ) from error
    except (msgspec.MsgspecError, KeyError, TypeError, AttributeError) as error:
        raise SwingFileError(
            f"{source.name} is not a swing file that can be read; it is untouched. "
            "Open the clip itself to start anew."
        ) from error


def _with_paths(swing: Swing, change: Callable[[str], str]) -> Swing:
    """The swing with every path of a file changed."""
    takes = []
    for take in swing.takes:
        named = {name: getattr(take, name) for name in ("clip", "plate")}
        takes.append(
            take.with_(
                **{
                    name: msgspec.structs.replace(file, path=change(file.path))
                    for name, file in named.items()
                    if file is not None
                }
            )
        )
    return msgspec.structs.replace(swing, takes=tuple(takes))


def _relative(file: Path, folder: Path) -> str:
    try:
        return os.path.relpath(file.resolve(), folder.resolve())
    except ValueError:
        return str(file)
