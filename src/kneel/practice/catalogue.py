"""All drills: those that come with the program, an instructor's own laid over them, checked as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

from kneel.judge import Fault, Knowledge, at_hand, known, read_anew
from kneel.judge.files import KnowledgeFile, knowledge_files
from kneel.judge.knowledge import demand_asked, own_folder, shipped
from kneel.model import RUNGS, KnowledgeError, UsageError
from kneel.practice.drill import PARTS, Drill


@dataclass(frozen=True)
class Drills:
    """Drills by key, in the order of their files."""

    all: Mapping[str, Drill]

    def get(self, key: str) -> Drill:
        """The drill of that key. Raises :class:`UsageError` where there is none."""
        if key not in self.all:
            raise UsageError(f"There is no drill “{key}”; choose one of {', '.join(self.all)}.")
        return self.all[key]

    def curing(self, fault: str) -> tuple[Drill, ...]:
        """All drills for a fault."""
        return tuple(drill for drill in self.all.values() if drill.cure(fault) is not None)


@cache
def known_drills() -> Drills:
    """The shipped drills, and the instructor's own ``drills/*.toml`` over them. Raises ``KnowledgeError``.

    >>> known_drills().get("turn_inside_the_gate").title
    'Turn inside the gate'
    """
    folder = own_folder()
    return load(known(), folder if folder.is_dir() else None)


@cache
def drills_at_hand() -> tuple[Drills, str]:
    """The drills of :func:`known_drills`, or those that are shipped, and what is wrong with an own file.

    >>> drills, trouble = drills_at_hand()
    >>> trouble
    ''
    """
    knowledge, trouble = at_hand()
    folder = own_folder()
    try:
        return load(knowledge, folder if folder.is_dir() and not trouble else None), trouble
    except KnowledgeError as error:
        return load(shipped()), trouble or f"{error} Until then Kneel goes by the drills it came with."


def drills_in_use() -> Drills:
    """What all that is not asked on the command line goes by.

    >>> drills_in_use() is drills_in_use()
    True
    """
    return drills_at_hand()[0]


def read_drills_anew() -> str:
    """Read the instructor's own files again, knowledge and drills; gives what is wrong with them.

    >>> read_drills_anew()
    ''
    """
    trouble = read_anew()
    known_drills.cache_clear()
    drills_at_hand.cache_clear()
    return trouble or drills_at_hand()[1]


def load(knowledge: Knowledge, own: Path | None = None) -> Drills:
    """Read the shipped drills and those of ``own``; raises ``KnowledgeError`` for the first that is wrong.

    >>> from kneel.judge import known
    >>> len(load(known()).all) > 40
    True
    """
    found: dict[str, tuple[Drill, KnowledgeFile]] = {}
    for root in (files("kneel.practice"), *([own] if own else [])):
        for file in knowledge_files(root, "drills"):
            for drill in file.entries(Drill):
                found[drill.key] = drill, file
    for drill, file in found.values():
        _demand(drill, file, knowledge.faults)
    return Drills({key: drill for key, (drill, _) in found.items()})


def _demand(drill: Drill, file: KnowledgeFile, faults: Mapping[str, Fault]) -> None:
    """What the records alone do not hold."""
    key = drill.key
    for fault in (*(c.fault for c in drill.cures), *drill.wrong_for, *drill.first):
        if fault not in faults:
            raise file.wrong(f"{key} speaks of an unknown fault, {fault}", fault, after=key)
    for cure in drill.cures:
        demand_asked(cure.measure, (cure.at,), file, key)
        if not any(c.measure == cure.measure and cure.at in c.at for c in faults[cure.fault].check):
            raise file.wrong(
                f"{key}: {cure.measure} at {cure.at} does not decide {cure.fault}", cure.measure, after=key
            )
        if cure.by <= 0:
            raise file.wrong(f"{key}: a number changes by more than nothing", cure.measure, after=key)
    for guard in drill.guards:
        demand_asked(guard.measure, (guard.at,), file, key)
    if not (drill.cures and drill.guards and drill.care and drill.steps):
        raise file.wrong(f"{key} needs what it cures, a guard, a caution and its steps", key)
    if len(drill.ladder) != len(RUNGS):
        raise file.wrong(f"{key} needs a sentence for each of {', '.join(RUNGS)}", "ladder", after=key)
    if not 1 <= drill.dose.low <= drill.dose.high <= 30 or not 1 <= drill.dose.sets <= 5:
        raise file.wrong(f"{key}: its dose is out of bounds", "dose", after=key)
    if set(drill.loads) - set(PARTS):
        raise file.wrong(f"{key} can load {', '.join(PARTS)}", "loads", after=key)
    if set(drill.wrong_for) & {cure.fault for cure in drill.cures}:
        raise file.wrong(f"{key} is said to cure what it is wrong for", "wrong_for", after=key)
