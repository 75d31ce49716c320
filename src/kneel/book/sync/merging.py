"""Three states of one record as one: what this desk began from, what it made of it, what stands by now.

The one rule for two desks that changed the same, for undo after somebody else's change, and for lessons that
come from elsewhere. Each side keeps what only it changed. Texts are merged line by line (the three-way merge
of Khanna, Kunal and Pierce, "A formal investigation of diff3", 2007), sets by what was put in and taken out,
a plan's log day by day, plans field by field. Where both changed one thing theirs stands, and it is told.
"""

from __future__ import annotations

import difflib
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any, Generic, TypeVar

import msgspec

from kneel.model import Lesson, Plan, Practised
from kneel.model.student import LONGEST_TEXT

T = TypeVar("T", bound=msgspec.Struct)
V = TypeVar("V")

TEXTS = frozenset({"said", "goals", "notes", "complaint", "flight"})
SETS = frozenset({"tried", "flags", "props", "places", "clubs", "handed"})


@dataclass(frozen=True)
class Merged(Generic[T]):
    """``record`` holds both sides' changes; ``lost`` are the fields in which theirs stands over mine."""

    record: T
    lost: tuple[str, ...]


def merged(base: T, mine: T, theirs: T, *, both: bool = True) -> Merged[T]:
    """Three states of one record as one. With ``both`` lines that two sides wrote in one place stand one
    after the other; without it, as for undo, theirs stands and the field counts as lost.

    >>> from kneel.model import Student
    >>> a = Student("Ebba Quill")
    >>> made = merged(a, Student("Ebba Quill", goals="Draw"), Student("Ebba Quill", notes="Slow", minutes=20))
    >>> made.record.goals, made.record.notes, made.lost
    ('Draw', 'Slow', ())
    """
    fields: dict[str, object] = {}
    lost = []
    for name in base.__struct_fields__:
        value, whole = _field(name, getattr(base, name), getattr(mine, name), getattr(theirs, name), both)
        fields[name] = value
        if not whole:
            lost.append(name)
    try:
        return Merged(msgspec.structs.replace(theirs, **fields), tuple(lost))
    except ValueError:
        return _one_by_one(theirs, fields, lost)


def _one_by_one(theirs: T, fields: Mapping[str, object], lost: Sequence[str]) -> Merged[T]:
    """What fits nobody together: field by field as far as it goes, theirs where it does not."""
    record, out = theirs, list(lost)
    for name, value in fields.items():
        try:
            record = msgspec.structs.replace(record, **{name: value})
        except ValueError:
            out.append(name)
    return Merged(record, tuple(dict.fromkeys(out)))


def taken(now: T, mine: T, fields: Sequence[str]) -> T:
    """What stands now with ``fields`` as they are in ``mine``; a session that only the other noted stays."""
    found = {name: getattr(mine, name) for name in fields}
    if isinstance(plans := found.get("plans"), tuple):
        there = {plan.start: plan for plan in getattr(now, "plans", ())}
        found["plans"] = tuple(
            msgspec.structs.replace(one, log=_in_order({**_by_day(there[one.start].log), **_by_day(one.log)}))
            if one.start in there
            else one
            for one in plans
        )
    return msgspec.structs.replace(now, **found)


def with_id(record: T, other: T) -> T:
    """A record under the id of another state of it, which may have got one meanwhile."""
    return msgspec.structs.replace(record, id=other.id)  # type: ignore[attr-defined]


def joined(known: Lesson, other: Lesson) -> Lesson:
    """One lesson of two of one student and day; what it works on stays as ``known`` has it."""
    return msgspec.structs.replace(
        known,
        said=both_texts(known.said, other.said),
        complaint=known.complaint or other.complaint,
        flight=known.flight or other.flight,
        root=known.root or other.root,
        handed=tuple(dict.fromkeys((*known.handed, *other.handed))),
    )


def both_texts(known: str, other: str) -> str:
    r"""Two texts as one, a line that stands in both but once; ``known`` alone where both are too long.

    >>> both_texts("Slow", "Turn"), both_texts("Slow\nTurn", "Turn"), both_texts("", "Turn")
    ('Slow\nTurn', 'Slow\nTurn', 'Turn')
    """
    text, _ = merged_text("", other, known)
    return text if len(text) <= LONGEST_TEXT else known


def _field(name: str, base: Any, mine: Any, theirs: Any, both: bool) -> tuple[Any, bool]:
    """One field of three states, and whether nothing of mine is lost in it."""
    if mine in (base, theirs):
        return theirs, True
    if theirs == base:
        return mine, True
    if name in TEXTS:
        text, whole = merged_text(base, mine, theirs, both=both)
        return (text, whole) if len(text) <= LONGEST_TEXT else (theirs, False)
    if name in SETS and None not in (base, mine, theirs):
        return _sets(base, mine, theirs), True
    if name == "plans":
        return _plans(base, mine, theirs, both)
    if name == "log":
        return _logs(base, mine, theirs)
    return theirs, False


def merged_text(base: str, mine: str, theirs: str, *, both: bool = True) -> tuple[str, bool]:
    r"""Three states of a text as one, line by line, and whether nothing of mine is lost.

    >>> merged_text("Ankle sprain", "Ankle sprain\nSlow", "Ankle sprain\nTurn")
    ('Ankle sprain\nTurn\nSlow', True)
    >>> merged_text("Slow\nTurn", "Turn", "Slow\nTurn\nDraw"), merged_text("A", "B", "C", both=False)
    (('Turn\nDraw', True), ('C', False))
    """
    old, here, there = (text.split("\n") if text else [] for text in (base, mine, theirs))
    found: list[str] = []
    whole, at = True, (0, 0, 0)
    for sync, length in [*_in_all(old, here, there), ((len(old), len(here), len(there)), 0)]:
        was, ours, other = (
            lines[start:end] for lines, start, end in zip((old, here, there), at, sync, strict=True)
        )
        if other in (was, ours):
            found += ours
        elif ours == was:
            found += other
        else:
            made, fits = _by_line(was, ours, other, both)
            found += made
            whole = whole and fits
        found += old[sync[0] : sync[0] + length]
        at = (sync[0] + length, sync[1] + length, sync[2] + length)
    return "\n".join(found), whole


def _by_line(was: list[str], ours: list[str], other: list[str], both: bool) -> tuple[list[str], bool]:
    """Lines that two sides changed next to each other: what the other wrote, without what we took out, then
    what we wrote. Where both replaced the same lines ours is left out unless ``both`` are wanted.
    """
    here, there = _kept(was, ours), _kept(was, other)
    found = [line for k, line in enumerate(other) if k not in there or there[k] in here.values()]
    new = [line for k, line in enumerate(ours) if k not in here and line not in found]
    replaced = set(range(len(was))) - {*here.values()} - {*there.values()}
    if new and replaced and not both:
        return found, False
    return found + new, True


def _kept(was: list[str], now: list[str]) -> dict[int, int]:
    """Lines that were there before: by where they stand now, where they stood."""
    blocks = difflib.SequenceMatcher(None, was, now, autojunk=False).get_matching_blocks()
    return {one.b + k: one.a + k for one in blocks for k in range(one.size)}


def _in_all(old: list[str], here: list[str], there: list[str]) -> list[tuple[tuple[int, int, int], int]]:
    """Runs of lines that stand in all three: where in each, and how many."""
    found = []
    blocks = [
        difflib.SequenceMatcher(None, old, other, autojunk=False).get_matching_blocks()
        for other in (here, there)
    ]
    for one in blocks[0]:
        for two in blocks[1]:
            start, end = max(one.a, two.a), min(one.a + one.size, two.a + two.size)
            if start < end:
                found.append(((start, one.b + start - one.a, two.b + start - two.a), end - start))
    return found


def _sets(base: Sequence[Hashable], mine: Sequence[Hashable], theirs: Sequence[Hashable]) -> tuple[Any, ...]:
    gone = {one for one in base if one not in mine}
    kept = [one for one in theirs if one not in gone]
    found = list(dict.fromkeys([*kept, *(one for one in mine if one not in base)]))
    if found and all(isinstance(one, Enum) for one in found):
        found.sort(key=lambda one: list(type(one)).index(one))  # type: ignore[call-overload]
    return tuple(found)


def _plans(
    base: tuple[Plan, ...], mine: tuple[Plan, ...], theirs: tuple[Plan, ...], both: bool
) -> tuple[tuple[Plan, ...], bool]:
    """Plans one by one; where both began another one theirs stands."""
    if min(len(mine), len(theirs)) < len(base):
        return theirs, False
    made = [merged(*three, both=both) for three in zip(base, mine, theirs, strict=False)]
    new, others = mine[len(base) :], theirs[len(base) :]
    plans = (*(one.record for one in made), *(others or new))
    whole = not any(one.lost for one in made) and (not new or not others or new == others)
    return plans, whole


def _logs(
    base: tuple[Practised, ...], mine: tuple[Practised, ...], theirs: tuple[Practised, ...]
) -> tuple[tuple[Practised, ...], bool]:
    """Sessions day by day."""
    days, whole = _three_way(*(_by_day(log) for log in (base, mine, theirs)))
    return _in_order(days), whole


def _three_way(
    base: Mapping[Any, V], mine: Mapping[Any, V], theirs: Mapping[Any, V]
) -> tuple[dict[Any, V], bool]:
    found, whole = {}, True
    for key in {**theirs, **mine}:
        was, here, there = base.get(key), mine.get(key), theirs.get(key)
        value = here if there == was else there
        whole = whole and (there == was or here in (was, there))
        if value is not None:
            found[key] = value
    return found, whole


def _by_day(log: Sequence[Practised]) -> dict[Any, Practised]:
    return {one.date: one for one in log}


def _in_order(days: Mapping[Any, Practised]) -> tuple[Practised, ...]:
    by_date: Callable[[Practised], Any] = lambda one: one.date  # noqa: E731
    return tuple(sorted(days.values(), key=by_date))
