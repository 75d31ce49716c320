"""The document: one swing, as the instructor knows it.

Everything here was either given by a person or read from the clip. Whatever
can be computed from it (tracks, measures, findings) is computed by pure
functions and never stored; what is merely looked at (the frame on show, the
plumbs, the lanes) is no part of it either, see :mod:`kneel.model.sight`.

A swing has one take or two. What asks for frames (``marks``, ``pinned``) asks
the first one, and is answered in frames of the swing, counted from the first
one of its span; the record itself counts in frames of the clip.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Any

import msgspec

from kneel.model.names import Club, Hand, View
from kneel.model.renamed import read_as_now
from kneel.model.take import ClipRef, Drawn, Mark, Near, Record, ScaleSource, Take, demand

FARTHEST_M = 400.0


class Kind(StrEnum):
    """What was swung: not everything filmed is a swing at a ball."""

    FULL = "full"
    THREE_QUARTER = "three-quarter"
    HALF = "half"
    PUNCH = "punch"
    BACKSWING = "backswing"
    REHEARSAL = "rehearsal"
    DRILL = "drill"
    EXAGGERATION = "exaggeration"
    HELD = "held"


class Ball(Record, frozen=True):
    """One ball of a set: which, where it went, and which cue was tried.

    ``strike`` is where ground or face was met, ``start`` and ``curve`` are as the golfer sees them, ``carry``
    is in metres. ``felt`` is what the student says the cue felt like.
    """

    set: str = ""
    number: int = 0
    strike: str = ""
    start: str = ""
    curve: str = ""
    cue: str = ""
    carry: float | None = None
    felt: str = ""

    def __post_init__(self) -> None:
        demand(self.carry is None or 0 <= self.carry <= FARTHEST_M, "a ball flies 0 to 400 m")
        demand(len(self.felt) <= 200, "what was felt has at most 200 letters")

    @property
    def noted(self) -> bool:
        """Whether it is told what the ball did."""
        return bool(self.strike or self.start or self.curve)


class OwnCheckpoint(Record, frozen=True):
    """A moment of the instructor's own: by a rule in words, or by hand on a frame of the clip."""

    key: str
    title: str = ""
    rule: str = ""
    frame: float | None = None


class TypedValue(Record, frozen=True):
    """A number that somebody typed in, with its error: from a plate, a tape measure, an eye."""

    measure: str
    value: float
    sigma: float
    checkpoint: str = ""
    source: str = ""

    def __post_init__(self) -> None:
        demand(self.sigma >= 0, "a typed value's error is not below zero")


class Override(Record, frozen=True):
    """The instructor's own verdict on a fault, and why."""

    fault: str
    verdict: str
    reason: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "fault")


class Swing(Record, frozen=True):
    """One swing of one golfer, filmed once or twice.

    ``student`` is the id of the logbook, ``golfer`` a name to show.
    ``guessed`` names the settings whose value the program supposed and nobody
    has confirmed yet. ``school`` is that under which it is judged.
    """

    id: str = ""
    student: str = ""
    golfer: str = ""
    hand: Hand = Hand.RIGHT
    club: Club = Club.IRON
    kind: Kind = Kind.FULL
    drill: str = ""
    ball: Ball | None = None
    school: str = "centred"
    takes: tuple[Take, ...] = (Take(),)
    guessed: tuple[str, ...] = ()
    overrides: tuple[Override, ...] = ()
    checkpoints: tuple[OwnCheckpoint, ...] = ()
    typed: tuple[TypedValue, ...] = ()
    complaint: str = ""
    flight: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "drill")
        demand(1 <= len(self.takes) <= 2, "a swing has one take or two")

    @property
    def take(self) -> Take:
        """The take that is worked on: the first."""
        return self.takes[0]

    @property
    def clip(self) -> ClipRef | None:
        return self.take.clip

    @property
    def span(self) -> tuple[int, int] | None:
        return self.take.span

    @property
    def view(self) -> View:
        return self.take.view

    @property
    def known_view(self) -> View | None:
        """The view where somebody has said it, None where it is a guess."""
        return None if "view" in self.guessed else self.view

    @property
    def mirrored(self) -> bool | None:
        return self.take.mirrored

    @property
    def capture_rate(self) -> float | None:
        return self.take.capture_rate

    @property
    def steadied(self) -> bool:
        return self.take.steadied

    @property
    def looked(self) -> bool:
        return self.take.looked

    @property
    def near(self) -> Near | None:
        """Which body is meant, counted in frames of the swing."""
        near = self.take.near
        if near is None or near.frame is None:
            return near
        return msgspec.structs.replace(near, frame=max(near.frame - self.take.start, 0))

    @property
    def scale(self) -> ScaleSource:
        return self.take.scale

    @property
    def marks(self) -> tuple[Mark, ...]:
        """The marks within the span, counted in frames of the swing."""
        start = self.take.start
        if start == 0:
            return self.take.marks
        return tuple(_moved(m, -start) for m in self.take.marks if m.frame >= start)

    @property
    def drawn(self) -> tuple[Drawn, ...]:
        """What was drawn by hand, counted in frames of the swing."""
        return tuple(_shifted(one, -self.take.start) for one in self.take.drawn)

    @property
    def pinned(self) -> dict[str, float]:
        """Checkpoints set by hand, counted in frames of the swing."""
        return {name: frame - self.take.start for name, frame in self.take.pinned.items()}

    def reach(self, frames: int) -> tuple[int, int]:
        """First and last frame of a clip of ``frames`` that belong to this swing.

        >>> Swing().given(span=(40, 900)).reach(300), Swing().reach(300)
        ((40, 299), (0, 299))
        """
        first, last = self.span or (0, frames - 1)
        last = min(last, frames - 1)
        return min(max(first, 0), last), last

    def with_mark(self, mark: Mark) -> Swing:
        """The swing with ``mark`` set, replacing an earlier one of that point and frame."""
        placed = _moved(mark, self.take.start)
        kept = tuple(m for m in self.take.marks if (m.point, m.frame) != (placed.point, placed.frame))
        return self._with(marks=tuple(sorted((*kept, placed), key=lambda m: (m.point, m.frame))))

    def without_mark(self, point: str, frame: int) -> Swing:
        """The swing with the mark of ``point`` on ``frame`` taken away, if there is one."""
        gone = point, frame + self.take.start
        return self._with(marks=tuple(m for m in self.take.marks if (m.point, m.frame) != gone))

    def with_checkpoint(self, name: str, frame: float | None) -> Swing:
        """The swing with a checkpoint pinned at ``frame``, or set free with None."""
        pinned = {k: v for k, v in self.take.pinned.items() if k != name}
        if frame is not None:
            pinned[name] = float(frame) + self.take.start
        return self._with(pinned=pinned)

    def given(self, **settings: Any) -> Swing:
        """The swing with settings a person chose; they are no longer guesses.

        Settings of the take are told by their own names. Frames in ``marks``,
        ``pinned``, ``drawn``, ``near`` and ``scale`` are those of the swing.
        """
        guessed = settings.pop("guessed", None)
        still = tuple(name for name in self.guessed if name not in settings) if guessed is None else guessed
        of_take = {name: settings.pop(name) for name in tuple(settings) if name in Take.__struct_fields__}
        start = of_take["span"][0] if of_take.get("span") else 0 if "span" in of_take else self.take.start
        if "marks" in of_take:
            of_take["marks"] = tuple(_moved(m, start) for m in of_take["marks"])
        if "pinned" in of_take:
            of_take["pinned"] = {name: frame + start for name, frame in of_take["pinned"].items()}
        if "drawn" in of_take:
            of_take["drawn"] = tuple(_shifted(one, start) for one in of_take["drawn"])
        for name in ("near", "scale"):
            placed = of_take.get(name)
            frame = getattr(placed, "frame", None)
            if placed is not None and frame is not None:
                of_take[name] = msgspec.structs.replace(placed, frame=frame + start)
        known = self._with(**of_take) if of_take else self
        return msgspec.structs.replace(known, guessed=still, **settings)

    def _with(self, **of_take: Any) -> Swing:
        return msgspec.structs.replace(self, takes=(self.take.with_(**of_take), *self.takes[1:]))


def _moved(mark: Mark, by: int) -> Mark:
    return mark if by == 0 else msgspec.structs.replace(mark, frame=mark.frame + by)


def _shifted(drawn: Drawn, by: int) -> Drawn:
    return drawn if by == 0 or drawn.frame is None else msgspec.structs.replace(drawn, frame=drawn.frame + by)
