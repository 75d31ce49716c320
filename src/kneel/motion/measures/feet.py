"""Feet: heels that rise, and how far they are turned out."""

from __future__ import annotations

import numpy as np

from kneel.motion.body import FOOT, LEG
from kneel.motion.measures.geometry import SIDES, FloatArray, Points, length, x, y
from kneel.motion.measures.legs import leg_of
from kneel.motion.measures.registry import ACROSS, ALONG, Domain, Figure, Shape, Unit, measure


def _foot(side: str) -> None:
    heel, toe = f"{side}_heel", f"{side}_toe"
    leg = leg_of(side)
    outward = 1.0 if side == "lead" else -1.0

    @measure(
        f"{side}_heel_lift",
        f"{side.capitalize()} heel lift",
        Unit.LENGTH,
        views=(*ACROSS, *ALONG),
        needs=(heel,),
        then=(heel,),
        positive="up",
        figure=Figure(Shape.GAP, (heel,)),
        says=f"The {side} heel, up from address.",
    )
    def lift(now: Points, then: Points) -> FloatArray:
        return y(now[heel]) - y(then[heel])

    @measure(
        f"{side}_foot_swivel",
        f"{side.capitalize()} foot swivel",
        Unit.ANGLE,
        views=ACROSS,
        needs=(heel, toe),
        then=(heel, toe, *leg),
        bends=True,
        own=2.0,
        positive="heel outward",
        hint="+ heel out",
        figure=Figure(Shape.SEGMENT, (heel, toe)),
        estimate="An estimate from how short the foot looks.",
        says=f"How far the {side} heel has swivelled outward about the toe since address.",
    )
    def swivel(now: Points, then: Points) -> FloatArray:
        size = _foot_length(then, side)
        return _flare(then[toe] - then[heel], size, outward) - _flare(now[toe] - now[heel], size, outward)

    @measure(
        f"{side}_foot_flare",
        f"{side.capitalize()} foot flare",
        Unit.ANGLE,
        views=ACROSS,
        needs=(heel, toe, *leg),
        bends=True,
        own=2.0,
        domain=Domain.SETUP,
        positive="toes outward",
        figure=Figure(Shape.SEGMENT, (heel, toe)),
        estimate="An estimate from how short the foot looks; a camera off square turns both feet.",
        says=f"How far the {side} foot is turned out, heel to toe on the ground.",
        check="20 to 30°, or 30 and 15° (common practice, no source)",
    )
    def flare(now: Points, _: Points) -> FloatArray:
        return _flare(now[toe] - now[heel], _foot_length(now, side), outward)


def _foot_length(p: Points, side: str) -> FloatArray:
    """From heel to toe as a share of the leg (Drillis and Contini 1966)."""
    hip, knee, ankle = (p[name] for name in leg_of(side))
    return FOOT_OF_LEG * (length(hip - knee) + length(knee - ankle))


def _flare(foot: FloatArray, size: FloatArray, outward: float) -> FloatArray:
    """Degrees outward of a foot seen from its toes, from how far aside they point."""
    return np.degrees(np.arcsin(np.clip(outward * x(foot) / np.maximum(size, 1e-9), -1.0, 1.0)))


FOOT_OF_LEG = 0.92 * FOOT / LEG

for _side in SIDES:
    _foot(_side)
