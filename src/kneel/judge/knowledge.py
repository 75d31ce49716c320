"""All schools and faults as one: read from TOML, an instructor's own files laid over, checked as a whole."""

from __future__ import annotations

import graphlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from pathlib import Path
from string import Formatter

import msgspec
import platformdirs

from kneel.judge.files import KnowledgeFile, knowledge_files
from kneel.judge.kinds import ONCE
from kneel.judge.records import Check, Fault, School, Support, Window
from kneel.model import CHECKPOINTS, Club, KnowledgeError, UsageError
from kneel.motion.measures import REGISTRY, Domain

FIELDS = {"size": "", "value": "", "checkpoint": "", "share": ""}
"""What a sentence may ask for."""


@dataclass(frozen=True)
class Knowledge:
    """Schools and faults by key; ``order`` is that of the faults, causes before what they lead to.
    ``grounds`` are nobody's schools, for others to stand on.
    """

    schools: Mapping[str, School]
    faults: Mapping[str, Fault]
    order: tuple[str, ...]
    grounds: Mapping[str, School] = field(default_factory=dict)

    def school(self, key: str) -> School:
        """The school of that key. Raises :class:`UsageError` where there is none."""
        if key not in self.schools:
            raise UsageError(f"There is no school “{key}”; choose one of {', '.join(self.schools)}.")
        return self.schools[key]


@cache
def shipped() -> Knowledge:
    """What comes with the program.

    >>> sorted(shipped().schools)
    ['braced', 'centred', 'forward', 'loading']
    """
    return load()


@cache
def known() -> Knowledge:
    """What the program judges by: what it came with, and the instructor's own files over it.

    >>> sorted(known().schools)
    ['braced', 'centred', 'forward', 'loading']
    """
    folder = own_folder()
    return load(folder) if folder.is_dir() else shipped()


@cache
def at_hand() -> tuple[Knowledge, str]:
    """What a desk judges by: :func:`known`, or what is shipped, and what is wrong with an own file.

    >>> knowledge, trouble = at_hand()
    >>> "centred" in knowledge.schools, trouble
    (True, '')
    """
    try:
        return known(), ""
    except KnowledgeError as error:
        return shipped(), f"{error} Until then Kneel judges by what it came with."


def in_use() -> Knowledge:
    """The knowledge of :func:`at_hand`: what all that is not asked on the command line goes by.

    >>> "sway" in in_use().faults
    True
    """
    return at_hand()[0]


def read_anew() -> str:
    """Read the instructor's own files again; gives what is wrong with them, empty where nothing is.

    >>> read_anew()
    ''
    """
    known.cache_clear()
    at_hand.cache_clear()
    return at_hand()[1]


def own_folder() -> Path:
    """Where an instructor's own schools and faults lie: ``schools/*.toml`` and ``faults/*.toml`` in it.

    >>> own_folder().name
    'knowledge'
    """
    return platformdirs.user_config_path("kneel") / "knowledge"


def load(own: Path | None = None) -> Knowledge:
    """Read the shipped files and those of ``own``, which stand over them.

    Raises :class:`KnowledgeError`, with file and line, for the first thing that is wrong.

    >>> load().school("centred").title
    'Centred'
    """
    here = files("kneel.judge")
    schools: dict[str, tuple[School, KnowledgeFile]] = {}
    faults: dict[str, tuple[Fault, KnowledgeFile]] = {}
    for root in (here, *([own] if own else [])):
        for file in knowledge_files(root, "schools"):
            entry = file.read(School)
            if f"{entry.key}.toml" != file.name:
                raise file.wrong(f"calls itself {entry.key}", "key")
            schools[entry.key] = entry, file
        for file in knowledge_files(root, "faults"):
            for fault in file.entries(Fault):
                faults[fault.key] = fault, file
    for fault, file in faults.values():
        _demand_fault(fault, file, faults)
    for entry, file in schools.values():
        for window in entry.window:
            if window.fault and window.fault not in faults:
                raise file.wrong(f"a window speaks of an unknown fault, {window.fault}", window.fault)
    whole = {key: _whole(key, schools) for key in schools}
    plain = {key: fault for key, (fault, _) in faults.items()}
    common = {key: entry for key, entry in whole.items() if entry.common}
    theirs = {key: entry for key, entry in whole.items() if not entry.common}
    return Knowledge(theirs, plain, _ordered(faults), common)


def _whole(
    key: str, schools: Mapping[str, tuple[School, KnowledgeFile]], under: tuple[str, ...] = ()
) -> School:
    """A school with the windows of the one it is based on, its own first."""
    entry, file = schools[key]
    for window in entry.window:
        demand_window(window, file)
    if not entry.based_on:
        return entry
    if entry.based_on not in schools or entry.based_on in (*under, key):
        raise file.wrong(f"there is no school “{entry.based_on}” to stand on", "based_on")
    return laid_over(entry, _whole(entry.based_on, schools, (*under, key)))


def laid_over(entry: School, base: School) -> School:
    """A school with the windows of the whole one it is based on, its own first.

    >>> centred = shipped().school("centred")
    >>> laid_over(School("mine", "Mine", "", ()), centred).window == centred.window
    True
    """
    own = {
        (w.measure, at, club, w.fault, kind)
        for w in entry.window
        for at in w.at
        for club in (w.club or (None,))
        for kind in (w.kind or (None,))
    }
    kept = []
    for window in (one for whole in base.window for one in _by_kind(whole)):
        # One's own for all clubs stands for every club of the base's, one for a club for that club; one for a
        # kind of swing for that kind alone.
        kind = window.kind[0] if window.kind else None
        left: dict[tuple[Club, ...], list[str]] = {}
        for at in window.at:
            if (window.measure, at, None, window.fault, kind) in own:
                continue
            clubs = tuple(c for c in window.club if (window.measure, at, c, window.fault, kind) not in own)
            if clubs or not window.club:
                left.setdefault(clubs, []).append(at)
        kept += [msgspec.structs.replace(window, at=tuple(at), club=clubs) for clubs, at in left.items()]
    return msgspec.structs.replace(entry, window=(*entry.window, *kept))


def _by_kind(window: Window) -> tuple[Window, ...]:
    """A window, or one for each kind that it holds for."""
    if len(window.kind) < 2:
        return (window,)
    return tuple(msgspec.structs.replace(window, kind=(kind,)) for kind in window.kind)


def demand_window(window: Window, file: KnowledgeFile) -> None:
    """Refuse a window that says nothing, or of what there is not. Raises :class:`KnowledgeError`.

    >>> demand_window(Window("pelvis_shift", ("top",), 2.0, -1.5), KnowledgeFile("x.toml", "x.toml", ""))
    """
    demand_asked(window.measure, window.at, file)
    if window.margin <= 0:
        raise file.wrong(f"the window of {window.measure} needs a margin above zero", window.measure)
    if window.lo is None and window.hi is None:
        raise file.wrong(f"the window of {window.measure} has no limit", window.measure)
    if window.lo is not None and window.hi is not None and window.lo >= window.hi:
        raise file.wrong(f"the window of {window.measure} is empty", window.measure)


def _demand_fault(
    fault: Fault, file: KnowledgeFile, faults: Mapping[str, tuple[Fault, KnowledgeFile]]
) -> None:
    asked: Iterable[Check | Support] = (*fault.check, *fault.support)
    for one in asked:
        demand_asked(one.measure, one.at, file, fault.key)
        _demand_sentence(one.says, file)
    for check in fault.check:
        if check.own is not None:
            demand_window(check.own, file)
    if not fault.check:
        raise file.wrong(f"{fault.key} has nothing that decides it", fault.key)
    for other in (*fault.explains, *fault.not_while):
        if other not in faults:
            raise file.wrong(f"{fault.key} speaks of an unknown fault, {other}", other, after=fault.key)


def _demand_sentence(says: str, file: KnowledgeFile) -> None:
    """A sentence asks for fields by their plain names, and for nothing inside them."""
    try:
        asked = [part for part in Formatter().parse(says) if part[1] is not None]
    except ValueError as error:
        raise file.wrong(f"a sentence is no sentence ({error})", says[:20]) from error
    for _, name, layout, conversion in asked:
        if name not in FIELDS or layout or conversion:
            raise file.wrong(f"a sentence asks for {name!r}, which there is not", says[:20])


def demand_asked(measure: str, at: tuple[str, ...], file: KnowledgeFile, key: str = "") -> None:
    """Raise :class:`KnowledgeError` where ``file`` asks for a measure that there is not, or at a checkpoint
    at which it is not told.

    >>> file = KnowledgeFile("mine.toml", "schools/mine.toml", "[window.tempo]")
    >>> demand_asked("tempo", (ONCE,), file)
    >>> demand_asked("tempo", ("top",), file, "window.tempo")
    Traceback (most recent call last):
    kneel.model.errors.KnowledgeError: schools/mine.toml, line 1: tempo is not told at top. ...
    """
    if measure not in REGISTRY:
        raise file.wrong(f"there is no measure {measure}", measure, after=key)
    for name in at:
        once = REGISTRY[measure].domain is Domain.ONCE
        if (name != ONCE) if once else (name not in CHECKPOINTS):
            raise file.wrong(f"{measure} is not told at {name}", f'"{name}"', after=key)


def _ordered(faults: Mapping[str, tuple[Fault, KnowledgeFile]]) -> tuple[str, ...]:
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
