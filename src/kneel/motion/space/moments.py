"""One set of checkpoints for both clips of a swing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from kneel.model import CHECKPOINTS, out_of_order
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.space.clock import Clock
from kneel.motion.study import Study

PINNED = "marked"


def one_set(across: Study, along: Study, clock: Clock) -> tuple[dict[str, Checkpoint], dict[str, Checkpoint]]:
    """One set of checkpoints for both clips: what somebody pinned in either, else where the camera across the
    line has them, else where the other one has.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> one_set(study, study, Clock(0.0, 0.002, 0.0))[0] == study.checkpoints
    True
    """
    found = dict(across.checkpoints)
    for name, point in along.checkpoints.items():
        here = across.checkpoints.get(name)
        if here is None or (point.source == PINNED and here.source != PINNED):
            moved = _moved(point, across, -clock.offset_s, clock.sigma_s)
            tried = {key: one.frame for key, one in found.items() if key in CHECKPOINTS}
            if moved is not None and out_of_order({**tried, name: moved.frame}) is None:
                found[name] = moved
    found = dict(sorted(found.items(), key=lambda one: one[1].time_s))
    there = {name: _moved(one, along, clock.offset_s, clock.sigma_s) for name, one in found.items()}
    return found, {name: one for name, one in there.items() if one is not None}


def _moved(point: Checkpoint, study: Study, by_s: float, sigma_s: float) -> Checkpoint | None:
    """A checkpoint of the one clip in the other; None where that does not show it."""
    time, times = point.time_s + by_s, study.times_s
    if not times[0] <= time <= times[-1]:
        return None
    frame = float(np.interp(time, times, np.arange(len(times))))
    return replace(point, frame=frame, time_s=time, sigma_s=float(np.hypot(point.sigma_s, sigma_s)))


def at_set(study: Study, points: Mapping[str, Checkpoint]) -> Study:
    """A swing that goes by these checkpoints.

    >>> from kneel.motion.example import example
    >>> list(at_set(example(), {}).checkpoints)
    []
    """
    return replace(study, checkpoints=dict(points), _paths={}, _ways={}, _known={})
