"""Hands, club and ball, and where the body is against the ball."""

from __future__ import annotations

import numpy as np

from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import FloatArray, Points, both, degrees, length, middle, turned_by, x, y
from kneel.motion.measures.registry import ACROSS, ALONG, Figure, Shape, Unit, measure

SHAFT = ("grip", "clubhead")


@measure(
    "hands_ahead",
    "Hands ahead of the clubhead",
    Unit.LENGTH,
    views=ACROSS,
    needs=SHAFT,
    positive="hands nearer the target",
    figure=Figure(Shape.GAP, SHAFT),
)
def hands_ahead(now: Points, _: Points) -> FloatArray:
    """How far the hands are nearer the target than the clubhead.

    >>> from kneel.motion.measures.example import across
    >>> hands_ahead(across("top"), across("address")).round(1).item()
    -73.0
    """
    return x(now["grip"]) - x(now["clubhead"])


@measure(
    "shaft_lean",
    "Shaft lean",
    Unit.ANGLE,
    views=ACROSS,
    needs=SHAFT,
    bends=True,
    positive="handle nearer the target",
    figure=Figure(Shape.SEGMENT, SHAFT),
    check="about 12° with a mid-iron at impact (common practice, no source)",
)
def shaft_lean(now: Points, _: Points) -> FloatArray:
    """The shaft against the vertical.

    >>> from kneel.motion.measures.example import across
    >>> shaft_lean(across("top"), across("address")).round(1).item()
    -116.3
    """
    shaft = now["grip"] - now["clubhead"]
    return degrees(x(shaft), y(shaft))


@measure(
    "hands_to_ball",
    "Hands to the ball",
    Unit.LENGTH,
    views=ACROSS,
    needs=("grip",),
    then=("ball",),
    positive="target side of the ball",
    figure=Figure(Shape.GAP, ("grip", "ball")),
)
def hands_to_ball(now: Points, then: Points) -> FloatArray:
    """How far the hands are past the ball's place.

    >>> from kneel.motion.measures.example import across
    >>> hands_to_ball(across("top"), across("address")).round(1).item()
    -34.0
    """
    return x(now["grip"]) - x(then["ball"])


@measure(
    "club_height",
    "Clubhead over the ball's place",
    Unit.LENGTH,
    views=ACROSS,
    needs=("clubhead",),
    then=("ball",),
    positive="above",
    figure=Figure(Shape.GAP, ("clubhead", "ball")),
)
def club_height(now: Points, then: Points) -> FloatArray:
    """How far the clubhead is above the ball's place.

    >>> from kneel.motion.measures.example import across
    >>> club_height(across("top"), across("address")).round(1).item()
    194.0
    """
    return y(now["clubhead"]) - y(then["ball"])


def _to_ball(key: str, title: str, names: tuple[str, ...], what: str, carried: Carried | None) -> None:
    @measure(
        key,
        title,
        Unit.LENGTH,
        views=ACROSS,
        needs=names,
        then=("ball",),
        positive="target side of the ball",
        figure=Figure(Shape.PLUMB, ("ball",)),
        says=f"How far {what} is past the ball's place.",
        check="head behind the ball at impact (common practice, no source)" if key == "head_to_ball" else "",
        carried=carried,
    )
    def offset(now: Points, then: Points) -> FloatArray:
        return sum(x(now[n]) for n in names) / len(names) - x(then["ball"])


_to_ball("chest_to_ball", "Chest to the ball", both("shoulder"), "the middle of the shoulders", Carried.TRUNK)
_to_ball("pelvis_to_ball", "Pelvis to the ball", both("hip"), "the middle of the hips", Carried.PELVIS_ACROSS)
_to_ball("head_to_ball", "Head to the ball", ("head",), "the head", Carried.TRUNK)
_to_ball("club_to_ball", "Clubhead to the ball", ("clubhead",), "the clubhead", None)


@measure(
    "shaft_plane",
    "Shaft plane",
    Unit.ANGLE,
    views=ALONG,
    needs=SHAFT,
    bends=True,
    positive="steeper",
    figure=Figure(Shape.SEGMENT, SHAFT),
)
def shaft_plane(now: Points, _: Points) -> FloatArray:
    """The shaft against the ground.

    >>> from kneel.motion.measures.example import along
    >>> shaft_plane(along("impact"), along("address")).round(1).item()
    61.0
    """
    shaft = now["grip"] - now["clubhead"]
    return degrees(y(shaft), -x(shaft))


@measure(
    "shaft_plane_rise",
    "Shaft plane since address",
    Unit.ANGLE,
    views=ALONG,
    needs=SHAFT,
    then=SHAFT,
    bends=True,
    positive="steeper than at address",
    figure=Figure(Shape.SEGMENT, SHAFT),
    check="9° steeper at impact is hard to manage (common practice, no source)",
)
def shaft_plane_rise(now: Points, then: Points) -> FloatArray:
    """The shaft's angle against the ground less that of address.

    >>> from kneel.motion.measures.example import along
    >>> shaft_plane_rise(along("impact"), along("address")).round(1).item()
    -0.9
    """
    return shaft_plane(now, now) - shaft_plane(then, then)


@measure(
    "hand_depth",
    "Hands against the toe line",
    Unit.LENGTH,
    views=ALONG,
    needs=("grip", *both("toe")),
    positive="outside the toe line",
    hint="− inside",
    figure=Figure(Shape.GAP, ("grip", *both("toe"))),
)
def hand_depth(now: Points, _: Points) -> FloatArray:
    """How far the hands are outside the line of the toes.

    >>> from kneel.motion.measures.example import along
    >>> hand_depth(along("impact"), along("address")).round(1).item()
    13.5
    """
    return x(now["grip"]) - x(middle(now, "toe"))


@measure(
    "hands_forward",
    "Hands forward",
    Unit.LENGTH,
    views=ALONG,
    needs=("grip",),
    then=("grip",),
    positive="toward the ball",
    hint="+ to the ball",
    figure=Figure(Shape.PLUMB, ("grip",)),
)
def hands_forward(now: Points, then: Points) -> FloatArray:
    """The hands toward the ball since address.

    >>> from kneel.motion.measures.example import along
    >>> hands_forward(along("impact"), along("address")).round(1).item()
    -1.0
    """
    return x(now["grip"]) - x(then["grip"])


def _above(place: FloatArray, then: Points) -> FloatArray:
    """How far a place is above the shaft's line at address."""
    shaft = then["grip"] - then["clubhead"]
    off = place - then["clubhead"]
    across = shaft[..., 0] * off[..., 1] - shaft[..., 1] * off[..., 0]
    return across / length(shaft) * np.where(shaft[..., 0] >= 0, 1.0, -1.0)


@measure(
    "hands_to_plane",
    "Hands against the shaft's line",
    Unit.LENGTH,
    views=ALONG,
    needs=("grip",),
    then=SHAFT,
    positive="above",
    figure=Figure(Shape.SEGMENT, SHAFT),
)
def hands_to_plane(now: Points, then: Points) -> FloatArray:
    """The hands against the shaft's line at address.

    >>> from kneel.motion.measures.example import along
    >>> hands_to_plane(along("impact"), along("address")).round(1).item()
    -1.4
    """
    return _above(now["grip"], then)


@measure(
    "club_to_plane",
    "Clubhead against the shaft's line",
    Unit.LENGTH,
    views=ALONG,
    needs=("clubhead",),
    then=SHAFT,
    positive="above",
    figure=Figure(Shape.SEGMENT, SHAFT),
)
def club_to_plane(now: Points, then: Points) -> FloatArray:
    """The clubhead against the shaft's line at address.

    >>> from kneel.motion.measures.example import along
    >>> club_to_plane(along("top"), along("address")).round(1).item()
    3.9
    """
    return _above(now["clubhead"], then)


@measure(
    "lead_arm_rise",
    "Lead arm against the shoulders",
    Unit.ANGLE,
    at=("top",),
    views=ALONG,
    needs=("grip", *both("shoulder")),
    bends=True,
    positive="arm steeper than the shoulder line",
    figure=Figure(Shape.ANGLE, ("grip", "lead_shoulder", "trail_shoulder")),
)
def lead_arm_rise(now: Points, _: Points) -> FloatArray:
    """At the top, the lead arm's rise against that of the shoulder line.

    >>> from kneel.motion.measures.example import along
    >>> lead_arm_rise(along("impact"), along("address")).round(1).item()
    4.0
    """
    arm = now["grip"] - now["lead_shoulder"]
    line = now["trail_shoulder"] - now["lead_shoulder"]
    return -turned_by(line, arm)


@measure(
    "shaft_across",
    "Shaft across the line",
    Unit.ANGLE,
    views=ALONG,
    needs=SHAFT,
    then=SHAFT,
    bends=True,
    at=("top",),
    positive="pointing right of the target, for a right-handed golfer",
    hint="+ across",
    figure=Figure(Shape.SEGMENT, SHAFT),
    estimate="An estimate from how much of the shaft's length lies across the picture.",
)
def shaft_across(now: Points, then: Points) -> FloatArray:
    """Where the club points at the top against the target line, by what the picture shows of its length.

    >>> from kneel.motion.measures.example import along
    >>> shaft_across(along("impact"), along("address")).round(1).item()
    78.6
    """
    shaft, rest = (p["clubhead"] - p["grip"] for p in (now, then))
    flat = np.sqrt(np.maximum((rest**2).sum(axis=-1) - shaft[..., 1] ** 2, 1e-9))
    return np.degrees(np.arcsin(np.clip(shaft[..., 0] / flat, -1.0, 1.0)))
