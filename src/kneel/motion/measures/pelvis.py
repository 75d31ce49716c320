"""The pelvis: how it moves, tilts and turns."""

from __future__ import annotations

from kneel.model import View
from kneel.motion.body import THIGH, THIGH_WIDTH
from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import (
    TURN_SIGMA,
    FloatArray,
    Points,
    both,
    length,
    middle,
    shown,
    tilt,
    turn,
    x,
    y,
)
from kneel.motion.measures.registry import ACROSS, ALONG, Figure, Shape, Unit, measure, otherwise

HIPS = both("hip")


@measure(
    "pelvis_shift",
    "Pelvis shift",
    Unit.LENGTH,
    views=ACROSS,
    needs=HIPS,
    then=HIPS,
    positive="toward the target",
    hint="+ to target",
    figure=Figure(Shape.PLUMB, HIPS),
    lanes={View.FACE_ON: 1, View.REAR: 1},
    check="reference travel of a centred swing (common practice, no source); GUM 5.2.2 by uncertainties",
    carried=Carried.PELVIS_ACROSS,
)
def pelvis_shift(now: Points, then: Points) -> FloatArray:
    """Middle of the two hip joints, sideways from address.

    >>> from kneel.motion.measures.example import across
    >>> pelvis_shift(across("top"), across("address")).round(1).item()
    -5.0
    """
    return x(middle(now, "hip")) - x(middle(then, "hip"))


@measure(
    "pelvis_lift",
    "Pelvis lift",
    Unit.LENGTH,
    views=(*ACROSS, *ALONG),
    needs=HIPS,
    then=HIPS,
    positive="up",
    figure=Figure(Shape.GAP, HIPS),
    check="flight of a recorded jump: 9.81 m/s² within 3 %",
    carried=Carried.PELVIS_UP,
)
def pelvis_lift(now: Points, then: Points) -> FloatArray:
    """Middle of the two hip joints, up from address.

    >>> from kneel.motion.measures.example import across
    >>> pelvis_lift(across("top"), across("address")).round(1).item()
    -2.0
    """
    return y(middle(now, "hip")) - y(middle(then, "hip"))


@measure(
    "pelvis_tilt",
    "Pelvis tilt",
    Unit.ANGLE,
    views=ACROSS,
    needs=HIPS,
    then=HIPS,
    positive="trail side higher",
    figure=Figure(Shape.SEGMENT, HIPS),
    check="schools' windows at the top, 0 to 18° (common practice, no source)",
)
def pelvis_tilt(now: Points, then: Points) -> FloatArray:
    """Arc sine of the hips' vertical separation over that at address: turn does not inflate it.

    >>> from kneel.motion.measures.example import across
    >>> pelvis_tilt(across("top"), across("address")).round(1).item()
    6.4
    """
    return tilt(now["trail_hip"] - now["lead_hip"], then["trail_hip"] - then["lead_hip"])


def hips_shown(now: Points, then: Points) -> FloatArray:
    """How much of the line of the hips lies across as at address, which no turn takes past 1.

    >>> from kneel.motion.measures.example import across
    >>> hips_shown(across("top"), across("address")).round(2).item()
    0.67
    """
    return shown(now["lead_hip"] - now["trail_hip"], then["lead_hip"] - then["trail_hip"])


@measure(
    "pelvis_turn",
    "Pelvis turn",
    Unit.ANGLE,
    views=ACROSS,
    needs=HIPS,
    then=HIPS,
    turns=("hip",),
    own=TURN_SIGMA,
    bends=True,
    cosines=[hips_shown],
    positive="open to the target",
    hint="+ open",
    figure=Figure(Shape.SEGMENT, HIPS),
    estimate="An estimate from foreshortening: near square its error is large.",
    check="40 to 50° at the top, 30 to 45° at impact (McTeigue 1994, from memory)",
)
def pelvis_turn(now: Points, then: Points) -> FloatArray:
    """How far the line of the hips is foreshortened since address; its sign comes from the phase.

    >>> import numpy as np
    >>> from kneel.motion.measures.example import across
    >>> top = dict(across("top")) | {"closed_hip": np.array(-1.0)}
    >>> pelvis_turn(top, across("address")).round(1).item()
    -47.9
    """
    return now["closed_hip"] * turn(now["lead_hip"] - now["trail_hip"], then["lead_hip"] - then["trail_hip"])


@measure(
    "trail_hip_cross",
    "Trail hip past its plumb",
    Unit.LENGTH,
    views=ACROSS,
    needs=("trail_hip",),
    then=("trail_hip",),
    positive="past it, away from the target",
    short="Trail hip",
    hint="+ past",
    figure=Figure(Shape.PLUMB, ("trail_hip",)),
    lanes={View.FACE_ON: 2, View.REAR: 2},
    check="half a thigh past the plumb is a sway (common practice, no source)",
    carried=Carried.PELVIS_ACROSS,
)
def trail_hip_cross(now: Points, then: Points) -> FloatArray:
    """How far the trail hip is past the plumb of its address place; its edge moves as the joint does.

    >>> from kneel.motion.measures.example import across
    >>> trail_hip_cross(across("top"), across("address")).round(1).item()
    2.0
    """
    return x(then["trail_hip"]) - x(now["trail_hip"])


@measure(
    "trail_hip_cross_share",
    "Trail hip past its plumb, of the thigh",
    Unit.RATIO,
    views=ACROSS,
    needs=("trail_hip",),
    then=("trail_hip", "trail_knee"),
    own=0.05,
    positive="past it, away from the target",
    hint="+ past",
    figure=Figure(Shape.PLUMB, ("trail_hip",)),
    carried=Carried.PELVIS_ACROSS,
)
def trail_hip_cross_share(now: Points, then: Points) -> FloatArray:
    """How far the trail hip is past its plumb, in widths of the thigh as they follow from its length.

    >>> from kneel.motion.measures.example import across
    >>> trail_hip_cross_share(across("top"), across("address")).round(1).item()
    0.1
    """
    thigh = length(then["trail_hip"] - then["trail_knee"]) * THIGH_WIDTH / THIGH
    return trail_hip_cross(now, then) / thigh


@measure(
    "lead_hip_cross",
    "Lead hip past its plumb",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_hip",),
    then=("lead_hip",),
    positive="toward the target",
    short="Lead hip",
    hint="+ to target",
    figure=Figure(Shape.PLUMB, ("lead_hip",)),
    carried=Carried.PELVIS_ACROSS,
)
def lead_hip_cross(now: Points, then: Points) -> FloatArray:
    """How far the lead hip is past the plumb of its own address place.

    >>> from kneel.motion.measures.example import across
    >>> lead_hip_cross(across("top"), across("address")).round(1).item()
    -8.0
    """
    return x(now["lead_hip"]) - x(then["lead_hip"])


@measure(
    "pelvis_thrust",
    "Pelvis thrust",
    Unit.LENGTH,
    views=ALONG,
    needs=HIPS,
    then=HIPS,
    positive="toward the ball line",
    hint="+ to the ball",
    figure=Figure(Shape.PLUMB, HIPS),
    lanes={View.DOWN_THE_LINE: 1},
    check="not above +4 cm at impact in a sound swing (common practice, no source)",
    carried=Carried.PELVIS_ACROSS,
)
def pelvis_thrust(now: Points, then: Points) -> FloatArray:
    """Middle of the two hip joints toward the ball line, from address; the seat where no hips are marked.

    >>> from kneel.motion.measures.example import along
    >>> pelvis_thrust(along("impact"), along("address")).round(1).item()
    2.0
    """
    return x(middle(now, "hip")) - x(middle(then, "hip"))


@otherwise("pelvis_thrust", views=ALONG, needs=("seat",), then=("seat",), own=1.5)
@measure(
    "seat_thrust",
    "Seat off its line",
    Unit.LENGTH,
    views=ALONG,
    needs=("seat",),
    then=("seat",),
    own=0.6,
    positive="toward the ball line",
    hint="+ to the ball",
    figure=Figure(Shape.PLUMB, ("seat",)),
    carried=Carried.PELVIS_ACROSS,
)
def seat_thrust(now: Points, then: Points) -> FloatArray:
    """Rearmost edge of the pelvis off the seat line, its place at address: a second witness of thrust.

    >>> from kneel.motion.measures.example import along
    >>> seat_thrust(along("impact"), along("address")).round(1).item()
    -1.0
    """
    return x(now["seat"]) - x(then["seat"])


@measure(
    "trail_hip_depth",
    "Trail hip depth",
    Unit.LENGTH,
    views=ALONG,
    needs=("trail_hip",),
    then=("trail_hip",),
    positive="toward the ball line; − is deeper",
    hint="− deeper",
    figure=Figure(Shape.PLUMB, ("trail_hip",)),
)
def trail_hip_depth(now: Points, then: Points) -> FloatArray:
    """The trail hip joint toward the ball line since address.

    >>> from kneel.motion.measures.example import along
    >>> trail_hip_depth(along("impact"), along("address")).round(1).item()
    7.0
    """
    return x(now["trail_hip"]) - x(then["trail_hip"])


@measure(
    "lead_hip_depth",
    "Lead hip depth",
    Unit.LENGTH,
    views=ALONG,
    needs=("lead_hip",),
    then=("lead_hip",),
    positive="toward the ball line; − is deeper",
    hint="− deeper",
    figure=Figure(Shape.PLUMB, ("lead_hip",)),
)
def lead_hip_depth(now: Points, then: Points) -> FloatArray:
    """The lead hip joint toward the ball line since address.

    >>> from kneel.motion.measures.example import along
    >>> lead_hip_depth(along("impact"), along("address")).round(1).item()
    -3.0
    """
    return x(now["lead_hip"]) - x(then["lead_hip"])


@measure(
    "tailbone_shift",
    "Tailbone shift",
    Unit.LENGTH,
    views=(View.REAR,),
    needs=("tailbone",),
    then=("tailbone",),
    positive="toward the target",
    hint="+ to target",
    figure=Figure(Shape.PLUMB, ("tailbone",)),
)
def tailbone_shift(now: Points, then: Points) -> FloatArray:
    """The tailbone, sideways from address, seen from behind.

    >>> from kneel.motion.measures.example import across
    >>> tailbone_shift(across("top"), across("address")).round(1).item()
    2.0
    """
    return x(now["tailbone"]) - x(then["tailbone"])


@measure(
    "trail_hip_to_tailbone",
    "Trail hip to the tailbone's place",
    Unit.LENGTH,
    views=(View.REAR,),
    needs=("trail_hip",),
    then=("tailbone",),
    positive="still outside it, away from the target",
    hint="0 when it gets there",
    figure=Figure(Shape.PLUMB, ("tailbone",)),
)
def trail_hip_to_tailbone(now: Points, then: Points) -> FloatArray:
    """How far the trail hip still is from where the tailbone was at address.

    >>> from kneel.motion.measures.example import across
    >>> trail_hip_to_tailbone(across("top"), across("address")).round(1).item()
    11.0
    """
    return x(then["tailbone"]) - x(now["trail_hip"])
