"""The corrected ghost of a swing under a school: its corridor, and the body moved into it."""

from __future__ import annotations

from kneel.judge.corridor import corridor_of
from kneel.judge.finding import Finding
from kneel.judge.numbers import SIZED_FOR_CM, body_size
from kneel.judge.records import School
from kneel.model import Club
from kneel.motion.ghost import AimAt, Ghost, NoGhost, correct
from kneel.motion.scale import Scale
from kneel.motion.study import Study


def stature_of(study: Study) -> float | None:
    """The golfer's stature in the scale's unit; None where only stance widths are known.

    >>> from kneel.motion.example import example
    >>> stature_of(example())
    175.0
    """
    scale = study.scale
    if not isinstance(scale, Scale) or scale.unit == "stance":
        return None
    return body_size(study) * SIZED_FOR_CM / scale.cm_per_unit


def ghost_of(
    study: Study, school: School, key: str, club: Club, finding: Finding | None = None
) -> Ghost | NoGhost:
    """A swing with a measure inside its windows, those by which ``finding`` was judged before the school's.

    >>> from kneel.judge.knowledge import shipped
    >>> from kneel.motion.example import example
    >>> ghost = ghost_of(example(), shipped().schools["centred"], "pelvis_shift", Club.IRON)
    >>> round(ghost.value(48), 2)
    -1.5
    """
    found = corridor_of(study, school, key, club, finding)
    limits = []
    if found is not None:
        rows = (found.frames, found.lo, found.hi, found.slack)
        limits = [AimAt(*map(float, row)) for row in zip(*rows, strict=True)]
    return correct(study, key, limits, stature_of(study))
