"""What a drill's table holds; the files lie in ``drills/``, how one reads stands in ``drills/setup.toml``."""

from __future__ import annotations

from typing import Literal

from kneel.judge.records import KnowledgeTable
from kneel.model import RUNGS, Club, Flag, Prop, Rung, Shot, Where
from kneel.model.plan import Way
from kneel.model.renamed import read_as_now

PARTS = (Flag.BACK, Flag.HIP, Flag.KNEE, Flag.ANKLE)
"""What a drill can load."""

CARE = (
    "Warm up first, go slowly, and stop at pain: see a licensed medical professional for it. "
    "Keep people, glass and hard things out of the swing’s reach."
)
"""The caution that stands with every plan, besides each drill's own."""


class Cure(KnowledgeTable, frozen=True):
    """A fault that the drill is for, and the number of it that must change, by how much in two weeks.

    ``lo``, ``hi`` and ``margin`` are the number's window in the drill itself, where that is not the school's.
    """

    fault: str
    measure: str
    at: str
    by: float
    lo: float | None = None
    hi: float | None = None
    margin: float = 2.0

    def __post_init__(self) -> None:
        read_as_now(self, "fault")


class Watch(KnowledgeTable, frozen=True):
    """A number that the drill can spoil: it must not go ``way`` by more than ``by``."""

    measure: str
    at: str
    way: Way
    by: float


class Dose(KnowledgeTable, frozen=True):
    """Sets of so many repetitions, without a ball."""

    sets: int
    low: int
    high: int


class Drill(KnowledgeTable, frozen=True):
    """One drill.

    ``wrong_for`` and ``first`` are faults that must not be at work: with the one it is the wrong drill, with
    the other it waits. ``props`` are all wanted, of each tuple any. ``carry`` is how far the ball flies, m.
    ``loads`` asks for a warning with such a flag, ``not_for`` forbids. One that is ``second`` is for what
    arms or club do, and offered only once the root holds.
    """

    key: str
    title: str
    cures: tuple[Cure, ...]
    wrong: str
    props: tuple[tuple[Prop, ...], ...]
    places: tuple[Where, ...]
    steps: tuple[str, ...]
    feel: str
    guards: tuple[Watch, ...]
    before: str
    dose: Dose
    ladder: tuple[str, ...]
    mistakes: tuple[str, ...]
    clubs: tuple[Club, ...]
    carry: tuple[int, int]
    length: Literal["half", "three-quarter", "full"]
    surface: str
    felt: str
    sore: str
    pain: str
    loads: tuple[Flag, ...]
    care: tuple[str, ...]
    film: str
    wrong_for: tuple[str, ...] = ()
    first: tuple[str, ...] = ()
    not_for: tuple[Flag, ...] = ()
    shots: tuple[Shot, ...] = ()
    second: bool = False

    def __post_init__(self) -> None:
        read_as_now(self, "key", "wrong_for", "first")

    def cure(self, fault: str, measure: str = "") -> Cure | None:
        """What it does for a fault; by this number of it, where it speaks of several."""
        mine = [cure for cure in self.cures if cure.fault == fault]
        return next((cure for cure in mine if cure.measure == measure), next(iter(mine), None))

    def on(self, rung: Rung) -> str:
        """How it is done on a rung."""
        return self.ladder[RUNGS.index(rung)]

    @property
    def texts(self) -> tuple[str, ...]:
        """All that is said to the student."""
        return (
            self.wrong,
            *self.steps,
            self.feel,
            self.before,
            *self.ladder,
            *self.mistakes,
            self.surface,
            self.felt,
            self.sore,
            self.pain,
            *self.care,
            self.film,
        )
