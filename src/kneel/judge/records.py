"""What the knowledge files hold: windows, schools, faults. Checked as a whole in ``knowledge``."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

from kneel.model import Club, Kind, View
from kneel.model.renamed import read_as_now

Phase = Literal["set-up", "backswing", "downswing", "impact"]
Side = Literal["below", "above", "outside"]

PHASES: tuple[Phase, ...] = ("set-up", "backswing", "downswing", "impact")

CARE = "Stop at pain and see a licensed medical professional for it; never force a position."
"""The caution that stands with every fault that has none of its own."""


class KnowledgeTable(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A table of a knowledge file; a field that is not known is refused."""


class Window(KnowledgeTable, frozen=True):
    """What a school allows of one measure at some checkpoints.

    Centimetres of a body of 1.75 m, degrees or the measure's own unit; None is open. ``margin`` is the
    distance past a limit that counts as one step of severity. ``club`` names the classes it holds for;
    empty is all. ``at`` is ``once`` for what is told once a swing. One with a ``fault`` holds for that
    fault alone, one with a ``kind`` for these kinds of swing, as it stands; without it is a full swing's,
    see ``kinds.toml``.
    """

    measure: str
    at: tuple[str, ...]
    margin: float
    lo: float | None = None
    hi: float | None = None
    club: tuple[Club, ...] = ()
    fault: str = ""
    standing: str = "common practice"
    kind: tuple[Kind, ...] = ()

    def __post_init__(self) -> None:
        read_as_now(self, "fault")


class School(KnowledgeTable, frozen=True):
    """A school's windows. ``based_on`` is the school whose windows hold where it has none of its own.

    One that is ``common`` is nobody's school: what all teach, for others to stand on.
    """

    key: str
    title: str
    creed: str
    window: tuple[Window, ...]
    based_on: str = ""
    common: bool = False

    def find(
        self,
        measure: str,
        at: str,
        club: Club = Club.IRON,
        fault: str = "",
        kind: Kind = Kind.FULL,
    ) -> Window | None:
        """The window of a measure at a checkpoint; one for this fault before one for any, one for this kind
        of swing before a full one's, one for this class of club before one for all.

        A hybrid is hit down on like an iron (common practice, no source), and is judged as one where no
        window speaks of it.
        """
        told = [w for w in self.window if w.measure == measure and at in w.at]
        own = self.of_fault(measure, at, club, fault, kind)
        return own or _nearest([w for w in told if not w.fault], club, kind)

    def of_fault(
        self,
        measure: str,
        at: str,
        club: Club,
        fault: str,
        kind: Kind = Kind.FULL,
        own: Window | None = None,
    ) -> Window | None:
        """The window that is for one fault alone: the school's, which stands over the fault's ``own``."""
        told = (w for w in self.window if w.measure == measure and at in w.at)
        return _nearest([w for w in told if fault and w.fault == fault], club, kind) or own


def _nearest(fit: Sequence[Window], club: Club, kind: Kind) -> Window | None:
    """The one for a kind of swing, else a full one's; of these that for a class of club, else for all."""
    for same in ([w for w in fit if kind in w.kind], [w for w in fit if not w.kind]):
        kin = Club.IRON if club is Club.HYBRID else club
        own = [w for w in same if club in w.club] or [w for w in same if kin in w.club]
        found = next(iter(own or [w for w in same if not w.club]), None)
        if found is not None:
            return found
    return None


class Check(KnowledgeTable, frozen=True):
    """What decides: a measure at some checkpoints, and the side of the window that counts.

    ``says`` tells what is seen, with ``{size}``, ``{value}`` and ``{checkpoint}``. ``views`` are those in
    which it counts, where these are fewer than those that show the measure. ``lo``, ``hi`` and ``margin``
    are limits of its own, which hold in every school that has no window for this very fault.
    """

    measure: str
    at: tuple[str, ...]
    side: Side
    says: str
    views: tuple[View, ...] = ()
    lo: float | None = None
    hi: float | None = None
    margin: float | None = None

    @property
    def own(self) -> Window | None:
        """Its own limits as a window."""
        if self.margin is None:
            return None
        return Window(self.measure, self.at, self.margin, self.lo, self.hi)


class Support(KnowledgeTable, frozen=True):
    """A second number that raises a fault's rank and its words but does not decide it.

    It speaks for the fault where it lies below ``hi`` and above ``lo``, whichever there is. ``share``
    is a measure that tells the same as a share, ``of`` what it is a share of, in words.
    """

    measure: str
    at: tuple[str, ...]
    says: str
    lo: float | None = None
    hi: float | None = None
    share: str = ""
    of: str = ""


class Fault(KnowledgeTable, frozen=True):
    """One fault: how it is decided, what supports it, what it leads to, and what there is to say of it.

    ``aim`` is what a student is told to do, in words without the trade's. ``need`` is whether any check
    is enough, all are needed, or all at one ``moment``, whichever checkpoint it is. ``explains`` are the
    faults it leads to.
    A ``consequence`` stands at the end of a chain: never a root, never cured by itself. It is not
    worked on while one of ``not_while`` is at work. ``misses`` are the shots it brings, ``kinds`` those
    of swings in which it is asked where these are not all.
    """

    key: str
    title: str
    phase: Phase
    seen: str
    why: str
    roots: str
    good: str
    check: tuple[Check, ...]
    need: Literal["any", "all", "moment"] = "any"
    support: tuple[Support, ...] = ()
    explains: tuple[str, ...] = ()
    misses: tuple[str, ...] = ()
    not_while: tuple[str, ...] = ()
    consequence: bool = False
    kinds: tuple[Kind, ...] = ()
    care: str = CARE
    aim: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "key", "explains", "not_while")

    @property
    def measures(self) -> frozenset[str]:
        """All measures it rests on."""
        return frozenset([c.measure for c in self.check] + [s.measure for s in self.support])
