"""The stick: a size laid on the picture by hand, distance or angle, and read off it again. Places are px."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kneel.model import View, anatomical
from kneel.trainer.asked import AskedFault
from kneel.trainer.records import Stocked

Place = tuple[float, float]

LEG_SHARE = 0.16
"""The legs of an angle are so long, of the picture's height."""


@dataclass(frozen=True)
class Stick:
    """How a fault's size lies on a picture. ``way`` is +1 where what counts + leads to the picture's right,
    ``cm_per_px`` its scale, ``leg`` how long the legs of an angle are.
    """

    asked: AskedFault
    way: int
    cm_per_px: float
    leg: float

    def lines(self, anchor: Place, value: float) -> list[tuple[Place, Place]]:
        """The lines of a size at a place: where it counts from first, the size last."""
        x, y = anchor
        if self.asked.shape == "across":
            end = x + self.way * value / self.cm_per_px
            tick = self.leg / 4
            return [((x, y - tick), (x, y + tick)), ((end, y - tick), (end, y + tick)), ((x, y), (end, y))]
        angle = np.radians(value)
        along, over = float(np.sin(angle)) * self.leg, float(np.cos(angle)) * self.leg
        if self.asked.shape == "lean":
            return [((x, y), (x, y - self.leg)), ((x, y), (x + self.way * along, y - over))]
        if self.asked.shape == "bend":
            return [((x, y), (x, y - self.leg)), ((x, y), (x - self.way * along, y + over))]
        far = x + self.way * self.leg
        return [((x, y), (far, y)), ((x, y), (x + self.way * over, y - along))]

    def value(self, anchor: Place, end: Place) -> float:
        """The size that a hand lays from ``anchor`` to ``end``, within what its slider has."""
        dx, dy = end[0] - anchor[0], end[1] - anchor[1]
        shape = self.asked.shape
        if shape == "across":
            found = self.way * dx * self.cm_per_px
        elif shape == "lean":
            found = float(np.degrees(np.arctan2(self.way * dx, -dy)))
        elif shape == "bend":
            found = float(np.degrees(np.arctan2(-self.way * dx, dy)))
        else:
            found = float(np.degrees(np.arctan2(-dy, self.way * dx)))
        return float(np.clip(found, self.asked.low, self.asked.high))


def stick_of(asked: AskedFault, stocked: Stocked) -> Stick:
    """The stick for a fault on a stocked swing."""
    return Stick(asked, _way(asked, stocked), stocked.cm_per_px, LEG_SHARE * stocked.size_px[1])


def _way(asked: AskedFault, stocked: Stocked) -> int:
    """Where + leads on the picture: to the target or the ball; a trunk leans + away from the target, and the
    trail side is the higher one of a pelvis that is tilted +.
    """
    hand = stocked.shot.hand
    first = {
        name: float(stocked.points[anatomical(name, hand)][0][0])
        for name in ("lead_ankle", "trail_ankle", "lead_toe", "lead_heel")
    }
    if stocked.shot.view is View.DOWN_THE_LINE:
        toward, sign = first["lead_toe"] - first["lead_heel"], 1
    else:
        toward = first["lead_ankle"] - first["trail_ankle"]
        sign = -1 if asked.shape in ("lean", "level") else 1
    return sign if toward > 0 else -sign
