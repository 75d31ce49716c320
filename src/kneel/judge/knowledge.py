"""All schools and faults as one: read from TOML, an instructor's own files laid over, checked as a whole."""

from __future__ import annotations

import graphlib
import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path
from typing import Any

import msgspec
import platformdirs

from kneel.judge.records import Check, Fault, School, Support, Window
from kneel.model import CHECKPOINTS, KnowledgeError, UsageError
from kneel.motion.measures import REGISTRY, Domain

ONCE = "once"
"""Where a window or check of what is told once a swing stands."""

LARGEST = 1_000_000
"""A knowledge file larger than this many bytes is not read."""

FIELDS = {"size": "", "value": "", "checkpoint": "", "share": ""}
"""What a sentence may ask for."""


@dataclass(frozen=True)
class Knowledge:
    """Schools and faults by key; ``order`` is that of the faults, causes before what they lead to."""

    schools: Mapping[str, School]
    faults: Mapping[str, Fault]
    order: tuple[str, ...]

    def school(self, key: str) -> School:
        """The school of that key. Raises :class:`UsageError` where there is none."""
        if key not in self.schools:
            raise UsageError(f"There is no school “{key}”; choose one of {', '.join(self.schools)}.")
        return self.schools[key]


@cache
def shipped() -> Knowledge:
    """What comes with the program."""
    return load()


@cache
def known() -> Knowledge:
    """What the program judges by: what it came with, and the instructor's own files over it."""
    folder = own_folder()
    return load(folder) if folder.is_dir() else shipped()


@cache
def at_hand() -> tuple[Knowledge, str]:
    """What a desk judges by: :func:`known`, or what is shipped, and what is wrong with an own file."""
    try:
        return known(), ""
    except KnowledgeError as error:
        return shipped(), f"{error} Until then Kneel judges by what it came with."


def own_folder() -> Path:
    """Where an instructor's own schools and faults lie: ``schools/*.toml`` and ``faults/*.toml`` in it."""
    return platformdirs.user_config_path("kneel") / "knowledge"


def load(own: Path | None = None) -> Knowledge:
    """Read the shipped files and those of ``own``, which stand over them.

    Raises :class:`KnowledgeError`, with file and line, for the first thing that is wrong.
    """
    here = files("kneel.judge")
    schools: dict[str, tuple[School, _File]] = {}
    faults: dict[str, tuple[Fault, _File]] = {}
    for root in (here, *([own] if own else [])):
        for file in _files(root, "schools"):
            entry = file.read(School)
            if f"{entry.key}.toml" != file.name:
                raise file.wrong(f"calls itself {entry.key}", "key")
            schools[entry.key] = entry, file
        for file in _files(root, "faults"):
            for key, raw in file.tables().items():
                faults[key] = file.convert({"key": key} | raw, Fault, key), file
    for fault, file in faults.values():
        _demand_fault(fault, file, faults)
    whole = {key: _whole(key, schools) for key in schools}
    plain = {key: fault for key, (fault, _) in faults.items()}
    return Knowledge(
        {key: entry for key, entry in whole.items() if not entry.common}, plain, _ordered(faults)
    )


@dataclass(frozen=True)
class _File:
    """One knowledge file: its name for people, and its text to find lines in."""

    name: str
    shown: str
    text: str

    def read(self, kind: type[School]) -> School:
        return self.convert(self.tables(), kind)

    def tables(self) -> dict[str, Any]:
        try:
            return dict(msgspec.toml.decode(self.text))
        except msgspec.DecodeError as error:
            raise KnowledgeError(f"{self.shown} is not valid: {error}. {SAFE}") from error

    def convert(self, raw: Mapping[str, Any], kind: type[Any], key: str = "") -> Any:
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


SAFE = "Nothing else is changed; mend the file, or take it away."


def _files(root: Traversable | Path, folder: str) -> Iterator[_File]:
    place = root / folder
    if not place.is_dir():
        return
    for path in sorted(place.iterdir(), key=lambda p: p.name):
        if path.name.endswith(".toml"):
            raw = path.read_bytes()
            shown = f"{folder}/{path.name}"
            if len(raw) > LARGEST:
                raise KnowledgeError(f"{shown} is too large for a file of knowledge. {SAFE}")
            try:
                yield _File(path.name, shown, raw.decode())
            except UnicodeDecodeError as error:
                raise KnowledgeError(f"{shown} is not UTF-8 text. {SAFE}") from error


def _whole(key: str, schools: Mapping[str, tuple[School, _File]], under: tuple[str, ...] = ()) -> School:
    """A school with the windows of the one it is based on, its own first."""
    entry, file = schools[key]
    for window in entry.window:
        _demand_window(window, file)
    if not entry.based_on:
        return entry
    if entry.based_on not in schools or entry.based_on in (*under, key):
        raise file.wrong(f"there is no school “{entry.based_on}” to stand on", "based_on")
    base = _whole(entry.based_on, schools, (*under, key))
    own = {(w.measure, at, club) for w in entry.window for at in w.at for club in (w.club or (None,))}
    kept = []
    for window in base.window:
        clubs = window.club or (None,)
        # A window of one's own for all clubs stands for every club of the base's.
        at = tuple(
            a
            for a in window.at
            if not any((window.measure, a, c) in own or (window.measure, a, None) in own for c in clubs)
        )
        if at:
            kept.append(msgspec.structs.replace(window, at=at))
    return msgspec.structs.replace(entry, window=(*entry.window, *kept))


def _demand_window(window: Window, file: _File) -> None:
    _demand_asked(window.measure, window.at, file)
    if window.margin <= 0:
        raise file.wrong(f"the window of {window.measure} needs a margin above zero", window.measure)
    if window.lo is None and window.hi is None:
        raise file.wrong(f"the window of {window.measure} has no limit", window.measure)
    if window.lo is not None and window.hi is not None and window.lo >= window.hi:
        raise file.wrong(f"the window of {window.measure} is empty", window.measure)


def _demand_fault(fault: Fault, file: _File, faults: Mapping[str, tuple[Fault, _File]]) -> None:
    asked: Iterable[Check | Support] = (*fault.check, *fault.support)
    for one in asked:
        _demand_asked(one.measure, one.at, file, fault.key)
        try:
            one.says.format(**FIELDS)
        except (KeyError, IndexError, ValueError) as error:
            raise file.wrong(f"a sentence asks for {error}, which there is not", one.says[:20]) from error
    for check in fault.check:
        if check.own is not None:
            _demand_window(check.own, file)
    if not fault.check:
        raise file.wrong(f"{fault.key} has nothing that decides it", fault.key)
    for other in (*fault.explains, *fault.not_while):
        if other not in faults:
            raise file.wrong(f"{fault.key} speaks of an unknown fault, {other}", other, after=fault.key)


def _demand_asked(measure: str, at: tuple[str, ...], file: _File, key: str = "") -> None:
    if measure not in REGISTRY:
        raise file.wrong(f"there is no measure {measure}", measure, after=key)
    for name in at:
        once = REGISTRY[measure].domain is Domain.ONCE
        if (name != ONCE) if once else (name not in CHECKPOINTS):
            raise file.wrong(f"{measure} is not told at {name}", f'"{name}"', after=key)


def _ordered(faults: Mapping[str, tuple[Fault, _File]]) -> tuple[str, ...]:
    """Faults in an order in which causes come first; raises where something leads back to itself."""
    causes: dict[str, set[str]] = {key: set() for key in faults}
    for key, (fault, _) in faults.items():
        for other in fault.explains:
            causes[other].add(key)
    try:
        return tuple(graphlib.TopologicalSorter(causes).static_order())
    except graphlib.CycleError as error:
        ring = error.args[1]
        _, file = faults[ring[0]]
        raise file.wrong(
            f"{' leads to '.join(ring)}: that runs in a ring", "explains", after=ring[0]
        ) from None
