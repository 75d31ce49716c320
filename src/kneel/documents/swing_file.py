"""Swing documents: ``*.swing.json``, versioned, validated, written atomically."""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import msgspec

from kneel.disk import TooLargeError, read_bounded, shown, write_bytes
from kneel.documents.draft import from_draft
from kneel.judge import at_hand
from kneel.model import SchoolGoneError, Swing, SwingFileError

VERSION = 1
SUFFIX = ".swing.json"
LARGEST_BYTES = 20 * 1024 * 1024
LONGEST_VALUE = 60
MOST_KEPT, WORTH_KEEPING_BYTES = 512, 128 * 1024
"""So many documents are kept as read, none of them longer than what a swing marked by hand takes."""

MISSING_SCHOOL = "Put the file of the school back, or name another school to judge it by."

# One entry per past version: turns its content into that of the next one.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel_swing: int
    swing: dict[str, Any]


def save_swing(path: str | Path, swing: Swing) -> str:
    """Write a swing; files it names are stored relative to the document. Gives its stamp.

    Raises :class:`SwingFileError`; the earlier document then stands untouched.
    """
    target = Path(path)
    raw = raw_swing(swing, target.parent)
    try:
        write_bytes(target, raw, private=True)
    except (OSError, ValueError) as error:
        raise SwingFileError(
            f"{shown(target.name)} could not be saved ({why(error)}); the last saved state stands. "
            "Free some space or save elsewhere."
        ) from error
    return stamp_of(raw)


def raw_swing(swing: Swing, folder: Path) -> bytes:
    """The bytes of a document that lies in ``folder``."""
    stored = with_paths(swing, lambda name: _relative(Path(name), folder))
    content = {"kneel_swing": VERSION, "swing": msgspec.to_builtins(stored)}
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"


def stamp_of(raw: bytes) -> str:
    """What tells one state of a document from any other."""
    return hashlib.sha256(raw).hexdigest()


def disk_stamp(path: Path) -> str | None:
    """The stamp of a document as it lies on the disk; None where there is none. Raises ``OSError``."""
    try:
        return stamp_of(read_bounded(path, LARGEST_BYTES))
    except FileNotFoundError:
        return None


def load_swing(path: str | Path, school: str = "") -> Swing:
    """Read a swing; paths of the files it names come back absolute. ``school`` judges it where its own is
    not known here.

    Raises :class:`SwingFileError` where the file is missing, too large, not
    valid, or of a newer program, :class:`SchoolGoneError` where nothing here can judge it.
    """
    return load_stamped(path, school)[0]


def load_stamped(path: str | Path, school: str = "") -> tuple[Swing, str]:
    """A swing as :func:`load_swing` gives it, with the stamp of the state that was read."""
    source = Path(path)
    raw = _raw(source)
    swing = parse_swing(raw, source.name)
    knowledge, trouble = at_hand()
    if swing.school not in knowledge.schools:
        if school not in knowledge.schools:
            raise SchoolGoneError(
                f"{shown(source.name)} is judged by the school “{shown(swing.school)}”, which this Kneel "
                f"does not have; it is untouched. {trouble or MISSING_SCHOOL}",
                source,
            )
        swing = msgspec.structs.replace(swing, school=school)
    return with_paths(swing, lambda name: _absolute(source.parent, name)), stamp_of(raw)


def peek(path: Path) -> Swing | None:
    """A swing as it lies in the file, paths and all; None where it cannot be read."""
    try:
        return parse_swing(_raw(path), path.name)
    except SwingFileError:
        return None


def parse_swing(raw: bytes, name: str) -> Swing:
    """The swing in the bytes of a document called ``name``. Raises :class:`SwingFileError`.

    A folder's documents are gone through for every clip that is opened; the same bytes are the same swing.
    """
    return (_known if len(raw) <= WORTH_KEEPING_BYTES else _parsed)(raw, name)


def _parsed(raw: bytes, name: str) -> Swing:
    name = shown(name)
    content: dict[str, Any] = {}
    try:
        envelope = msgspec.json.decode(raw, type=_Envelope)
        content, version = envelope.swing, envelope.kneel_swing
        if version > VERSION:
            raise SwingFileError(
                f"{name} was written by a newer Kneel; it is untouched, open it with that one."
            )
        while version < VERSION:
            content, version = UPGRADES[version](content), version + 1
        content = content if "takes" in content else from_draft(content)
        return msgspec.convert(content, Swing)
    except msgspec.ValidationError as error:
        raise SwingFileError(
            f"{name} holds what cannot be ({_place(str(error), content)}); it is untouched. "
            "Mend the document or open the clip itself to start anew."
        ) from error
    except (
        msgspec.MsgspecError,
        LookupError,
        TypeError,
        AttributeError,
        ValueError,
        RecursionError,
    ) as error:
        raise SwingFileError(
            f"{name} is not a swing file that can be read; it is untouched. "
            "Open the clip itself to start anew."
        ) from error


_known = lru_cache(MOST_KEPT)(_parsed)


def why(error: BaseException) -> str:
    """An error of the file system in a few words."""
    return shown(getattr(error, "strerror", None) or str(error))


def _raw(source: Path) -> bytes:
    try:
        return read_bounded(source, LARGEST_BYTES)
    except TooLargeError as error:
        raise SwingFileError(f"{shown(source.name)} is larger than a swing file can be.") from error
    except (OSError, ValueError) as error:
        raise SwingFileError(f"{shown(source.name)} cannot be read ({why(error)}).") from error


def _place(message: str, content: dict[str, Any]) -> str:
    """What is wrong, where in the document, and the value that stands there."""
    what, _, where = message.partition(" - at `$")
    if not where:
        return shown(what)
    path = where.rstrip("`").lstrip(".")
    value: Any = content
    try:
        for name, index in re.findall(r"\.?([^.\[\]]+)|\[(\d+)\]", path):
            value = value[name] if name else value[int(index)]
    except (LookupError, TypeError):
        return shown(f"{what}, at {path}")
    text = msgspec.json.encode(value).decode()
    text = text if len(text) <= LONGEST_VALUE else text[:LONGEST_VALUE] + " …"
    return shown(f"{what}, at {path}: {text}")


def with_paths(swing: Swing, change: Callable[[str], str]) -> Swing:
    """The swing with the path of every file it names changed."""
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
    """A path from a folder, as text that JSON can hold whatever bytes the name has."""
    try:
        path = os.path.relpath(os.path.realpath(file), os.path.realpath(folder))
    except ValueError:
        path = str(file)
    return path.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")


def _absolute(folder: Path, name: str) -> str:
    try:
        return os.path.realpath(folder / name)
    except (OSError, ValueError):
        return name
