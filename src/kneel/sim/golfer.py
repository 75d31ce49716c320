"""The golfer's body: lengths from stature, and how it stands at address.

World axes, centimetres, one for both hands: x toward the target, y from the
golfer toward the ball, z up; origin on the ground midway between the ankles.
A left-handed golfer is the same body seen in a mirror, see
:mod:`kneel.sim.camera`.
"""

from __future__ import annotations

from dataclasses import dataclass

from kneel.model import Club, Hand
from kneel.motion import body

HIP_JOINTS = 0.10
"""Distance of the two hip joint centres as a share of stature (from memory)."""

SHOULDER_JOINTS = 0.215
"""Distance of the two shoulder joint centres as a share of stature (from memory)."""

CLUB_CM = {Club.DRIVER: 114.0, Club.WOOD: 107.0, Club.IRON: 94.0, Club.WEDGE: 90.0}
"""Usual club lengths; the Rules of Golf allow 45.7 to 121.9 cm."""

STANCE = {Club.DRIVER: 0.30, Club.WOOD: 0.28, Club.IRON: 0.25, Club.WEDGE: 0.21}
"""Distance of the ankle joints as a share of stature (common practice, no source)."""

GRIPPED_CM = 9.0
"""How far below the butt end the hands hold the club."""


@dataclass(frozen=True)
class Golfer:
    """One body. Lengths in cm follow from ``stature_cm`` by published shares; ``girth`` scales widths."""

    stature_cm: float = 176.0
    hand: Hand = Hand.RIGHT
    club: Club = Club.IRON
    girth: float = 1.0
    lead_flare_deg: float = 25.0
    trail_flare_deg: float = 15.0
    knee_flex_deg: float = 24.0
    forward_bend_deg: float = 32.0
    shirt: tuple[int, int, int] = (150, 182, 165)
    trousers: tuple[int, int, int] = (86, 84, 108)
    hair: tuple[int, int, int] = (66, 46, 34)
    skin: tuple[int, int, int] = (214, 168, 138)

    def _share(self, share: float) -> float:
        return share * self.stature_cm

    @property
    def thigh(self) -> float:
        return self._share(body.THIGH)

    @property
    def shank(self) -> float:
        return self._share(body.SHANK)

    @property
    def trunk(self) -> float:
        return self._share(body.SHOULDER_HEIGHT - body.HIP_HEIGHT)

    @property
    def upper_arm(self) -> float:
        return self._share(body.UPPER_ARM)

    @property
    def forearm(self) -> float:
        """From elbow to the middle of the closed hand: forearm and half a hand."""
        return self._share(body.FOREARM + 0.45 * body.HAND)

    @property
    def foot(self) -> float:
        return self._share(body.FOOT)

    @property
    def ankle_height(self) -> float:
        return self._share(body.ANKLE_HEIGHT)

    @property
    def half_hips(self) -> float:
        return self._share(HIP_JOINTS) / 2

    @property
    def half_shoulders(self) -> float:
        return self._share(SHOULDER_JOINTS) / 2

    @property
    def half_stance(self) -> float:
        return self._share(STANCE[self.club]) / 2

    @property
    def shaft(self) -> float:
        """From the hands to the clubhead."""
        return CLUB_CM[self.club] - GRIPPED_CM
