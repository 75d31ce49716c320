"""Where the body's mass hangs between the feet: a static estimate, no pressure.

Segment masses and centres after Winter, *Biomechanics and Motor Control of
Human Movement*, 4th ed. 2009, table 4.1. A file's wrist and a picture's tell
little of the hand, so the hand goes with the forearm.
"""

from __future__ import annotations

from typing import Final

from kneel.motion.measures.geometry import SIDES, FloatArray, Points, both, middle, x
from kneel.motion.measures.registry import ACROSS, ALONG, Figure, Shape, Unit, measure, otherwise, recorded

HEAD: Final = 0.081
TRUNK: Final = 0.497
TRUNK_FROM_HIPS: Final = 0.50
"""Head and neck at the head's own place; the trunk half way between hips and shoulders."""

# Share of the body's mass of one side's segment, its ends, and how far from the first its centre lies.
SEGMENTS: Final = (
    (0.028, "shoulder", "elbow", 0.436),
    (0.016 + 0.006, "elbow", "wrist", 0.682),
    (0.100, "hip", "knee", 0.433),
    (0.0465, "knee", "ankle", 0.433),
    (0.0145, "heel", "toe", 0.50),
)

BODY_SIGMA: Final = 2.0
"""People differ from the table: standard deviation of the share in % (from memory: two tables differ so)."""

STATIC = "A static estimate from segment masses: a picture shows no ground pressure."

WHOLE = (
    "head",
    *(
        name
        for joint in ("shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe")
        for name in both(joint)
    ),
)
ARMLESS = tuple(name for name in WHOLE if name.rpartition("_")[2] not in ("elbow", "wrist"))
FOOTLESS = tuple(name for name in ARMLESS if name.rpartition("_")[2] not in ("heel", "toe"))


def centre_of_mass(p: Points) -> FloatArray:
    """Centre of the body's mass, (..., 2), without the club; arms that are not marked hang at the chest.

    Feet that are not marked are taken to be at their ankles.

    >>> from kneel.motion.measures.example import across
    >>> centre_of_mass(across("address")).round(1).tolist(), centre_of_mass(across("top")).round(1).tolist()
    ([-0.6, 96.9], [-6.2, 98.6])
    """
    lower, upper = middle(p, "hip"), middle(p, "shoulder")
    total = HEAD * p["head"] + TRUNK * (lower + TRUNK_FROM_HIPS * (upper - lower))
    for side in SIDES:
        for mass, near, far, share in SEGMENTS:
            start, end = p.get(f"{side}_{near}"), p.get(f"{side}_{far}")
            if start is None or end is None:
                start = end = (
                    upper + 0.4 * (lower - upper) if near in ("shoulder", "elbow") else p[f"{side}_ankle"]
                )
            total = total + mass * (start + share * (end - start))
    return total


def _side(now: Points, _: Points) -> FloatArray:
    """Where the centre of mass hangs between the ankles.

    >>> from kneel.motion.measures.example import across
    >>> _side(across("top"), across("address")).round(1).item()
    35.9
    """
    lead, trail = x(now["lead_ankle"]), x(now["trail_ankle"])
    return 100 * (x(centre_of_mass(now)) - trail) / (lead - trail)


def _toe(now: Points, _: Points) -> FloatArray:
    """Where the centre of mass hangs between heels and toes.

    >>> from kneel.motion.measures.example import along
    >>> _toe(along("impact"), along("address")).round(1).item()
    63.6
    """
    heel, toe = x(middle(now, "heel")), x(middle(now, "toe"))
    return 100 * (x(centre_of_mass(now)) - heel) / (toe - heel)


measure(
    "mass_side",
    "Mass on the lead side",
    Unit.PERCENT,
    views=ACROSS,
    needs=WHOLE,
    own=BODY_SIGMA,
    positive="toward the lead foot",
    figure=Figure(Shape.PLUMB, both("ankle")),
    estimate=STATIC,
    check="segment masses and centres of Winter 2009, table 4.1; near 60 to 66 % at impact (common practice)",
)(_side)
otherwise("mass_side", views=ACROSS, needs=ARMLESS, own=2 * BODY_SIGMA)(_side)
otherwise("mass_side", views=ACROSS, needs=FOOTLESS, own=2 * BODY_SIGMA)(_side)
measure(
    "mass_toe",
    "Mass toward the toes",
    Unit.PERCENT,
    views=ALONG,
    needs=WHOLE,
    own=1.5 * BODY_SIGMA,
    positive="toward the toes",
    figure=Figure(Shape.PLUMB, (*both("heel"), *both("toe"))),
    estimate=STATIC,
    check="segment masses and centres of Winter 2009, table 4.1",
)(_toe)
recorded(
    "pressure_side",
    "Pressure on the lead side",
    "lead",
    positive="toward the lead foot",
    says="Share of the ground's push under the lead foot, from a plate's file or typed in.",
    check="80 to 85 % at impact (common practice, no source)",
)
recorded(
    "pressure_toe",
    "Pressure toward the toes",
    "toe",
    positive="toward the toes",
    says="Share of the ground's push under the toes, from a plate's file or typed in.",
)
otherwise("mass_toe", views=ALONG, needs=ARMLESS, own=3 * BODY_SIGMA)(_toe)
