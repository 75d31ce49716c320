"""From stored seconds to real ones: clips filmed faster than they are stored, whole or in part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

QUICKEST_STEP_S = 1 / 90
"""Only cameras that film at least this fast slow a part down by spreading its frames."""

LEAST_SLOWED = 3.0
"""A camera in poor light spreads its frames too, but less."""

RUN = 15
"""A part counts as slowed by the median of this many steps, so that lost frames do not make one."""


CAMERA_RATES = (100.0, 120.0, 200.0, 240.0, 480.0, 960.0)
"""Rates at which cameras film for slow motion; a stream timed at 600 or 1000 only counts in fine ticks."""

USUAL_DOWN_S, LONGEST_DOWN_S = 0.28, 0.6
"""Top to impact takes 0.25 to 0.33 s (common practice, no source); nobody takes longer to strike a ball."""

LIKELY_DOWN_S = (0.2, 0.42)
SHORTEST_DOWN_S = 0.1

WHOLE_WITHIN, STORED_WITHIN = 0.04, 0.02
"""Of what a file tells, and of a film that was written anew: that has an even 24, 25 or 30 a second."""


def whole_times(times: float, within: float = WHOLE_WITHIN) -> bool:
    """Whether one rate is a whole number of times another, but for how cameras round them.

    >>> whole_times(240 / 29.97), whole_times(200 / 30)
    (True, False)
    """
    return abs(times / max(round(times), 1) - 1) < within


@dataclass(frozen=True)
class Slowed:
    """A clip that looks slowed down by its downswing of ``down_s``; ``rates`` are those it may have been
    filmed at, the likeliest first, ``stored`` is how many frames a second it seems to have. Without rates it
    looks quicker than life: less slowed down than is taken for true.
    """

    down_s: float
    stored: float
    rates: tuple[float, ...]

    @property
    def times(self) -> float:
        """How many times slower than life it most likely is."""
        return self.rates[0] / self.stored if self.rates else 1.0


def looks_slowed(down_s: float, stored: float) -> Slowed | None:
    """What a downswing of ``down_s`` says of a clip of ``stored`` frames a second; None where it looks real.

    Slow motion is filmed at few rates (:data:`CAMERA_RATES`) and stored a whole number of times slower: the
    one that makes the downswing most usual is the likeliest, and others that make it likely may be meant.

    >>> looks_slowed(1.3, 30.0), looks_slowed(1.75, 29.97).rates
    (Slowed(down_s=1.3, stored=30.0, rates=(120.0,)), (240.0,))
    >>> looks_slowed(0.3, 30.0) is None, looks_slowed(0.04, 240.0).rates
    (True, ())
    """
    if 0 < down_s < SHORTEST_DOWN_S:
        return Slowed(down_s, stored, ())
    quicker = [rate for rate in CAMERA_RATES if rate > 1.5 * stored]
    rates = [rate for rate in quicker if whole_times(rate / stored, STORED_WITHIN)] or quicker
    if down_s <= LONGEST_DOWN_S or not rates:
        return None
    rates.sort(key=lambda rate: abs(np.log(down_s * stored / rate / USUAL_DOWN_S)))
    least, most = LIKELY_DOWN_S
    others = [rate for rate in rates[1:] if least < down_s * stored / rate < most]
    return Slowed(down_s, stored, (rates[0], *others))


def pace_of(times_s: FloatArray) -> FloatArray | None:
    """How many times slower than the quickest part each step between frames runs, (T - 1,), or None.

    ``times_s`` (T,) are stored seconds. Frames of a clip slowed in part are
    as far apart in life as everywhere, only spread in time. None where no
    part of the clip is slowed so.

    >>> pace_of(np.arange(200) / 60) is None
    True
    >>> slowed = np.cumsum(np.where(np.arange(200) < 100, 1, 8) / 240)
    >>> pace = pace_of(slowed)
    >>> round(float(pace[20])), round(float(pace[-20]))
    (1, 8)
    """
    steps = np.diff(times_s)
    if len(steps) < 4 * RUN or steps.min() <= 0:
        return None
    around = np.pad(steps, RUN // 2, mode="edge")
    local = np.median(np.lib.stride_tricks.sliding_window_view(around, RUN), axis=1)
    quick = float(local.min())
    if quick > QUICKEST_STEP_S or local.max() < LEAST_SLOWED * quick:
        return None
    return np.where(local > 1.5 * quick, local / quick, 1.0)


def real_times(
    times_s: FloatArray, rate_captured: float | None, pace: FloatArray | None = None
) -> FloatArray:
    """Stored times (T,) of a whole clip as real seconds of capture, from the same first time on.

    A clip caught at 240 frames a second and stored at 30 runs eight times too
    slow; ``pace`` is that of :func:`pace_of` where only parts do. A rate of
    None leaves the times as they are.

    >>> real_times(np.array([0.0, 1 / 30, 2 / 30]), 240.0).round(4).tolist()
    [0.0, 0.0042, 0.0083]
    """
    if rate_captured is None or len(times_s) < 2:
        return times_s
    steps = np.diff(times_s)
    if pace is not None:
        steps = steps / pace
    share = 1 / (rate_captured * float(np.median(steps)))
    return times_s[0] + np.concatenate([[0.0], np.cumsum(steps)]) * share
