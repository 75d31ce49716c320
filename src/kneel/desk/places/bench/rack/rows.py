"""How the rack orders swings: by student, the set above the clips of one view and club, two cameras side by
side.
"""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from kneel.desk.places.bench.rack.entries import RackEntry
from kneel.desk.places.bench.rack.sets import SetTold
from kneel.desk.swing.titles import CLUB_TITLES, KIND_TITLES, VIEW_TITLES
from kneel.desk.widgets.language import tr
from kneel.model import Kind
from kneel.speech.words import number, with_unit


@dataclass(frozen=True)
class Heading:
    """A student: those who are not on the desk are one row each, which opens their swings."""

    golfer: str
    count: int
    open: bool


@dataclass(frozen=True)
class SetRow:
    """Several swings of one view and club as one."""

    told: SetTold

    @property
    def title(self) -> str:
        told = self.told
        words = f"{tr(VIEW_TITLES[told.view.value])} · {tr(CLUB_TITLES[told.club.value])}"
        return words if told.kind is Kind.FULL else f"{words} · {tr(KIND_TITLES[told.kind.value])}"

    @property
    def first(self) -> str:
        """What they show."""
        told = self.told
        if not told.title:
            words = tr("%d swings: cannot be told") if told.unsure else tr("%d swings: nothing to mend")
            return words % told.count
        return tr("%s in %d of %d") % (told.title, told.shows, told.count)

    @property
    def second(self) -> str:
        """Mean with its error, and how far single swings lie from it."""
        told = self.told
        if told.mean is None:
            return ""
        mean = f"{number(told.mean, told.unit)} ± {number(told.sigma, told.unit, signed=False)}"
        words = with_unit(mean, told.unit, short=True)
        if told.spread is None:
            return words
        return tr("%s, spread %s") % (words, number(told.spread, told.unit, signed=False))


@dataclass(frozen=True)
class Card:
    """One swing, or the two cameras of one."""

    entries: tuple[RackEntry, ...]


@dataclass(frozen=True)
class TakenOff:
    """How many were taken off the rack; a click puts them back."""

    count: int


@dataclass(frozen=True)
class Others:
    """How many swings of other students, or of other days, lie in the folder; a click shows whose."""

    count: int
    open: bool


Row = Heading | SetRow | Card | TakenOff | Others


def arranged(
    entries: Sequence[RackEntry],
    golfer: str,
    sets: Sequence[SetTold],
    opened: frozenset[str],
    taken_off: int,
    *,
    day: datetime.date | None = None,
    others: bool = False,
) -> tuple[Row, ...]:
    """Order the swings: those of ``golfer`` on ``day`` and those nobody has named yet are shown one by one.

    A lesson's rack shows that lesson and that student: all else is one row, with ``others`` it is shown by
    student, of those in ``opened`` one by one. Without a golfer every student has a row.
    """
    mine, rest = [], []
    for entry in entries:
        of_lesson = entry.golfer == golfer and (day is None or entry.day in (day, None))
        (mine if of_lesson or not entry.golfer or not golfer else rest).append(entry)
    rows = _by_golfer(mine, golfer, sets, opened)
    if rest:
        rows.append(Others(len(rest), others))
        rows += _by_golfer(rest, "", (), opened) if others else []
    if taken_off:
        rows.append(TakenOff(taken_off))
    return tuple(rows)


def _by_golfer(
    entries: Sequence[RackEntry], golfer: str, sets: Sequence[SetTold], opened: frozenset[str]
) -> list[Row]:
    by_golfer: dict[str, list[RackEntry]] = {}
    for entry in entries:
        by_golfer.setdefault(entry.golfer, []).append(entry)
    names = sorted(by_golfer, key=lambda name: (name != golfer, not name, name.casefold()))
    rows: list[Row] = []
    for name in names:
        shown = name == golfer or name in opened
        if len(names) > 1 or name:
            rows.append(Heading(name, len(by_golfer[name]), shown))
        if shown:
            rows += _of_golfer(by_golfer[name], sets if name == golfer else ())
    return rows


def _of_golfer(entries: Sequence[RackEntry], sets: Sequence[SetTold]) -> list[Row]:
    rows: list[Row] = []
    done: set[int] = set()
    told = {(one.view, one.club, one.kind): one for one in sets}
    for k, entry in enumerate(entries):
        if k in done:
            continue
        set_told = told.get(entry.group)
        if set_told is not None:
            rows.append(SetRow(set_told))
            members = [j for j, other in enumerate(entries) if other.group == entry.group and j not in done]
            rows += [Card((entries[j],)) for j in members]
            done.update(members)
            continue
        other = next(
            (j for j in range(len(entries)) if j not in done and _two_cameras(entry, entries[j])), None
        )
        pair = (entry,) if other is None else (entry, entries[other])
        done.update({k} if other is None else {k, other})
        rows.append(Card(pair))
    return rows


def _two_cameras(one: RackEntry, other: RackEntry) -> bool:
    """Whether two clips show one swing from two sides: alike but for the view, one name the other's with a
    tail; or one document says so.
    """
    if one is other or one.view is other.view or one.clip == other.clip:
        return False
    if one.part_of or other.part_of:
        return one.part_of == other.document or other.part_of == one.document
    if not (one.marked and other.marked):
        return False
    if (one.club, one.kind) != (other.club, other.kind):
        return False
    short, long = sorted((one.clip.stem, other.clip.stem), key=len)
    return long.startswith(short) and long != short
