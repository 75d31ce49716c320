"""A lesson: one student on one day, what was worked on, what was said and what went home."""

from __future__ import annotations

import datetime
import math

from kneel.model.plan import Way
from kneel.model.renamed import read_as_now
from kneel.model.student import LONGEST_TEXT
from kneel.model.take import Record, demand, demand_day


class Root(Record, frozen=True):
    """What a lesson worked on: a fault, the number it was told by then, and the drill that was given.

    ``limit`` is where the number has to come, going ``way``, and None where none could be held to.
    ``by_hand`` is whether the instructor chose it. ``given_up`` is why it is not pursued any more.
    ``verdict`` is what the lesson's swings were called: fault, watch, clear or unknown.
    """

    fault: str
    verdict: str = "fault"
    measure: str = ""
    at: str = ""
    unit: str = ""
    value: float | None = None
    sigma: float | None = None
    limit: float | None = None
    way: Way = "up"
    drill: str = ""
    by_hand: bool = False
    given_up: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "fault", "drill")
        numbers = [one for one in (self.value, self.sigma, self.limit) if one is not None]
        demand(all(math.isfinite(one) and abs(one) < 1e6 for one in numbers), "a root's numbers are finite")
        demand((self.value is None) == (self.sigma is None), "a root's number comes with its error")
        demand(self.sigma is None or self.sigma >= 0, "an error is not below zero")
        demand(len(self.given_up) <= LONGEST_TEXT, "a reason has a bound")

    @property
    def pursued(self) -> bool:
        """Whether it was worked on: a fault, or what somebody chose or gave a drill for; no mere watch."""
        return not self.given_up and (self.verdict == "fault" or self.by_hand or bool(self.drill))

    def inside(self, value: float) -> float | None:
        """How far a value is inside the limit; negative is not there yet, None without a limit."""
        if self.limit is None:
            return None
        return value - self.limit if self.way == "up" else self.limit - value


class Handed(Record, frozen=True):
    """Something that went home: ``what`` is page, clip or calendar, ``name`` that of its file."""

    day: datetime.date
    what: str
    name: str = ""


class Lesson(Record, frozen=True):
    """One student's lesson of one day. ``said`` is what was said; ``root`` what it worked on."""

    student: str
    day: datetime.date
    id: str = ""
    complaint: str = ""
    flight: str = ""
    said: str = ""
    root: Root | None = None
    handed: tuple[Handed, ...] = ()
    archived: bool = False

    def __post_init__(self) -> None:
        demand_day(self.day)
        texts = (self.complaint, self.flight, self.said)
        demand(max(map(len, texts)) <= LONGEST_TEXT, f"a lesson's texts have at most {LONGEST_TEXT} letters")
