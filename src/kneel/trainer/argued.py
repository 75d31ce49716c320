"""A stocked swing as the Bench would have it: its exact points made into numbers and a reading."""

from __future__ import annotations

import numpy as np

from kneel.judge import Reading
from kneel.judge.knowledge import shipped
from kneel.model import PointRows, Stature, Swing, TypedScale
from kneel.motion.analysis import analyse
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.study import Study
from kneel.practice.judging import judge_swing
from kneel.trainer.asked import SCHOOL
from kneel.trainer.records import Stocked

SIGMA_PX = 0.2
"""So exact are points that were not seen but made."""


def document_of(stocked: Stocked) -> Swing:
    """The document that says of a stocked swing what a user would."""
    shot = stocked.shot
    return Swing().given(
        view=shot.view,
        hand=shot.hand,
        club=stocked.club,
        school=SCHOOL,
        scale=TypedScale(stocked.cm_per_px),
        mirrored=False,
    )


def study_of(stocked: Stocked, times_s: np.ndarray | None = None) -> Study:
    """Its numbers. ``times_s`` (T,) are the clip's own times, at its rate where they are not given."""
    count = len(next(iter(stocked.points.values()))[0])
    times = np.arange(count) / stocked.rate if times_s is None else times_s[:count]
    xy = {name: np.column_stack(places)[: len(times)] for name, places in stocked.points.items()}
    rows = PointRows(np.arange(len(times)), times, xy, {n: np.full(len(times), SIGMA_PX) for n in xy})
    setup = Setup.of(
        document_of(stocked),
        also_scaled=(Stature(stocked.stature_cm),),
        pinned=stocked.checkpoints,
        width_px=float(stocked.size_px[0]),
        height_px=float(stocked.size_px[1]),
    )
    return analyse(rows.times_s, from_rows(rows), setup)


def reading_of(stocked: Stocked, study: Study) -> Reading:
    """What the judge says to it, by the windows that ship."""
    knowledge = shipped()
    return judge_swing(study, knowledge.school(SCHOOL), document_of(stocked), knowledge)
