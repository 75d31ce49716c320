"""Version 1 of the JSON that ``kneel analyze`` writes; its schema lies in ``docs/schemas``.

Lengths are in the unit named beside them, angles in degrees, times in real
seconds. What is not known is null. Fields may be added; none goes or changes its meaning.
"""

from __future__ import annotations

from typing import Any, Literal

import msgspec

VERSION = 1

Number = float | None


class Part(msgspec.Struct, frozen=True):
    """A part of the result."""


class Scale(Part, frozen=True):
    """``sigma`` is that of ``cm_per_px``, which is in cm whatever lengths are told in; of a scale in stance
    widths it is relative.
    """

    unit: Literal["cm", "in", "stance"]
    cm_per_px: Number
    sigma: Number
    source: str


class Camera(Part, frozen=True):
    """How far off square and level the camera is taken to stand, in degrees, and by what."""

    yaw_deg: float
    yaw_sigma_deg: float
    roll_deg: float
    roll_sigma_deg: float
    told_by: tuple[str, ...]


class Checkpoint(Part, frozen=True):
    """``frame`` is the file's own number of the frame that stands for it."""

    frame: int
    time_s: Number
    sigma_s: Number
    source: Literal["found", "marked", "sound"]


class Value(Part, frozen=True, omit_defaults=True):
    """A value with its standard error; where the error is not symmetric, ``low`` and ``high`` hold 95 %."""

    value: Number
    sigma: Number
    low: Number = None
    high: Number = None


class Measure(Part, frozen=True, omit_defaults=True):
    """A measure at the checkpoints, or ``once``. ``estimate`` says what kind of estimate it is."""

    unit: Literal["cm", "in", "stance", "deg", "ratio", "%", "s", "ms"]
    at: dict[str, Value] = {}
    once: Value | None = None
    estimate: str = ""


class Finding(Part, frozen=True):
    fault: str
    verdict: Literal["fault", "watch", "clear", "unknown"]
    probability: Number
    severity: Number
    checkpoint: str | None
    measure: str | None
    unit: str | None
    value: Number
    sigma: Number
    window: tuple[Number, Number] | None
    root: bool
    explains: tuple[str, ...]
    text: str
    reasons: tuple[str, ...]
    because: str | None = None
    """The fault at work that it hangs under."""
    place: str = ""
    """Where it stands in the chain, in words."""
    why_not: str = ""
    """Why it is unknown: view, kind, school, plate, missing or doubt."""
    override: str = ""
    """What the instructor says of it: rejected, added or left."""
    explains_balls: int = 0
    """Of how many noted balls it would bring the miss."""


class Quality(Part, frozen=True):
    """How well a point is followed from address to finish."""

    grade: str
    usual_px: Number
    worst_px: Number
    spoilt: tuple[str, ...]


class Judgement(Part, frozen=True):
    """The same swing under another school."""

    school: str
    findings: tuple[Finding, ...]
    priority: tuple[str, ...]
    differences: tuple[str, ...] = ()


class Balls(Part, frozen=True):
    """What the noted balls did: how many there were, how many were good, how many missed by what.

    ``beside_good`` are faults that stand although ball and club are good; ``text`` says all that.
    """

    count: int
    good: int
    misses: dict[str, int]
    beside_good: tuple[str, ...]
    text: str


class Space(Part, frozen=True):
    """A second camera: ``offset_s`` is its clock less that of the first, ``left_cm`` how far apart both see
    the hands then.
    """

    offset_s: Number
    sigma_s: Number
    left_cm: Number


class Result(Part, frozen=True, omit_defaults=True):
    """The whole answer. ``kind`` is what was swung, said or guessed; ``missing`` why a measure is none.

    ``text`` says what to work on, ``well`` what is done well.
    """

    kneel: int
    clip: dict[str, Any]
    kind: str
    school: str
    scale: Scale
    camera: Camera
    checkpoints: dict[str, Checkpoint]
    measures: dict[str, Measure]
    missing: dict[str, str]
    findings: tuple[Finding, ...]
    priority: tuple[str, ...]
    text: str
    well: str
    quality: dict[str, Quality]
    warnings: tuple[str, ...]
    against: Judgement | None = None
    balls: Balls | None = None
    space: Space | None = None


class Shown(Finding, frozen=True):
    """A finding over a lesson: the swings in which it is at work, by their numbers from 0."""

    swings: tuple[int, ...] = ()
    seen: str = ""


class SetFinding(Finding, frozen=True):
    """A finding of a set's typical swing: in how many of its swings it is at work, and their spread.

    ``value`` is the mean, ``sigma`` its error, ``spread`` the standard deviation from swing to swing.
    """

    swings: tuple[int, ...] = ()
    count: str = ""
    spread: Number = None


class Set(Part, frozen=True):
    """Several swings of one view, club and kind."""

    view: str
    club: str
    kind: str
    swings: tuple[int, ...]
    findings: tuple[SetFinding, ...]
    priority: tuple[str, ...]


class Lesson(Part, frozen=True):
    """Several swings of one lesson, pooled by view, club and kind."""

    school: str
    swings: tuple[Result, ...]
    sets: tuple[Set, ...]
    findings: tuple[Shown, ...]
    priority: tuple[str, ...]
    text: str
    well: str
    balls: Balls | None = None


class LessonResult(Part, frozen=True):
    kneel: int
    lesson: Lesson


def schema() -> dict[str, Any]:
    """The JSON schema of :class:`Result`, or of a lesson of several."""
    return schema_of(Result, LessonResult)


def as_content(result: Part) -> dict[str, Any]:
    """As plain parts, ready for JSON."""
    return dict(msgspec.to_builtins(result))


def schema_of(*kinds: type[Part]) -> dict[str, Any]:
    """The JSON schema of either of some results."""
    either, parts = msgspec.json.schema_components(kinds, ref_template="#/$defs/{name}")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "anyOf": list(either),
        "$defs": parts,
    }
