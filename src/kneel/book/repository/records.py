"""What a column of JSON holds, as the record it is; and what a swing came to."""

from __future__ import annotations

from typing import Any, TypeVar

import msgspec
import numpy as np

from kneel.model import Ball, BookError, Override, Root
from kneel.model.plan import Way
from kneel.model.renamed import read_as_now
from kneel.model.take import Record
from kneel.motion.sample import Key

T = TypeVar("T")


class Seen(Record, frozen=True):
    """A fault that was seen in a swing, as the judge called it, and the check that decided it.

    ``limit`` is the window's as used, on the side that counts; the number has to go ``way`` to reach it.
    """

    fault: str
    verdict: str
    measure: str = ""
    at: str = ""
    unit: str = ""
    value: float | None = None
    sigma: float | None = None
    limit: float | None = None
    way: Way = "up"

    def __post_init__(self) -> None:
        read_as_now(self, "fault")

    def root(self, *, drill: str = "", by_hand: bool = False) -> Root:
        """What a lesson works on where this is it."""
        return Root(
            self.fault,
            self.verdict,
            self.measure,
            self.at,
            self.unit,
            self.value,
            self.sigma,
            self.limit,
            self.way,
            drill,
            by_hand=by_hand,
        )


class Facts(Record, frozen=True):
    """What a list, stills and a trend need of a swing besides its numbers.

    ``moments`` are frames of the clip by checkpoint; ``cm_per_px`` is None without a scale in length;
    ``middle`` is where the hips' middle is at address, px. ``size``, ``source`` of the scale and
    ``cm_per_unit`` are as :class:`kneel.judge.numbers.Numbers` has them; ``direction`` is that of the
    target in the picture, +1 to the right. ``rate`` is at how many frames a second it was filmed, None as
    stored. ``seen`` are faults at work, what to work on first in front.
    """

    moments: dict[str, int] = msgspec.field(default_factory=dict)
    cm_per_px: float | None = None
    middle: tuple[float, float] | None = None
    hand: str = "right"
    direction: int = 1
    size: float = 1.0
    cm_per_unit: float = 1.0
    source: tuple[str, float] = ("stance", 0.0)
    blind: bool = False
    rate: float | None = None
    seen: tuple[Seen, ...] = ()
    overrides: tuple[Override, ...] = ()
    ball: Ball | None = None
    complaint: str = ""
    flight: str = ""


def as_json(record: msgspec.Struct) -> Any:
    """A record as a column of JSON holds it."""
    return msgspec.to_builtins(record)


def told(content: object, kind: type[T]) -> T:
    """The record in a column of JSON. Raises :class:`BookError`."""
    try:
        return msgspec.convert(content, kind)
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        raise BookError(
            f"A {kind.__name__.lower()} in the Book is damaged, or of a newer Kneel; it is untouched. "
            "“kneel book check” names it; a copy can be restored."
        ) from error


LEAST_SHARE = 1e-4
"""A cause that makes less than this of the variance is not kept."""


def packed_causes(causes: dict[Key, float], sigma: float) -> bytes:
    """How far each cause moves a value, as small as it can be kept; of no cause is more lost than counts."""
    least = LEAST_SHARE * sigma**2
    kept = {key: moved for key, moved in causes.items() if moved**2 > least}
    names = ["\t".join(map(str, key)) for key in kept]
    return msgspec.msgpack.encode((names, np.array(list(kept.values()), dtype="<f4").tobytes()))


def unpacked_causes(raw: bytes) -> dict[Key, float]:
    """The causes again. Raises :class:`BookError`."""
    try:
        names, moved = msgspec.msgpack.decode(raw, type=tuple[list[str], bytes])
        values = np.frombuffer(moved, dtype="<f4").tolist()
        return {tuple(name.split("\t")): value for name, value in zip(names, values, strict=True)}
    except (msgspec.MsgspecError, ValueError) as error:
        raise BookError(
            "The numbers of a swing in the Book are damaged; they are made anew when its clip is looked at "
            "again."
        ) from error
