"""How near the camera each joint hangs: what one view cannot see, as a belief with a spread.

A pinhole shows what is nearer larger, and a camera off square shows it aside.
How deep a joint hangs is not in the picture; it follows from how golfers stand
(common practice, no source; shares of stature as in :mod:`kneel.motion.body`)
and is used for nothing but the error of what is measured.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from kneel.model import View


@dataclass(frozen=True)
class Depth:
    """Metres toward the camera from the ankles' plane: ``usual`` at address, its ``spread``, how far it may
    move since together with its ``body`` (``moves``) and alone (``turns``).
    """

    usual: float
    spread: float
    moves: float
    turns: float
    body: str


# Face-on: toward the ball line. How far hips and shoulders come by turning is told from the picture.
_ACROSS: Final = {
    "ankle": (0.0, 0.02, 0.0, 0.04, "foot"),
    "heel": (-0.06, 0.02, 0.0, 0.10, "foot"),
    "toe": (0.18, 0.04, 0.0, 0.04, "foot"),
    "knee": (0.05, 0.035, 0.0, 0.06, "knee"),
    "hip": (-0.09, 0.05, 0.03, 0.02, "pelvis"),
    "seat": (-0.20, 0.05, 0.03, 0.02, "pelvis"),
    "belt": (-0.03, 0.05, 0.03, 0.02, "pelvis"),
    "tailbone": (-0.18, 0.05, 0.03, 0.02, "pelvis"),
    "shoulder": (0.18, 0.08, 0.04, 0.04, "chest"),
    "head": (0.26, 0.09, 0.04, 0.03, "chest"),
    "elbow": (0.22, 0.08, 0.0, 0.25, "arms"),
    "wrist": (0.30, 0.08, 0.25, 0.0, "hands"),
    "grip": (0.30, 0.08, 0.25, 0.0, "hands"),
    "clubhead": (0.75, 0.15, 0.0, 0.50, "club"),
    "ball": (0.75, 0.15, 0.0, 0.0, "club"),
}

# Down the line: away from the target, for the trail side; the lead side hangs as far the other way.
_ALONG: Final = {
    "ankle": (0.22, 0.03, 0.0, 0.04, "foot"),
    "heel": (0.21, 0.03, 0.0, 0.06, "foot"),
    "toe": (0.27, 0.04, 0.0, 0.04, "foot"),
    "knee": (0.18, 0.035, 0.0, 0.08, "knee"),
    "hip": (0.09, 0.02, 0.07, 0.04, "pelvis"),
    "seat": (0.0, 0.03, 0.07, 0.05, "pelvis"),
    "belt": (0.0, 0.03, 0.07, 0.05, "pelvis"),
    "tailbone": (0.0, 0.03, 0.07, 0.05, "pelvis"),
    "shoulder": (0.19, 0.04, 0.06, 0.15, "chest"),
    "head": (0.03, 0.05, 0.04, 0.03, "chest"),
    "elbow": (0.18, 0.06, 0.0, 0.25, "arms"),
    "wrist": (0.0, 0.06, 0.35, 0.0, "hands"),
    "grip": (0.0, 0.06, 0.35, 0.0, "hands"),
    "clubhead": (0.0, 0.10, 0.0, 0.90, "club"),
    "ball": (0.0, 0.10, 0.0, 0.0, "club"),
}
_PAIRED: Final = ("ankle", "heel", "toe", "knee", "hip", "shoulder", "elbow")
_APART: Final = ("foot", "knee", "arms")
"""Bodies of which each side has one of its own."""


def depth_of(point: str, view: View) -> Depth:
    """What is believed of a point named by lead and trail.

    >>> depth_of("lead_hip", View.FACE_ON).usual, depth_of("lead_hip", View.DOWN_THE_LINE).usual
    (-0.09, -0.09)
    """
    side, _, joint = point.rpartition("_")
    usual, spread, moves, turns, body = (_ALONG if view is View.DOWN_THE_LINE else _ACROSS)[joint]
    if view is View.DOWN_THE_LINE:
        usual = -usual if side == "lead" and joint in _PAIRED else usual
    elif view is View.REAR:
        usual = -usual
    return Depth(usual, spread, moves, turns, f"{side} {body}" if body in _APART else body)
