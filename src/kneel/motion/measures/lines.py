"""The reference lines an instructor draws, and the measure that is written at each, by view."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from kneel.model import View
from kneel.motion.measures.registry import ACROSS, ALONG, REGISTRY, Measure


@dataclass(frozen=True)
class Written:
    """A measure at a line: by its key, and what is written where it is + and where it is −."""

    measure: str
    plus: str
    minus: str


@dataclass(frozen=True)
class Line:
    """A reference line: what it is called on the desk, and what it measures from where."""

    title: str
    says: Mapping[View, Written]


def _line(title: str, across: Written | None = None, along: Written | None = None) -> Line:
    says = {view: across for view in ACROSS if across} | {view: along for view in ALONG if along}
    return Line(title, says)


LINES: Final[dict[str, Line]] = {
    "trail_hip": _line(
        "Plumb at the trail hip",
        Written("trail_hip_cross", "trail hip past its plumb", "trail hip inside its plumb"),
        Written("trail_hip_depth", "trail hip toward the ball", "trail hip deeper"),
    ),
    "lead_hip": _line(
        "Plumb at the lead hip",
        Written("lead_hip_cross", "lead hip past its plumb", "lead hip inside its plumb"),
        Written("lead_hip_depth", "lead hip toward the ball", "lead hip deeper"),
    ),
    "pelvis": _line(
        "Plumb at the tailbone",
        Written("pelvis_shift", "pelvis from the start line", "pelvis from the start line"),
        Written("pelvis_thrust", "pelvis toward the ball", "pelvis away from the ball"),
    ),
    "head": _line(
        "Plumb at the head",
        Written("head_shift", "head toward the target", "head away from the target"),
    ),
    "ball": _line(
        "Plumb at the ball", Written("head_to_ball", "head ahead of the ball", "head behind the ball")
    ),
    "lead_ankle": _line(
        "Plumb at the lead ankle",
        Written("lead_stack_hip", "lead hip past the ankle", "lead hip short of the ankle"),
    ),
    "seat": _line("Seat line", None, Written("seat_thrust", "seat off its line", "seat past its line")),
    "belt": _line(
        "Belt line", Written("pelvis_tilt", "pelvis, trail side higher", "pelvis, lead side higher")
    ),
    "shoulders": _line(
        "Shoulder line",
        Written("shoulder_tilt", "shoulders, trail side higher", "shoulders, lead side higher"),
    ),
    "trunk": _line(
        "Lower to upper centre",
        Written("side_tilt", "leaning away from the target", "leaning to the target"),
        Written("forward_bend", "bent forward", "bent backward"),
    ),
    "toes": _line(
        "Toe line", None, Written("hand_depth", "hands outside the toe line", "hands inside the toe line")
    ),
    "shaft": _line(
        "Shaft's line at address",
        Written("shaft_lean", "handle ahead", "handle behind"),
        Written("club_to_plane", "clubhead above the line", "clubhead under the line"),
    ),
}
"""In the order in which they stand on the desk."""


def measure_of_line(line: str, view: View) -> Measure | None:
    """The measure that is written at a reference line in a view, if there is one.

    >>> [measure_of_line(line, View.FACE_ON) is not None for line in ("nothing", *list(LINES)[:1])]
    [False, True]
    """
    written = LINES[line].says.get(view) if line in LINES else None
    return REGISTRY[written.measure] if written else None


def words_at(measure: Measure, view: View, value: float) -> str:
    """What is written beside a value of a measure on the picture.

    >>> words_at(REGISTRY["pelvis_shift"], View.FACE_ON, -3.0)
    'pelvis from the start line'
    """
    for line in LINES.values():
        written = line.says.get(view)
        if written is not None and written.measure == measure.key:
            return written.plus if value >= 0 else written.minus
    return measure.title[:1].lower() + measure.title[1:]
