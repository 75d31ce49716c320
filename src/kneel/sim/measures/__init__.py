"""Every measure of the swing from the body itself: the truth that tracking is held against.

The definitions are written once for points in a plane: lateral and up as
face-on sees them, forward and up as down-the-line does. In space the planes
are the world's own; :mod:`kneel.sim.truth` hands in what a camera sees.
Written apart from ``kneel.motion`` on purpose: neither may lean on the other.
"""

from kneel.sim.measures.face_on import face_on
from kneel.sim.measures.line import down_the_line
from kneel.sim.measures.mass import HEAD_MASS, SEGMENTS, TRUNK_MASS, centre_of_mass
from kneel.sim.measures.points import Measured, Points
from kneel.sim.measures.space import in_space, seen_turns
from kneel.sim.measures.swing import SWING_UNITS, timing
from kneel.sim.measures.units import unit_of

__all__ = [
    "HEAD_MASS",
    "SEGMENTS",
    "SWING_UNITS",
    "TRUNK_MASS",
    "Measured",
    "Points",
    "centre_of_mass",
    "down_the_line",
    "face_on",
    "in_space",
    "seen_turns",
    "timing",
    "unit_of",
]
