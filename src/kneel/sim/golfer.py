"""The golfer's body: lengths from stature, and how it stands at address.

World axes, centimetres, one for both hands: x toward the target, y from the
golfer toward the ball, z up; origin on the ground midway between the ankles.
A left-handed golfer is the same body seen in a mirror, see
:mod:`kneel.sim.camera`.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from kneel.model import Club, Hand
from kneel.sim.build import MAN, Build
from kneel.sim.look import Appearance

CLUB_CM = {Club.DRIVER: 114.0, Club.WOOD: 107.0, Club.HYBRID: 101.0, Club.IRON: 94.0, Club.WEDGE: 90.0}
"""Usual club lengths; the Rules of Golf allow 45.7 to 121.9 cm."""

STANCE = {Club.DRIVER: 0.30, Club.WOOD: 0.28, Club.HYBRID: 0.265, Club.IRON: 0.25, Club.WEDGE: 0.21}
"""Distance of the ankle joints as a share of stature (common practice, no source)."""

AT_THE_BALL = {
    Club.DRIVER: (7.0, 5.0),
    Club.WOOD: (6.0, 2.0),
    Club.HYBRID: (5.5, -2.0),
    Club.IRON: (5.0, -4.0),
    Club.WEDGE: (4.0, -6.0),
}
"""Angles of the hands and of the shaft at address, degrees, + toward the target: the driver's ball lies
forward, a wedge's hands ahead of it (common practice, no source)."""

GRIPPED_CM = 9.0
"""How far below the butt end the hands hold the club."""

USUAL_STATURE_CM = 176.0

BODY_MASS_INDEX = 23.5
"""kg/m² of a body of usual girth; mass goes with girth (from memory)."""


@dataclass(frozen=True)
class Golfer:
    """One body. Lengths in cm follow from ``stature_cm`` and ``build``; ``girth`` scales widths."""

    stature_cm: float = USUAL_STATURE_CM
    hand: Hand = Hand.RIGHT
    club: Club = Club.IRON
    girth: float = 1.0
    lead_flare_deg: float = 25.0
    trail_flare_deg: float = 15.0
    knee_flex_deg: float = 24.0
    forward_bend_deg: float = 30.0
    look: Appearance = field(default_factory=Appearance)
    build: Build = MAN
    stance: float | None = None
    """Distance of the ankle joints as a share of stature, where it is another than is usual with the club."""

    def _share(self, share: float) -> float:
        return share * self.stature_cm

    @property
    def mass_kg(self) -> float:
        return BODY_MASS_INDEX * self.girth * (self.stature_cm / 100) ** 2

    @property
    def thigh(self) -> float:
        return self._share(self.build.thigh)

    @property
    def shank(self) -> float:
        return self._share(self.build.shank)

    @property
    def trunk(self) -> float:
        return self._share(self.build.trunk)

    @property
    def upper_arm(self) -> float:
        return self._share(self.build.upper_arm)

    @property
    def forearm(self) -> float:
        """From elbow to the middle of the closed hand."""
        return self._share(self.build.forearm + self.build.palm)

    @property
    def foot(self) -> float:
        return self._share(self.build.foot)

    @property
    def ankle_height(self) -> float:
        return self._share(self.build.ankle)

    @property
    def half_hips(self) -> float:
        return self._share(self.build.hips) / 2

    @property
    def half_shoulders(self) -> float:
        return self._share(self.build.shoulders) / 2

    @property
    def half_stance(self) -> float:
        return self._share(STANCE[self.club] if self.stance is None else self.stance) / 2

    @property
    def shaft(self) -> float:
        """From the hands to the clubhead; clubs are fitted, so half of it grows with stature."""
        return CLUB_CM[self.club] * (0.5 + 0.5 * self.stature_cm / USUAL_STATURE_CM) - GRIPPED_CM
