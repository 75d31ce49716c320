"""How far a chest that turns tilts the shoulders: on a plane as inclined as somebody bends forward.

Seen across the target line the shoulders of somebody who is bent forward by an angle and turns by another lie
apart in height by their distance times the sines of both. A body model shows people upright: on drawn golfers
of whom nobody marked the shoulders it finds 3 cm at the top where 17 are true.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, anatomical
from kneel.motion.pairs import middle_and_apart
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

INCLINED, INCLINED_SIGMA = 0.5, 0.12
"""Sine of how far somebody bends forward at address: about 30 ± 8° (common practice, no source)."""

FOLLOWS_S, STANDS_UP_S = 0.1, 0.2
"""The trail arm is level so long after the strike, and so long after that nobody is bent forward (common
practice, no source)."""

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


def heights(
    lead: Track, trail: Track, *, start_s: float, down: FloatArray | float, px_per_m: float
) -> dict[str, Height]:
    """Both shoulders' rows, by where they are seen and by how far a turned chest tilts them; ``down`` is 1
    where the turn brings the lead shoulder down, -1 where the trail one, ``start_s`` when one stands square.

    What is seen and what is believed are put together by their errors, so that shoulders that somebody marked
    stay where they are.

    >>> from kneel.motion.example import example
    >>> tracks = example().tracks
    >>> lead, trail = tracks["left_shoulder"], tracks["right_shoulder"]
    >>> found = heights(lead, trail, start_s=0.1, down=1.0, px_per_m=300.0)
    >>> bool((found["lead"].y + found["trail"].y - lead.xy[:, 1] - trail.xy[:, 1]).max() < 1e-9)
    True
    """
    times = lead.times_s
    apart = lead.xy - trail.xy
    first = int(np.abs(times - start_s).argmin())
    wide = max(abs(float(apart[first, 0])), 1e-9)
    square = np.clip(np.abs(apart[:, 0]) / wide, 0, 1)
    turned = np.sqrt(1 - square**2) * wide * down
    believed = INCLINED * turned + apart[first, 1] * square
    unsure = np.hypot(INCLINED_SIGMA * turned, TILTS_M * px_per_m)
    middle, seen = (error[:, 1] for error in middle_and_apart(lead, trail))
    share = seen**2 / (seen**2 + unsure**2)
    moved = share * (believed - apart[:, 1]) / 2
    errors = np.sqrt(middle**2 + share * unsure**2 / 4)
    return {
        side: Height(times, track.xy[:, 1] + sign * moved, np.minimum(errors, track.sigma))
        for side, track, sign in (("lead", lead, 1), ("trail", trail, -1))
    }


def tilted(
    tracks: Mapping[str, Track], hand: Hand, times_s: Mapping[str, float], px_per_m: float
) -> dict[str, Track]:
    """The shoulders of a swing seen across the line, as high as :func:`heights` has them; none where address,
    top, impact or a shoulder is not known. Their errors stay those of what is seen.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> times = {name: point.time_s for name, point in study.checkpoints.items()}
    >>> sorted(tilted(study.tracks, study.setup.hand, times, study.px_per_m))
    ['left_shoulder', 'right_shoulder']
    """
    names = {side: anatomical(f"{side}_shoulder", hand) for side in ("lead", "trail")}
    if not {"address", "top", "impact"} <= times_s.keys() or not {*names.values()} <= tracks.keys():
        return {}
    lead, trail = (tracks[names[side]] for side in ("lead", "trail"))
    # The chest is square again between half way down and the strike.
    square = times_s.get("half_down", times_s["top"]), times_s["impact"]
    down = np.interp(lead.times_s, square, (1.0, -1.0))
    found = heights(lead, trail, start_s=times_s["address"], down=down, px_per_m=px_per_m)
    # Past the follow-through the body comes up, and its shoulders turn level.
    late = times_s.get("follow", times_s["impact"] + FOLLOWS_S)
    bent = np.clip(1 - (lead.times_s - late) / STANDS_UP_S, 0, 1)
    return {
        names[side]: replace(
            track,
            xy=np.stack([track.xy[:, 0], track.xy[:, 1] + bent * (found[side].y - track.xy[:, 1])], axis=1),
        )
        for side, track in (("lead", lead), ("trail", trail))
    }
