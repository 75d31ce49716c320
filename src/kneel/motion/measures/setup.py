"""The set-up, counted from the stance and not from address, else a preset is invisible."""

from __future__ import annotations

import numpy as np

from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import FloatArray, Points, both, degrees, middle, x, y
from kneel.motion.measures.registry import ACROSS, ALONG, Domain, Figure, Shape, Unit, measure

ANKLES, HIPS = both("ankle"), both("hip")
ARMPIT = 0.14
"""How far down from the shoulder joints to the hips the armpit lies (from memory)."""

_PLACED = (
    (
        "pelvis_in_stance",
        "Pelvis in the stance",
        both("hip"),
        "the middle of the hips",
        Domain.FRAMES,
        Carried.PELVIS_ACROSS,
    ),
    ("head_in_stance", "Head in the stance", ("head",), "the head", Domain.FRAMES, Carried.TRUNK),
    ("hands_in_stance", "Hands in the stance", ("grip",), "the hands", Domain.FRAMES, None),
    ("ball_in_stance", "Ball in the stance", ("ball",), "the ball", Domain.SETUP, None),
)


def _in_stance(
    key: str, title: str, names: tuple[str, ...], what: str, domain: Domain, carried: Carried | None
) -> None:
    @measure(
        key,
        title,
        Unit.LENGTH,
        views=ACROSS,
        needs=(*names, *ANKLES),
        positive="toward the target",
        hint="+ to target",
        domain=domain,
        figure=Figure(Shape.PLUMB, ANKLES),
        says=f"How far {what} is from the middle of the ankles.",
        carried=carried,
    )
    def placed(now: Points, _: Points) -> FloatArray:
        return sum(x(now[n]) for n in names) / len(names) - x(middle(now, "ankle"))


for _row in _PLACED:
    _in_stance(*_row)


@measure(
    "stance_width",
    "Stance width",
    Unit.LENGTH,
    views=ACROSS,
    needs=ANKLES,
    positive="wide",
    domain=Domain.SETUP,
    figure=Figure(Shape.GAP, ANKLES),
    check="0.2 to 0.3 of stature by club (common practice, no source)",
)
def stance_width(now: Points, _: Points) -> FloatArray:
    """Distance between the ankle joints.

    >>> from kneel.motion.measures.example import across
    >>> stance_width(across("top"), across("address")).round(1).item()
    44.0
    """
    return np.hypot(*np.moveaxis(now["lead_ankle"] - now["trail_ankle"], -1, 0))


@measure(
    "plumb_fit",
    "Armpit, knee and mid-foot off one plumb",
    Unit.LENGTH,
    views=ALONG,
    needs=(*both("shoulder"), *both("hip"), *both("knee"), *both("heel"), *both("toe")),
    bends=True,
    positive="body toward the toes",
    domain=Domain.SETUP,
    figure=Figure(Shape.PLUMB, (*both("heel"), *both("toe"))),
    check="on one plumb in a sound set-up (common practice, no source)",
)
def plumb_fit(now: Points, _: Points) -> FloatArray:
    """How far armpit, knee and mid-foot are off one vertical line.

    >>> from kneel.motion.measures.example import along
    >>> plumb_fit(along("impact"), along("address")).round(1).item()
    14.6
    """
    foot = (x(middle(now, "toe")) + x(middle(now, "heel"))) / 2
    upper, lower = middle(now, "shoulder"), middle(now, "hip")
    armpit, knee = x(upper + ARMPIT * (lower - upper)), x(middle(now, "knee"))
    foot, armpit, knee = np.broadcast_arrays(foot, armpit, knee)
    way = np.where(armpit + knee >= 2 * foot, 1.0, -1.0)
    return way * np.ptp(np.stack([armpit, knee, foot]), axis=0)


@measure(
    "seat_behind_heel",
    "Seat behind the trail heel",
    Unit.LENGTH,
    views=ALONG,
    needs=("seat", "trail_heel"),
    positive="behind",
    domain=Domain.SETUP,
    figure=Figure(Shape.GAP, ("seat", "trail_heel")),
    check="about one clubface, 8 cm (common practice, no source)",
)
def seat_behind_heel(now: Points, _: Points) -> FloatArray:
    """How far the rearmost edge of the pelvis is behind the trail heel.

    >>> from kneel.motion.measures.example import along
    >>> seat_behind_heel(along("impact"), along("address")).round(1).item()
    12.0
    """
    return x(now["trail_heel"]) - x(now["seat"])


@measure(
    "shin_lean",
    "Shin lean",
    Unit.ANGLE,
    views=ALONG,
    needs=("trail_knee", "trail_ankle"),
    positive="knee over the toes",
    domain=Domain.SETUP,
    figure=Figure(Shape.SEGMENT, ("trail_knee", "trail_ankle")),
)
def shin_lean(now: Points, _: Points) -> FloatArray:
    """The trail shin against the vertical.

    >>> from kneel.motion.measures.example import along
    >>> shin_lean(along("impact"), along("address")).round(1).item()
    11.0
    """
    shin = now["trail_knee"] - now["trail_ankle"]
    return degrees(x(shin), y(shin))
