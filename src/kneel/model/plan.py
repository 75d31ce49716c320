"""A plan of practice: one fault, one drill, the days of some weeks, and what has been done of it.

What follows from it (the calendar, the rung somebody stands on) is computed by
:mod:`kneel.practice` and never stored.
"""

from __future__ import annotations

import datetime
import math
from enum import StrEnum
from typing import Literal

from kneel.model.names import Club, View
from kneel.model.renamed import read_as_now
from kneel.model.swing import Kind
from kneel.model.take import FileRef, Record, demand, demand_day

SHORTEST_DAYS, LONGEST_DAYS = 7, 30
LEAST_MINUTES, MOST_MINUTES = 5, 90
MOST_LOGGED = 400

Way = Literal["up", "down"]


class Rung(StrEnum):
    """A rung of the ladder: what is swung, from nothing at a ball to everything."""

    NO_BALL = "no ball"
    HALF = "half"
    THREE_QUARTER = "three-quarter"
    FULL = "full"


RUNGS = tuple(Rung)


def _finite(*values: float | None) -> bool:
    return all(value is None or (math.isfinite(value) and abs(value) < 1e6) for value in values)


def days_of_a_week(weekdays: tuple[int, ...]) -> bool:
    """Whether these are one to seven days of a week, counted from Monday, 0, none twice.

    >>> days_of_a_week((0, 2, 4)), days_of_a_week((1, 1)), days_of_a_week(())
    (True, False, False)
    """
    return 0 < len(weekdays) == len(set(weekdays)) and set(weekdays) <= set(range(7))


class Aim(Record, frozen=True):
    """The number a plan is about: a measure at a checkpoint, and the limit it has to pass, going ``way``.

    ``unit`` is that of ``limit``, ``start`` and ``by``; ``by`` is the least change worth the name. ``start``
    is the number when the plan was made, with its standard error; None where it could not be told.
    """

    measure: str
    at: str
    unit: str
    way: Way
    limit: float
    by: float
    start: float | None = None
    sigma: float | None = None

    def __post_init__(self) -> None:
        demand(_finite(self.limit, self.by, self.start, self.sigma), "a plan's numbers are finite")
        demand(self.by > 0, "a plan's number has to change by more than nothing")
        demand(self.sigma is None or self.sigma >= 0, "an error is not below zero")

    def inside(self, value: float, limit: float | None = None) -> float:
        """How far a value is inside the limit, or inside that of a rung; negative is not there yet.

        >>> Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5).inside(-2.0)
        -0.5
        """
        edge = self.limit if limit is None else limit
        return value - edge if self.way == "up" else edge - value


class Guard(Record, frozen=True):
    """A number that must not get worse: not go ``way`` by more than ``by``."""

    measure: str
    at: str
    unit: str
    way: Way
    by: float
    start: float | None = None
    sigma: float | None = None

    def __post_init__(self) -> None:
        demand(_finite(self.by, self.start, self.sigma), "a guard's numbers are finite")


class Practised(Record, frozen=True):
    """A session that took place: on which rung, how much of it, and whether its number held.

    ``value`` with its error ``sigma`` is told where it was filmed; ``held`` is what the student says where
    not, and None where nobody looked.
    """

    date: datetime.date
    rung: Rung
    repetitions: int = 0
    held: bool | None = None
    value: float | None = None
    sigma: float | None = None

    def __post_init__(self) -> None:
        demand_day(self.date)
        demand(0 <= self.repetitions <= 1000, "a session has 0 to 1000 repetitions")
        demand(_finite(self.value, self.sigma), "a session's numbers are finite")
        demand((self.value is None) == (self.sigma is None), "a number that was filmed comes with its error")
        demand(self.sigma is None or self.sigma >= 0, "an error is not below zero")


class Queued(Record, frozen=True):
    """What is worked on once the first thing holds."""

    fault: str
    drill: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "fault", "drill")


class Plan(Record, frozen=True):
    """Some weeks of practice on one thing.

    ``weekdays`` count from Monday, 0. ``ladder`` holds the limit of each rung. ``before`` are the swings it
    was made on, ``after`` those that ask whether it changed. ``ended`` is why it is over, if it is. ``among``
    is of how many numbers at work its own was chosen: the worst of several was so in part by chance, and that
    counts when it is asked whether it changed.
    """

    fault: str
    drill: str
    aim: Aim
    ladder: tuple[float, ...]
    start: datetime.date
    days: int
    weekdays: tuple[int, ...]
    minutes: int
    check_in: datetime.date
    school: str = "centred"
    view: View = View.FACE_ON
    club: Club = Club.IRON
    kind: Kind = Kind.FULL
    guards: tuple[Guard, ...] = ()
    queued: tuple[Queued, ...] = ()
    log: tuple[Practised, ...] = ()
    before: tuple[FileRef, ...] = ()
    after: tuple[FileRef, ...] = ()
    ended: str = ""
    among: int = 1

    def __post_init__(self) -> None:
        demand_day(self.start)
        demand_day(self.check_in)
        demand(SHORTEST_DAYS <= self.days <= LONGEST_DAYS, "a plan lasts 7 to 30 days")
        demand(LEAST_MINUTES <= self.minutes <= MOST_MINUTES, "a session lasts 5 to 90 minutes")
        demand(days_of_a_week(self.weekdays), "a plan has one to seven days of the week")
        demand(len(self.ladder) == len(RUNGS) and _finite(*self.ladder), "a ladder has a limit for each rung")
        demand(7 <= (self.check_in - self.start).days <= 14, "the check-in comes after one to two weeks")
        demand(len(self.log) <= MOST_LOGGED, "a plan has at most 400 sessions")
        demand(1 <= self.among <= 1000, "a plan's number was chosen of at least one")
