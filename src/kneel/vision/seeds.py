"""Following what the body model saw: its sightings, some way apart, as starts and judges of flow."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from kneel.model import Mark, Sighting

FloatArray = NDArray[np.float64]

APART_S = 0.25
"""Sightings this far apart are used: nearer ones share their error, and flow needs room to tell something."""

SURE_TIMES = 1.5
"""Sightings whose error is larger than so many times the least are no start for anything."""

FOLLOWED = ("head", "hip", "knee", "ankle", "shoulder")
"""Joints the network finds well enough for flow to start on the right limb."""


def seeds(sightings: Mapping[str, Sighting], times_s: FloatArray) -> list[Mark]:
    """Sightings as marks for :func:`kneel.vision.plan.legs`.

    Each has the error by which it may differ from its neighbour: what wanders
    and what scatters, not what lies off through the whole clip.
    """
    out = []
    for point, sighting in sightings.items():
        if point.rsplit("_", 1)[-1] not in FOLLOWED:
            continue
        error = sighting.varying
        sure = np.isfinite(sighting.xy[:, 0]) & (error < SURE_TIMES * np.nanmin(error))
        last = -np.inf
        for frame in np.flatnonzero(sure).tolist():
            if times_s[frame] - last >= APART_S:
                x, y = sighting.xy[frame].tolist()
                out.append(Mark(point, frame, x, y, float(error[frame])))
                last = float(times_s[frame])
    return out
