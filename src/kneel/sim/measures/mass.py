"""Where the body's mass hangs between the feet."""

from __future__ import annotations

from typing import Final

import numpy as np

from kneel.sim.legs import SIDES
from kneel.sim.measures.points import FloatArray, Points, middle

# Mass of each segment as a share of the body's and where it hangs between two joints (de Leva 1996, men;
# places of arms, feet and trunk from memory). The program's own estimate takes another table.
SEGMENTS: Final = (
    ("elbow", "grip", 0.0162 + 0.0061, 0.511),
    ("shoulder", "elbow", 0.0271, 0.577),
    ("heel", "toe", 0.0137, 0.4415),
    ("knee", "ankle", 0.0433, 0.4459),
    ("hip", "knee", 0.1416, 0.4095),
)
HEAD_MASS: Final = 0.0694
TRUNK_MASS: Final = 0.4346
TRUNK_SHARE: Final = 0.55
"""How far up from the hips to the shoulders the trunk's mass hangs."""


def mass_side(p: Points) -> FloatArray:
    """Between the ankles, % toward the lead one; face-on."""
    centre = centre_of_mass(p)[:, 0]
    lead, trail = p["lead_ankle"][:, 0], p["trail_ankle"][:, 0]
    return np.asarray(100 * (centre - trail) / (lead - trail))


def mass_toe(p: Points) -> FloatArray:
    """Between heels and toes, % toward the toes; down-the-line."""
    heel, toe = middle(p, "heel")[:, 0], middle(p, "toe")[:, 0]
    return np.asarray(100 * (centre_of_mass(p)[:, 0] - heel) / (toe - heel))


def centre_of_mass(points: Points) -> FloatArray:
    """Centre of the body's mass without the club, (T, 2) or (T, 3), from published segment masses."""
    p = points
    lower, upper = middle(p, "hip"), middle(p, "shoulder")
    total = HEAD_MASS * p["head"] + TRUNK_MASS * (lower + TRUNK_SHARE * (upper - lower))
    for side in SIDES:
        for near, far, mass, share in SEGMENTS:
            start = p[f"{side}_{near}"]
            end = p["grip"] if far == "grip" else p[f"{side}_{far}"]
            total = total + mass * (start + share * (end - start))
    return np.asarray(total)
