"""The reference figure: a golfer of the student's build, swinging in a school's pattern, as their camera
would see it.

Proportions, set-up and the camera's place are one least-squares fit to the joints at address, each with its
belief (body tables, how cameras are set up); the swing is the simulator's, in step with the student's by
their checkpoints. It shows a pattern on this body, and foretells nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.compare.step import by_rests, rest_at_top
from kneel.judge import School, in_use
from kneel.model import Club, UsageError
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.failure import Failed
from kneel.motion.scale import Scale
from kneel.motion.study import Study
from kneel.sim.fitted import JOINTS, AddressFit
from kneel.sim.pose import Motion
from kneel.sim.swing import NEUTRAL, NINE, Rows, SwingPlan, patterns

FloatArray = NDArray[np.float64]

SHOWN = (*JOINTS, "head", "grip", "clubhead", "lead_elbow", "trail_elbow")

MOST_RMS_CM = 4.0
"""A figure that stands farther off at address is none of this body."""

INSIDE = 0.1
"""A pattern made for an instructor's own school goes this share of a margin inside its windows."""


@dataclass(frozen=True)
class ReferenceFigure:
    """A figure at every frame of a swing: px (T, 2) by lead/trail name. ``rms_cm`` is how far it stands from
    the student at address, ``school`` whose pattern it swings, ``steady_at`` the frame whose picture it is
    of, where the camera moves.
    """

    school: str
    pattern: str
    points: Mapping[str, FloatArray]
    rms_cm: float
    steady_at: int

    def pixels(self, study: Study, frame: int) -> dict[str, tuple[float, float]]:
        """Where its points lie on a frame's picture."""
        found = {}
        for name, path in self.points.items():
            place = path[frame]
            if study.camera is not None:
                place = study.carried(place, self.steady_at, frame)
            found[name] = (float(place[0]), float(place[1]))
        return found


def pattern_of(school: School) -> str:
    """The simulator's clean swing for a school: its own, that of what it stands on, else the neutral one.

    >>> from kneel.judge.knowledge import shipped
    >>> pattern_of(shipped().school("braced"))
    'braced'
    """
    known, seen = in_use().schools, set()
    while school.key not in patterns() and school.based_on in known and school.key not in seen:
        seen.add(school.key)
        school = known[school.based_on]
    if school.key in patterns():
        return school.key
    return school.based_on if school.based_on in patterns() else NEUTRAL


def rows_of(school: School, club: Club) -> Rows:
    """A school's pattern at the nine checkpoints, for a body of 1.75 m: brought inside its own windows where
    those are not what the pattern was made for.

    >>> from kneel.judge.knowledge import shipped
    >>> from kneel.model import Club
    >>> rows_of(shipped().school("centred"), Club.IRON)["pelvis_turn"][[0, 3]].round().tolist()
    [0.0, -44.0]
    """
    rows = SwingPlan(pattern=pattern_of(school)).clean_rows(club)
    for name in set(rows) & {window.measure for window in school.window}:
        for k, at in enumerate(NINE):
            window = school.find(name, at, club)
            if window is None or k == 0:
                continue
            more = INSIDE * window.margin
            low = -np.inf if window.lo is None else window.lo + more
            high = np.inf if window.hi is None else window.hi - more
            if rows[name][k] < low - more or rows[name][k] > high + more:
                rows[name][k] = np.clip(rows[name][k], min(low, high), max(low, high))
    return rows


def figure_of(study: Study, school: School, club: Club) -> ReferenceFigure:
    """The figure for a swing. Raises :class:`UsageError` where the clip does not tell enough of the body, or
    where no such body is found.
    """
    start = study.checkpoints.get("address")
    if start is None or "top" not in study.checkpoints:
        raise UsageError("The reference figure needs address and top; pin them, or mark the body there.")
    if isinstance(study.places, Failed) or not isinstance(study.scale, Scale):
        raise UsageError("The reference figure needs the legs and a scale, which this swing does not have.")
    lacking = [name for name in JOINTS if study.track(name) is None]
    if lacking:
        words = lacking[0].replace("_", " ")
        raise UsageError(f"The reference figure needs the {words} at address, neither seen nor marked here.")
    plan = SwingPlan(pattern=pattern_of(school))
    fit = AddressFit(study, start.shown, club, rows_of(school, club))
    golfer, camera, rows = fit.solved()
    try:
        motion = Motion(golfer, plan, rows)
        at = motion.checkpoints_s
    except (ValueError, FloatingPointError) as error:
        raise UsageError("No swing of that pattern is found for this build and set-up.") from error
    theirs = {name: Checkpoint(0.0, time, 0.005, "found") for name, time in at.items()}
    step = by_rests((study.checkpoints, theirs), (rest_at_top(study), (at["top"], at["top"])))
    joints = motion.pose(step.to_b(study.times_s)).joints
    points = {name: camera.project(joints[name])[0] for name in SHOWN}
    off = np.array([points[name][start.shown] - study.steadied_at(name, start.shown) for name in JOINTS])
    rms = float(np.sqrt((off**2).sum(axis=1).mean()) / fit.px_per_cm)
    if rms > MOST_RMS_CM:
        raise UsageError(
            f"No body is found that stands as this one does at address: {rms:.0f} cm off. Check the points "
            "there, the view and the hand."
        )
    return ReferenceFigure(school.key, plan.pattern, points, rms, start.shown)
