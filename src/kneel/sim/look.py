"""What a simulated golfer wears, and what surrounds it: for the picture only, never for the truth."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

Colour = tuple[int, int, int]

ORANGE_TAPE: Final[Colour] = (255, 92, 20)


class Outfit(StrEnum):
    """What the legs wear."""

    TROUSERS = "trousers"
    WIDE = "wide"
    SHORTS = "shorts"
    SKIRT = "skirt"


class Weave(StrEnum):
    """What is printed on shirt and cloth."""

    PLAIN = "plain"
    STRIPES = "stripes"
    CHECKS = "checks"


@dataclass(frozen=True)
class Appearance:
    """Colours 0..255 RGB; ``loose_cm`` is how far cloth lags behind joints; ``tape`` marks knees and hips,
    ``band`` is that of a brace on the trail knee and of the lead sock.

    ``untucked`` is a shirt that hangs down over the hips; ``face`` False leaves the head blank.
    """

    shirt: Colour = (150, 182, 165)
    trousers: Colour = (86, 84, 108)
    hair: Colour = (66, 46, 34)
    skin: Colour = (214, 168, 138)
    shoes: Colour = (228, 226, 220)
    outfit: Outfit = Outfit.TROUSERS
    weave: Weave = Weave.PLAIN
    untucked: bool = False
    face: bool = True
    long_hair: bool = False
    cap: Colour | None = None
    loose_cm: float = 0.0
    tape: Colour | None = None
    band: Colour | None = None


class FilmPlace(StrEnum):
    """Where the swing is filmed."""

    RANGE = "range"
    GRASS = "grass"
    BAY = "bay"
    NET = "net"


class Light(StrEnum):
    """How the place is lit."""

    SUN = "sun"
    OVERCAST = "overcast"
    EVENING = "evening"
    LAMPS = "lamps"
    DIM = "dim"
