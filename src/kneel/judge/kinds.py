"""What is asked of each kind of swing: which checkpoints it reaches, and how much of a full one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import msgspec

from kneel.judge.records import Check, KnowledgeTable, School, Window
from kneel.model import CHECKPOINTS, Club, Kind

ONCE = "once"
"""Where a window or check of what is told once a swing stands."""

FOR_ONE_NUMBER = (Kind.DRILL, Kind.EXAGGERATION)
"""Kinds that are about some numbers: nothing else is asked of them once it is said which."""


class KindReach(KnowledgeTable, frozen=True):
    """What one kind of swing reaches, see ``kinds.toml``."""

    until: str = CHECKPOINTS[-1]
    skips: tuple[str, ...] = ()
    not_once: tuple[str, ...] = ()
    share: float = 1.0
    at: tuple[str, ...] = ()

    def asks(self, measure: str, at: str) -> bool:
        """Whether a full swing's window of a measure is laid on it there."""
        if at == ONCE:
            return measure not in self.not_once
        if at not in CHECKPOINTS:
            return False
        return at not in self.skips and CHECKPOINTS.index(at) <= CHECKPOINTS.index(self.until)


class Reaches(KnowledgeTable, frozen=True):
    sized: tuple[str, ...]
    kind: dict[str, KindReach]


@dataclass(frozen=True)
class Aimed:
    """What a drill or an exaggeration is about.

    ``asked`` are the numbers that are asked, by measure and checkpoint, each with the sides of its window
    that count; ``windows`` are its own, which stand before the school's.
    """

    asked: Mapping[tuple[str, str], tuple[str, ...]]
    windows: tuple[Window, ...] = ()

    def asks(self, check: Check, at: str) -> bool:
        return check.side in self.asked.get((check.measure, at), ())

    def window(self, measure: str, at: str) -> Window | None:
        return next((w for w in self.windows if w.measure == measure and at in w.at), None)


@cache
def reaches() -> Reaches:
    """What comes with the program, as it stands in ``kinds.toml``.

    >>> "pelvis_turn" in reaches().sized
    True
    """
    raw = (files("kneel.judge") / "kinds.toml").read_text(encoding="utf-8")
    return msgspec.toml.decode(raw, type=Reaches)


def _reach(kind: Kind) -> KindReach:
    return reaches().kind.get(kind.value, KindReach())


def asked_of(kind: Kind, check: Check, at: str, aimed: Aimed | None) -> bool:
    """Whether a check is asked of a kind of swing at a checkpoint.

    >>> from kneel.judge.knowledge import shipped
    >>> check = shipped().faults["sway"].check[0]
    >>> [asked_of(kind, check, "top", None) for kind in (Kind.FULL, Kind.EXAGGERATION)]
    [True, False]
    """
    if kind in FOR_ONE_NUMBER and aimed is not None:
        return aimed.asks(check, at)
    return kind is not Kind.EXAGGERATION and _reach(kind).asks(check.measure, at)


def of_kind(window: Window, kind: Kind, at: str) -> Window:
    """A full swing's window as it is for a kind: what must at least be done grows smaller with the swing. One
    that is of some kinds stays as it is.

    >>> of_kind(Window("pelvis_turn", ("top",), 6.0, -55.0, -35.0), Kind.PUNCH, "top").hi
    -28.7
    >>> round(of_kind(Window("pelvis_shift", ("delivery",), 2.0, 6.0), Kind.HALF, "delivery").lo, 2)
    3.6
    """
    reach = _reach(kind)
    if window.kind or window.measure not in reaches().sized or at not in reach.at:
        return window
    lo, hi = window.lo, window.hi
    return msgspec.structs.replace(
        window,
        lo=lo * reach.share if lo is not None and lo > 0 else lo,
        hi=hi * reach.share if hi is not None and hi < 0 else hi,
    )


def laid(school: School, measure: str, at: str, club: Club, kind: Kind) -> Window | None:
    """The window that a school lays on a kind of swing; None where it asks nothing there.

    >>> from kneel.judge.knowledge import shipped
    >>> school = shipped().schools["centred"]
    >>> laid(school, "pelvis_shift", "top", Club.IRON, Kind.FULL).lo
    -1.5
    >>> laid(school, "pelvis_shift", "impact", Club.IRON, Kind.BACKSWING) is None
    True
    """
    window = school.find(measure, at, club, kind=kind)
    reach = _reach(kind)
    if window is None or kind is Kind.EXAGGERATION or not reach.asks(measure, at):
        return None
    return of_kind(window, kind, at)


def beyond(window: Window, side: str) -> Window:
    """The window that an exaggeration has to reach: past the middle of what is allowed to its far end, or two
    margins inside the limit where the other side is open.

    >>> beyond(Window("pelvis_shift", ("top",), 2.0, -1.5, 4.0), "below").lo
    4.0
    """
    lo, hi, deep = window.lo, window.hi, 2 * window.margin
    if side == "below" and lo is not None:
        return msgspec.structs.replace(window, lo=lo + deep if hi is None else hi, hi=None)
    if side == "above" and hi is not None:
        return msgspec.structs.replace(window, hi=hi - deep if lo is None else lo, lo=None)
    return window
