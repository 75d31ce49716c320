"""The school's window on a measure as a corridor over the swing: its limits at the checkpoints found."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.judge.finding import Finding
from kneel.judge.kinds import laid
from kneel.judge.numbers import OfSwing, as_used
from kneel.judge.records import School
from kneel.judge.verdict import HALF, Limits
from kneel.model import Club
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Corridor:
    """Frames (K,) of checkpoints in order, the lower and upper edge there, infinite where open, and the share
    of the margin past them that is not worth a word.
    """

    frames: FloatArray
    lo: FloatArray
    hi: FloatArray
    slack: FloatArray

    def edges(self, frames: FloatArray, bottom: float, top: float) -> tuple[FloatArray, FloatArray]:
        """Both edges at some frames, an open side running to ``bottom`` or ``top``."""
        low = np.interp(frames, self.frames, np.where(np.isfinite(self.lo), self.lo, bottom))
        high = np.interp(frames, self.frames, np.where(np.isfinite(self.hi), self.hi, top))
        return low, high


def corridor_of(
    study: Study, school: School, key: str, club: Club, finding: Finding | None = None
) -> Corridor | None:
    """The windows as used on a measure at the checkpoints that are found; those by which a fault was judged
    go before the school's. None where nothing is asked.

    >>> from kneel.judge.knowledge import shipped
    >>> from kneel.motion.example import example
    >>> found = corridor_of(example(), shipped().schools["centred"], "pelvis_shift", Club.IRON)
    >>> found.frames[:2].tolist(), found.lo[:2].tolist()
    ([30.0, 48.0], [-2.0, -1.5])
    """
    numbers = OfSwing(study, club)
    limits: dict[str, Limits] = {}
    for name in study.checkpoints:
        window = laid(school, key, name, club, study.kind)
        if window is not None:
            limits[name] = as_used(window, numbers, study.unit(key))
    for one in finding.weighed if finding is not None else ():
        if one.check.measure == key and one.limits is not None and one.at in study.checkpoints:
            limits[one.at] = one.limits
    rows = sorted(
        (
            study.checkpoints[name].frame,
            -np.inf if used.lo is None else used.lo,
            np.inf if used.hi is None else used.hi,
            HALF * used.margin,
        )
        for name, used in limits.items()
    )
    if not rows:
        return None
    return Corridor(*np.array(rows).T)
