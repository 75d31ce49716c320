"""What is kept: how swings are asked for, what a swing truly shows, and what was answered."""

from __future__ import annotations

import datetime
from enum import IntEnum
from typing import Literal

import msgspec

from kneel.model import Club, Hand, View

Clothes = Literal["close", "loose", "wide"]
LightKind = Literal["good", "poor"]
Shown = Literal["steps", "half", "full"]

SIZES = (1.0, 1.5, 2.0)
"""How far past what the school allows a fault is, in steps of severity."""

CLOTHES: tuple[Clothes, ...] = ("close", "loose", "wide")
LIGHTS: tuple[LightKind, ...] = ("good", "poor")
SHOWN: tuple[Shown, ...] = ("steps", "half", "full")
LENGTHS = (10, 20, 40)
REST, GO_ON = "rest", "go on"
"""What the process that makes swings is told beside its wishes."""


class Sure(IntEnum):
    """How sure an answer is."""

    GUESS = 0
    HALF = 1
    RATHER = 2
    CERTAIN = 3


class Record(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Bounds are held by the records."""


class Settings(Record, frozen=True):
    """How hard a round is; None leaves a choice open, and both or all come.

    ``shown`` is ``steps`` (once at half speed, then as one likes), ``half`` or ``full`` (once at that speed
    and never again); ``most`` how many faults a swing has at most.
    """

    view: View | None = None
    size: float = 1.5
    most: int = 1
    clothes: Clothes | None = None
    light: LightKind | None = None
    hand: Hand | None = None
    shown: Shown = "steps"
    swings: int = 20

    def __post_init__(self) -> None:
        if self.size not in SIZES or self.most not in (1, 2) or self.swings not in LENGTHS:
            raise ValueError("a round's settings are none that the trainer has")


class Shot(Record, frozen=True):
    """What a stocked swing was made to be: how it was filmed and what was planted, of which size."""

    view: View
    hand: Hand
    size: float
    planted: tuple[str, ...]
    clothes: Clothes
    light: LightKind
    seed: int


class Stocked(Record, frozen=True):
    """A swing with its truth. ``past`` has for every fault asked for how many steps of severity it is past
    its limit, negative inside; ``values`` the number that its size is asked of, in centimetres or degrees.

    ``points`` are exact, px, by anatomical name: a list of x and one of y; ``checkpoints`` frames.
    """

    id: str
    shot: Shot
    past: dict[str, float]
    values: dict[str, float]
    club: Club
    stature_cm: float
    cm_per_px: float
    rate: float
    size_px: tuple[int, int]
    checkpoints: dict[str, float]
    points: dict[str, tuple[list[float], list[float]]]
    version: int = 1


class Answer(Record, frozen=True):
    """One swing judged by eye. It holds all that scores need, so that the swing itself may go.

    ``present`` are the faults that were truly there, ``absent`` those that were not; what lies between is
    neither. ``named`` were named, ``said`` their sizes as far as these were set, ``true`` what they are.
    ``when`` is UTC, ISO 8601. ``by`` is who answered, empty for whoever's desk it is.
    """

    when: str
    swing: str
    view: View
    size: float
    shown: Shown
    present: tuple[str, ...]
    absent: tuple[str, ...]
    named: tuple[str, ...]
    sure: Sure
    said: dict[str, float] = {}
    true: dict[str, float] = {}
    by: str = ""

    def __post_init__(self) -> None:
        if datetime.datetime.fromisoformat(self.when).tzinfo is None:
            raise ValueError("an answer's time names its zone")

    @property
    def missed(self) -> tuple[str, ...]:
        """What was there and not named."""
        return tuple(key for key in self.present if key not in self.named)

    @property
    def false(self) -> tuple[str, ...]:
        """What was named and not there."""
        return tuple(key for key in self.named if key in self.absent)

    @property
    def right(self) -> bool:
        """Whether all that was there was named, and nothing that was not."""
        return not self.missed and not self.false
