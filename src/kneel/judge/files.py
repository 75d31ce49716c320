"""Files of knowledge: TOML of the program's or the instructor's own, and errors that name the line."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from importlib.resources.abc import Traversable
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from kneel.disk import TooLargeError, read_bounded, shown
from kneel.model import KnowledgeError

LARGEST = 1_000_000
"""A knowledge file larger than this many bytes is not read."""

LONGEST, MOST, DEEPEST = 4000, 2000, 8
"""Letters of a text, entries of a table, tables within tables."""

SAFE = "Nothing else is changed; mend the file, or take it away."

Kind = TypeVar("Kind", bound=msgspec.Struct)


@dataclass(frozen=True)
class KnowledgeFile:
    """One knowledge file: its name for people, and its text to find lines in."""

    name: str
    shown: str
    text: str

    def read(self, kind: type[Kind]) -> Kind:
        """The whole file as one entry. Raises :class:`KnowledgeError`."""
        return self.convert(self.tables(), kind)

    def tables(self) -> dict[str, Any]:
        """The file's tables by key. Raises :class:`KnowledgeError`."""
        try:
            found = dict(msgspec.toml.decode(self.text))
        except (msgspec.DecodeError, RecursionError, ValueError) as error:
            raise KnowledgeError(f"{self.shown} is not valid: {shown(error)}. {SAFE}") from error
        if not _plain(found):
            raise KnowledgeError(
                f"{self.shown} holds what is no knowledge: a number that is none, or far too much. {SAFE}"
            )
        return found

    def entries(self, kind: type[Kind]) -> Iterator[Kind]:
        """Each table as an entry that has its key. Raises :class:`KnowledgeError`."""
        for key, raw in self.tables().items():
            if not isinstance(raw, Mapping):
                raise self.wrong(f"{key} stands outside any table", key)
            yield self.convert({"key": key, **raw}, kind, key)

    def convert(self, raw: Mapping[str, Any], kind: type[Kind], key: str = "") -> Kind:
        try:
            return msgspec.convert(raw, kind, strict=False)
        except msgspec.ValidationError as error:
            where = re.search(r"\$\.([a-z_]+)", str(error))
            raise self.wrong(str(error).rstrip("."), where[1] if where else key, after=key) from error

    def wrong(self, what: str, text: str, *, after: str = "") -> KnowledgeError:
        """An error that names the line where ``text`` stands, at or after the table ``after``."""
        lines = self.text.splitlines()
        start = next((k for k, line in enumerate(lines) if line.startswith(f"[{after}]")), 0) if after else 0
        found = next((k for k, line in enumerate(lines) if k >= start and text in line), start)
        return KnowledgeError(f"{self.shown}, line {found + 1}: {what}. {SAFE}")


def knowledge_files(root: Traversable | Path, folder: str) -> Iterator[KnowledgeFile]:
    """The TOML files of a folder, by name; none where it is not there. Raises :class:`KnowledgeError`.

    >>> from importlib.resources import files
    >>> [one.name for one in knowledge_files(files("kneel.judge"), "schools")][0]
    'braced.toml'
    """
    place = root / folder
    if not place.is_dir():
        return
    for path in sorted(place.iterdir(), key=lambda p: p.name):
        if path.name.endswith(".toml"):
            yield knowledge_file(path, f"{folder}/{shown(path.name)}")


def knowledge_file(path: Traversable | Path, named: str) -> KnowledgeFile:
    """One file, ``named`` as people know it. Raises :class:`KnowledgeError`.

    >>> from importlib.resources import files
    >>> knowledge_file(files("kneel.judge") / "schools" / "centred.toml", "schools/centred.toml").shown
    'schools/centred.toml'
    """
    try:
        raw = read_bounded(path, LARGEST) if isinstance(path, Path) else path.read_bytes()
        return KnowledgeFile(path.name, named, raw.decode())
    except TooLargeError as error:
        raise KnowledgeError(f"{named} is too large for a file of knowledge. {SAFE}") from error
    except OSError as error:
        why = shown(error.strerror or error)
        raise KnowledgeError(f"{named} cannot be read ({why}). {SAFE}") from error
    except UnicodeDecodeError as error:
        raise KnowledgeError(f"{named} is not UTF-8 text. {SAFE}") from error


def _plain(value: object, deep: int = 0) -> bool:
    """Whether numbers are finite, and nothing is longer or deeper than knowledge is."""
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, str):
        return len(value) <= LONGEST
    if isinstance(value, Mapping | list):
        inner = [*value, *value.values()] if isinstance(value, Mapping) else value
        return deep < DEEPEST and len(inner) <= MOST and all(_plain(one, deep + 1) for one in inner)
    return not isinstance(value, int) or abs(value) < 10**9
