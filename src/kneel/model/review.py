"""A spoken review: what was on show and where the hand was, moment by moment, beside a voice. Never pictures
of the screen.

Times are seconds of recording, pauses left out. Places are px of the upright picture of the clip on show.
"""

from __future__ import annotations

import datetime
import math
from dataclasses import dataclass

import msgspec
from msgspec import UNSET, UnsetType

from kneel.model.names import CHECKPOINTS
from kneel.model.take import MOST_FRAMES, Drawn, FileRef, Record, demand, demand_day

LONGEST_S = 3 * 3600.0
MOST_CHANGES = 2_000_000
MOST_PIECES = 2_000
AIMS = ("", "ghost", "figure")


def _time(value: float) -> bool:
    return math.isfinite(value) and 0 <= value <= LONGEST_S


class ReviewedSwing(Record, frozen=True):
    """A swing that a review shows: its document and clip as files name them, its id, and its title."""

    document: str
    clip: FileRef
    id: str = ""
    title: str = ""


class Change(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """What became otherwise at a time; all else stays as it was.

    ``swing`` and ``take`` are which clip is on show, ``frame`` and ``at`` its frame and the checkpoint it
    stands for, ``part`` the picture's part that is seen (left, top, width, height), ``hand`` where the
    pointer is (None off the picture), ``down`` whether it is pressed, ``fault`` the finding spoken of,
    ``lines`` the reference lines besides its own, ``drawn`` all that is drawn, ``aim`` and ``share`` what to
    aim for and how far, ``beside`` whether that stands beside; ``plain`` without lines, ``trail`` with the
    way of the pelvis.
    """

    t: float
    swing: int | UnsetType = UNSET
    take: int | UnsetType = UNSET
    frame: int | UnsetType = UNSET
    at: str | UnsetType = UNSET
    part: tuple[float, float, float, float] | UnsetType = UNSET
    hand: tuple[float, float] | UnsetType | None = UNSET
    down: bool | UnsetType = UNSET
    fault: str | UnsetType = UNSET
    lines: tuple[str, ...] | UnsetType = UNSET
    drawn: tuple[Drawn, ...] | UnsetType = UNSET
    aim: str | UnsetType = UNSET
    share: float | UnsetType = UNSET
    beside: bool | UnsetType = UNSET
    plain: bool | UnsetType = UNSET
    trail: bool | UnsetType = UNSET

    def __post_init__(self) -> None:
        demand(_time(self.t), "a moment of a review lies within three hours")
        if self.frame is not UNSET:
            demand(0 <= self.frame <= MOST_FRAMES, "a review shows a frame from 0 on")
        if self.at is not UNSET:
            demand(self.at in ("", *CHECKPOINTS), f"there is no checkpoint “{self.at}”")
        if self.aim is not UNSET:
            demand(self.aim in AIMS, f"there is no aim “{self.aim}”")
        if self.part is not UNSET:
            demand(
                all(map(math.isfinite, self.part)) and min(self.part[2:]) > 0,
                "a part of a picture has a size",
            )


@dataclass(frozen=True)
class Seen:
    """All that is on show at one moment, as :class:`Change` names it."""

    swing: int = 0
    take: int = 0
    frame: int = 0
    at: str = ""
    part: tuple[float, float, float, float] | None = None
    hand: tuple[float, float] | None = None
    down: bool = False
    fault: str = ""
    lines: tuple[str, ...] = ()
    drawn: tuple[Drawn, ...] = ()
    aim: str = ""
    share: float = 1.0
    beside: bool = False
    plain: bool = False
    trail: bool = False

    def then(self, change: Change) -> Seen:
        """The same after a change.

        >>> Seen().then(Change(1.0, frame=7)).frame
        7
        """
        said = {
            name: value for name in self.__dataclass_fields__ if (value := getattr(change, name)) is not UNSET
        }
        return Seen(**{**vars(self), **said})

    def change_to(self, other: Seen, t: float) -> Change | None:
        """What turns this into another; None where nothing does.

        >>> Seen().change_to(Seen(frame=7), 1.0).frame
        7
        """
        said = {name: value for name, value in vars(other).items() if value != getattr(self, name)}
        return Change(t, **said) if said else None


class SpokenTake(Record, frozen=True):
    """One go of recording: how long it is, what changed, and the voice's file beside the document.

    The voice's first sample sounds ``late_s`` after the recording began, and it runs ``pace`` seconds of its
    own clock in one of the recording's.
    """

    seconds: float
    changes: tuple[Change, ...]
    voice: FileRef | None = None
    late_s: float = 0.0
    pace: float = 1.0

    def __post_init__(self) -> None:
        demand(_time(self.seconds), "a recording is at most three hours long")
        demand(len(self.changes) <= MOST_CHANGES, "a recording has at most two million changes")
        demand(all(a.t <= b.t for a, b in zip(self.changes, self.changes[1:], strict=False)),
               "what changes in a review stands in the order of time")  # fmt: skip
        demand(-60 <= self.late_s <= 60 and 0.5 <= self.pace <= 2, "a voice keeps pace with its review")


class Piece(Record, frozen=True):
    """A stretch of a take, in the order in which it is shown."""

    take: int
    start_s: float
    end_s: float

    def __post_init__(self) -> None:
        demand(0 <= self.start_s < self.end_s <= LONGEST_S, "a piece of a review has a beginning and an end")

    @property
    def seconds(self) -> float:
        return self.end_s - self.start_s


class Review(Record, frozen=True):
    """A review: whose swings, what was recorded, and which pieces of it are shown, one after another."""

    swings: tuple[ReviewedSwing, ...]
    takes: tuple[SpokenTake, ...]
    pieces: tuple[Piece, ...]
    id: str = ""
    title: str = ""
    golfer: str = ""
    day: datetime.date = datetime.date(2026, 1, 1)

    def __post_init__(self) -> None:
        demand_day(self.day)
        demand(len(self.pieces) <= MOST_PIECES, "a review has at most two thousand pieces")
        for piece in self.pieces:
            demand(0 <= piece.take < len(self.takes), "a piece is of one of the takes")
            demand(piece.end_s <= self.takes[piece.take].seconds + 1e-6, "a piece ends within its take")
        for take in self.takes:
            for change in take.changes:
                if change.swing is not UNSET:
                    demand(0 <= change.swing < len(self.swings), "a review shows one of its swings")

    @property
    def seconds(self) -> float:
        """How long it is as it is shown."""
        return sum(piece.seconds for piece in self.pieces)
