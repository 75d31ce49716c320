"""Schools and faults, read from the TOML files beside this module and validated at load."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Any, Literal, TypeVar

import msgspec

from kneel.model import CHECKPOINTS, KnowledgeError, UsageError
from kneel.motion.measures import REGISTRY


class Window(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a school allows of one measure at one checkpoint, in cm or degrees; None is open."""

    measure: str
    at: str
    lo: float | None = None
    hi: float | None = None


class School(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    key: str
    title: str
    creed: str
    window: tuple[Window, ...]

    def find(self, measure: str, at: str) -> Window | None:
        """The window of ``measure`` at the checkpoint ``at``, if this school has one."""
        return next((w for w in self.window if w.measure == measure and w.at == at), None)


class Check(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a fault asks: a measure at some checkpoints, and the side of the window that counts.

    ``margin`` (cm or degrees) is the distance past the window that counts as
    one step of severity.
    """

    measure: str
    at: tuple[str, ...]
    side: Literal["below", "above", "outside"]
    margin: float
    fault: str
    watch: str
    clear: str


class Evidence(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A second number that is shown with the fault but does not decide it.

    ``share`` is a measure that tells the same as a share, ``of`` what it is a share of, in words.
    """

    measure: str
    at: tuple[str, ...]
    text: str
    share: str = ""
    of: str = ""


class Fault(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    key: str
    title: str
    phase: str
    seen: str
    why: str
    roots: str
    care: str
    check: tuple[Check, ...]
    evidence: tuple[Evidence, ...] = ()
    explains: tuple[str, ...] = ()


Entry = TypeVar("Entry", School, Fault)


@cache
def schools() -> dict[str, School]:
    """All schools by key. Raises :class:`KnowledgeError` where a file is not valid."""
    found = _load("schools", School)
    for entry in found.values():
        for window in entry.window:
            _known(entry.key, window.measure, (window.at,))
            if window.lo is not None and window.hi is not None and window.lo >= window.hi:
                raise KnowledgeError(f"The school {entry.key} has an empty window for {window.measure}.")
    return found


@cache
def faults() -> dict[str, Fault]:
    """All faults by key. Raises :class:`KnowledgeError` where a file is not valid."""
    found = _load("faults", Fault)
    for entry in found.values():
        asked = [(c.measure, c.at) for c in entry.check] + [(e.measure, e.at) for e in entry.evidence]
        asked += [(e.share, e.at) for e in entry.evidence if e.share]
        for measure, at in asked:
            _known(entry.key, measure, at)
        if any(check.margin <= 0 for check in entry.check):
            raise KnowledgeError(f"The fault {entry.key} needs a margin above zero.")
    return found


def school(key: str) -> School:
    """The school of that key. Raises :class:`UsageError` where there is none."""
    if key not in schools():
        raise UsageError(f"There is no school “{key}”; choose one of {', '.join(schools())}.")
    return schools()[key]


def _load(folder: str, kind: type[Entry]) -> dict[str, Entry]:
    found: dict[str, Entry] = {}
    for path in sorted(files("kneel.judge").joinpath(folder).iterdir(), key=lambda p: p.name):
        if not path.name.endswith(".toml"):
            continue
        try:
            entry: Any = msgspec.toml.decode(path.read_bytes(), type=kind)
        except (msgspec.MsgspecError, UnicodeDecodeError) as error:
            raise KnowledgeError(f"The file {folder}/{path.name} is not valid: {error}.") from error
        if f"{entry.key}.toml" != path.name:
            raise KnowledgeError(f"The file {folder}/{path.name} calls itself {entry.key}.")
        found[entry.key] = entry
    return found


def _known(owner: str, measure: str, at: tuple[str, ...]) -> None:
    if measure not in REGISTRY:
        raise KnowledgeError(f"{owner} speaks of an unknown measure, {measure}.")
    for name in at:
        if name not in CHECKPOINTS:
            raise KnowledgeError(f"{owner} speaks of an unknown checkpoint, {name}.")
