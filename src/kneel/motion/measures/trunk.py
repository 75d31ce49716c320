"""Trunk, shoulders and head."""

from __future__ import annotations

from kneel.model import View
from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import (
    SIDES,
    TURN_SIGMA,
    FloatArray,
    Points,
    both,
    degrees,
    middle,
    shown,
    tilt,
    turn,
    turned_by,
    x,
    y,
)
from kneel.motion.measures.pelvis import hips_shown
from kneel.motion.measures.registry import ACROSS, ALONG, ANY, Figure, Shape, Unit, measure

TRUNK = (*both("hip"), *both("shoulder"))
SHOULDERS = both("shoulder")


@measure(
    "side_tilt",
    "Side tilt",
    Unit.ANGLE,
    views=ACROSS,
    needs=TRUNK,
    positive="leaning away from the target",
    hint="+ away",
    figure=Figure(Shape.ANGLE, TRUNK),
    check="schools' windows at the top, −5 to 12° (common practice, no source)",
    carried=Carried.TRUNK,
)
def side_tilt(now: Points, _: Points) -> FloatArray:
    """The line from lower to upper centre against the vertical.

    >>> from kneel.motion.measures.example import across
    >>> side_tilt(across("impact"), across("address")).round(1).item()
    14.5
    """
    spine = middle(now, "shoulder") - middle(now, "hip")
    return degrees(-x(spine), y(spine))


@measure(
    "trunk_bend",
    "Trunk against the hip line",
    Unit.ANGLE,
    views=ACROSS,
    needs=TRUNK,
    positive="bent away from the target",
    hint="+ away",
    figure=Figure(Shape.ANGLE, TRUNK),
)
def trunk_bend(now: Points, _: Points) -> FloatArray:
    """The line from lower to upper centre against the normal of the hip line: side bend on the pelvis.

    >>> from kneel.motion.measures.example import across
    >>> trunk_bend(across("top"), across("address")).round(1).item()
    9.5
    """
    hips = now["lead_hip"] - now["trail_hip"]
    spine = middle(now, "shoulder") - middle(now, "hip")
    return turned_by(hips, spine) - 90.0


@measure(
    "shoulder_tilt",
    "Shoulder tilt",
    Unit.ANGLE,
    views=ACROSS,
    needs=SHOULDERS,
    then=SHOULDERS,
    positive="trail side higher",
    figure=Figure(Shape.SEGMENT, SHOULDERS),
    check="0 to −10° at address, about −15° at impact (common practice, no source)",
)
def shoulder_tilt(now: Points, then: Points) -> FloatArray:
    """Arc sine of the shoulders' vertical separation over their separation at address.

    >>> from kneel.motion.measures.example import across
    >>> shoulder_tilt(across("top"), across("address")).round(1).item()
    31.7
    """
    return tilt(now["trail_shoulder"] - now["lead_shoulder"], then["trail_shoulder"] - then["lead_shoulder"])


def shoulders_shown(now: Points, then: Points) -> FloatArray:
    """How much of the line of the shoulders lies across as at address, which no turn takes past 1.

    >>> from kneel.motion.measures.example import across
    >>> shoulders_shown(across("top"), across("address")).round(2).item()
    0.0
    """
    return shown(*(p["lead_shoulder"] - p["trail_shoulder"] for p in (now, then)))


@measure(
    "shoulder_turn",
    "Shoulder turn",
    Unit.ANGLE,
    views=ACROSS,
    needs=SHOULDERS,
    then=SHOULDERS,
    turns=("shoulder",),
    own=TURN_SIGMA,
    bends=True,
    cosines=[shoulders_shown],
    positive="open to the target",
    hint="+ open",
    figure=Figure(Shape.SEGMENT, SHOULDERS),
    estimate="An estimate from foreshortening: near square its error is large.",
    check="about 87° at the top (McTeigue 1994, from memory)",
)
def shoulder_turn(now: Points, then: Points) -> FloatArray:
    """How far the line of the shoulders is foreshortened since address; its sign comes from the phase.

    >>> import numpy as np
    >>> from kneel.motion.measures.example import across
    >>> top = dict(across("top")) | {"closed_shoulder": np.array(-1.0)}
    >>> shoulder_turn(top, across("address")).round(1).item()
    -90.0
    """
    gap, rest = (p["lead_shoulder"] - p["trail_shoulder"] for p in (now, then))
    return now["closed_shoulder"] * turn(gap, rest)


@measure(
    "separation",
    "Shoulders against pelvis",
    Unit.ANGLE,
    views=ACROSS,
    needs=TRUNK,
    then=TRUNK,
    turns=("hip", "shoulder"),
    own=TURN_SIGMA,
    bends=True,
    cosines=[hips_shown, shoulders_shown],
    positive="shoulders more open",
    figure=Figure(Shape.SEGMENT, TRUNK),
    estimate="An estimate from foreshortening.",
    check="44 to 56° at the top (Myers 2008, Cheetham 2001, from memory)",
)
def separation(now: Points, then: Points) -> FloatArray:
    """Shoulder turn minus pelvis turn.

    >>> import numpy as np
    >>> from kneel.motion.measures.example import across
    >>> top = dict(across("top")) | {f"closed_{part}": np.array(-1.0) for part in ("hip", "shoulder")}
    >>> separation(top, across("address")).round(1).item()
    -42.1
    """
    hips, hips_then = (p["lead_hip"] - p["trail_hip"] for p in (now, then))
    return shoulder_turn(now, then) - now["closed_hip"] * turn(hips, hips_then)


@measure(
    "forward_bend",
    "Forward bend",
    Unit.ANGLE,
    views=ALONG,
    needs=TRUNK,
    positive="bent forward",
    figure=Figure(Shape.ANGLE, TRUNK),
    lanes={View.DOWN_THE_LINE: 2},
    check="about 30° at address (common practice, no source); trunk of a recorded jump (open data)",
    carried=Carried.TRUNK,
)
def forward_bend(now: Points, _: Points) -> FloatArray:
    """The line from lower to upper centre against the vertical.

    >>> from kneel.motion.measures.example import along
    >>> forward_bend(along("impact"), along("address")).round(1).item()
    34.2
    """
    spine = middle(now, "shoulder") - middle(now, "hip")
    return degrees(x(spine), y(spine))


@measure(
    "posture_loss",
    "Posture loss",
    Unit.ANGLE,
    views=ALONG,
    needs=TRUNK,
    then=TRUNK,
    positive="less bent than at address",
    figure=Figure(Shape.ANGLE, TRUNK),
    carried=Carried.TRUNK,
)
def posture_loss(now: Points, then: Points) -> FloatArray:
    """Forward bend at address less forward bend now.

    >>> from kneel.motion.measures.example import along
    >>> posture_loss(along("impact"), along("address")).round(1).item()
    -3.8
    """
    return forward_bend(then, then) - forward_bend(now, now)


def _hip_flex(side: str) -> None:
    hip, knee = f"{side}_hip", f"{side}_knee"

    @measure(
        f"{side}_hip_flex",
        f"{side.capitalize()} hip flexion",
        Unit.ANGLE,
        views=ALONG,
        needs=(knee, *TRUNK),
        positive="bent; 0 is straight",
        figure=Figure(Shape.ANGLE, (knee, hip, *SHOULDERS)),
        says=f"Angle between {side} thigh and trunk, 0 of a body that stands straight.",
        check="trunk and thigh of a recorded jump (open data)",
    )
    def flexed(now: Points, _: Points) -> FloatArray:
        spine = middle(now, "shoulder") - middle(now, "hip")
        return turned_by(spine, now[hip] - now[knee])


for _side in SIDES:
    _hip_flex(_side)

# What follows is one point, or the middle of two, moved since address.
_MOVED = (
    ("head_shift", "Head shift", ("head",), 0, ACROSS, Carried.TRUNK, "toward the target", "+ to target"),
    ("head_lift", "Head lift", ("head",), 1, ANY, Carried.UPPER_UP, "up", ""),
    ("chest_lift", "Chest lift", SHOULDERS, 1, ANY, Carried.UPPER_UP, "up", ""),
    ("lead_shoulder_lift", "Lead shoulder lift", ("lead_shoulder",), 1, ANY, None, "up", ""),
    ("lead_hip_lift", "Lead hip lift", ("lead_hip",), 1, ANY, None, "up", ""),
    ("trail_hip_lift", "Trail hip lift", ("trail_hip",), 1, ANY, None, "up", ""),
    ("grip_lift", "Hands' lift", ("grip",), 1, ANY, None, "up", ""),
)


def _moved(
    key: str,
    title: str,
    names: tuple[str, ...],
    axis: int,
    views: tuple[View, ...],
    carried: Carried | None,
    plus: str,
    hint: str,
) -> None:
    what = " and ".join(name.replace("_", " ") for name in names)

    @measure(
        key,
        title,
        Unit.LENGTH,
        views=views,
        needs=names,
        then=names,
        positive=plus,
        hint=hint,
        figure=Figure(Shape.GAP if axis else Shape.PLUMB, names),
        says=f"The {what}, {'up' if axis else 'sideways'} from address.",
        carried=carried,
    )
    def moved(now: Points, then: Points) -> FloatArray:
        changes = [now[n][..., axis] - then[n][..., axis] for n in names]
        return changes[0] if len(changes) == 1 else (changes[0] + changes[1]) / 2


for _row in _MOVED:
    _moved(*_row)
