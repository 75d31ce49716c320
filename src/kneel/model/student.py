"""A student: who it is, what hurts, where and with what there is practice, the plans and cues so far."""

from __future__ import annotations

import datetime
import math
from enum import StrEnum

from kneel.model.names import Club, Hand
from kneel.model.plan import LEAST_MINUTES, MOST_MINUTES, Plan, days_of_a_week
from kneel.model.renamed import read_as_now
from kneel.model.swing import Swing
from kneel.model.take import Record, Stature, demand, demand_day

LONGEST_NAME, LONGEST_TEXT = 120, 20_000
"""Letters of a name, and of goals, notes and what was said."""


class Flag(StrEnum):
    """What has to be taken care of."""

    BACK = "back"
    HIP = "hip"
    KNEE = "knee"
    ANKLE = "ankle"
    MOBILITY = "little mobility"
    JUNIOR = "junior"
    SENIOR = "senior"
    BEGINNER = "beginner"


class Where(StrEnum):
    """Where there is practice."""

    HOME = "home"
    RANGE = "range"
    COURSE = "course"


class Prop(StrEnum):
    """What a drill is done with, besides a club, a ball and a tee, which everybody has."""

    STICK = "stick"
    SOFT_STICK = "soft stick"
    CHAIR = "chair"
    WALL = "wall"
    MIRROR = "mirror"
    TOWEL = "towel"
    BAG = "bag"
    BOTTLE = "bottle"
    BOARD = "board"
    HALF_BALL = "half ball"
    CLUB = "club"
    TEE = "tee"


ALWAYS = (Prop.CLUB, Prop.TEE)
"""What every golfer has at hand."""


class Shot(StrEnum):
    """What the ball is wanted to do."""

    DRAW = "draw"
    FADE = "fade"
    HIGH = "high"
    LOW = "low"


class Sex(StrEnum):
    """As far as the proportions of a body hang on it; nobody has to say."""

    WOMAN = "woman"
    MAN = "man"


class Cue(Record, frozen=True):
    """Words that were said before a swing, and a number before and after it, each with its standard error.

    ``way`` is where the number should go, ``up`` or ``down``. ``sigma`` is the standard error of what lies
    between the two; without it the two errors are taken as independent. ``felt`` is how
    much it felt like, in the student's own words.
    """

    words: str
    date: datetime.date
    fault: str
    measure: str
    at: str
    unit: str
    way: str
    before: float
    before_sigma: float
    after: float
    after_sigma: float
    sigma: float | None = None
    felt: str = ""

    def __post_init__(self) -> None:
        read_as_now(self, "fault")
        demand_day(self.date)
        numbers = (self.before, self.before_sigma, self.after, self.after_sigma, self.sigma or 0.0)
        demand(all(map(math.isfinite, numbers)), "a cue's numbers are finite")
        demand(bool(self.words.strip()) and len(self.words) <= 200, "a cue has 1 to 200 letters")
        demand(len(self.felt) <= 200, "what was felt has at most 200 letters")
        demand(self.way in ("up", "down"), "a number goes up or down")
        demand(min(self.before_sigma, self.after_sigma, self.sigma or 0) >= 0, "an error is not below zero")


class Student(Record, frozen=True):
    """Who practises. ``places`` and ``props`` are those at hand, None where nobody has said.

    ``weekdays`` count from Monday, 0. ``plans`` are oldest first; the last one runs while it is not ended.
    ``tried`` are cues, oldest first. ``id`` is the Book's, empty until it is there; ``born`` a year;
    ``hand``, ``stature_cm``, ``sex`` and ``school`` are None or empty where nobody has said.
    """

    name: str = ""
    flags: tuple[Flag, ...] = ()
    places: tuple[Where, ...] | None = None
    props: tuple[Prop, ...] | None = None
    shot: Shot | None = None
    weekdays: tuple[int, ...] = (0, 2, 5, 6)
    minutes: int = 15
    plans: tuple[Plan, ...] = ()
    tried: tuple[Cue, ...] = ()
    id: str = ""
    hand: Hand | None = None
    stature_cm: float | None = None
    sex: Sex | None = None
    born: int | None = None
    school: str = ""
    clubs: tuple[Club, ...] = ()
    goals: str = ""
    notes: str = ""
    archived: bool = False

    def __post_init__(self) -> None:
        demand(len(self.name) <= LONGEST_NAME, f"a name has at most {LONGEST_NAME} letters")
        demand(max(len(self.goals), len(self.notes)) <= LONGEST_TEXT, "goals and notes have a bound")
        tall = self.stature_cm
        demand(tall is None or 80 <= tall <= 250, "a stature is 80 to 250 cm")
        demand(self.born is None or 1900 <= self.born <= 2100, "a year of birth is 1900 to 2100")
        demand(LEAST_MINUTES <= self.minutes <= MOST_MINUTES, "a session lasts 5 to 90 minutes")
        demand(days_of_a_week(self.weekdays), "there are one to seven days of the week")

    @property
    def plan(self) -> Plan | None:
        """The plan that runs."""
        return self.plans[-1] if self.plans and not self.plans[-1].ended else None


def body_of(
    student: Student, swing: Swing, hand: Hand | None = None, stature_cm: float | None = None
) -> dict[str, object]:
    """What is known of a student that a swing only guesses, or has as it was known before: ``hand`` and
    ``stature_cm``.

    >>> from kneel.model.swing import Swing
    >>> body_of(Student("Nils Amsel", stature_cm=181.0), Swing().given(guessed=("scale",)))
    {'scale': Stature(stature_cm=181.0, sigma_cm=0.0)}
    """
    told: dict[str, object] = {}
    before = stature_cm is not None and swing.scale == Stature(stature_cm)
    if student.stature_cm not in (None, stature_cm) and ("scale" in swing.guessed or before):
        told["scale"] = Stature(student.stature_cm)
    if student.hand not in (None, hand) and ("hand" in swing.guessed or hand is swing.hand):
        told["hand"] = student.hand
    return told
