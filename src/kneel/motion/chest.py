"""How far a chest that turns tilts the shoulders: on a plane as inclined as somebody bends forward.

Seen across the target line the shoulders of somebody who is bent forward by an angle and turns by another lie
apart in height by their distance times the sines of both. A body model shows people upright: on drawn golfers
of whom nobody marked the shoulders it finds 3 cm at the top where 17 are true.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

INCLINED, INCLINED_SIGMA = 0.5, 0.12
"""Sine of how far somebody bends forward at address: about 30 ± 8° (common practice, no source)."""

TILTS_M = 0.03
"""How far else from that the shoulders tilt by themselves, m (common practice, no source)."""


@dataclass(frozen=True)
class Height:
    """The row of one shoulder with its standard error, both (T,) px at ``times_s``."""

    times_s: FloatArray
    y: FloatArray
    errors: FloatArray

    def sigma(self, time_s: float) -> float:
        """Standard error at a time, px."""
        return float(np.interp(time_s, self.times_s, self.errors))


def heights(lead: Track, trail: Track, *, start_s: float, lower: str, px_per_m: float) -> dict[str, Height]:
    """Both shoulders' rows, by where they are seen and by how far a turned chest tilts them; ``lower`` is the
    side that the turn brings down, ``start_s`` when somebody stands square.

    What is seen and what is believed are put together by their errors, so that shoulders that somebody marked
    stay where they are.

    >>> from kneel.motion.example import example
    >>> tracks = example().tracks
    >>> lead, trail = tracks["left_shoulder"], tracks["right_shoulder"]
    >>> found = heights(lead, trail, start_s=0.1, lower="lead", px_per_m=300.0)
    >>> bool((found["lead"].y + found["trail"].y - lead.xy[:, 1] - trail.xy[:, 1]).max() < 1e-9)
    True
    """
    times = lead.times_s
    apart = lead.xy - trail.xy
    first = int(np.abs(times - start_s).argmin())
    wide = max(abs(float(apart[first, 0])), 1e-9)
    square = np.clip(np.abs(apart[:, 0]) / wide, 0, 1)
    turned = np.sqrt(1 - square**2) * wide * (1 if lower == "lead" else -1)
    believed = INCLINED * turned + apart[first, 1] * square
    unsure = np.hypot(INCLINED_SIGMA * turned, TILTS_M * px_per_m)
    seen = np.hypot(lead.sigma, trail.sigma)
    share = seen**2 / (seen**2 + unsure**2)
    moved = share * (believed - apart[:, 1]) / 2
    errors = np.sqrt((lead.sigma**2 + trail.sigma**2 + share * unsure**2) / 4)
    return {
        side: Height(times, track.xy[:, 1] + sign * moved, np.minimum(errors, track.sigma))
        for side, track, sign in (("lead", lead, 1), ("trail", trail, -1))
    }
