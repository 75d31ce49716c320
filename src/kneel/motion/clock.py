"""From stored seconds to real ones: clips filmed faster than they are stored, whole or in part."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

QUICKEST_STEP_S = 1 / 90
"""Only cameras that film at least this fast slow a part down by spreading its frames."""

LEAST_SLOWED = 3.0
"""A camera in poor light spreads its frames too, but less."""

RUN = 15
"""A part counts as slowed by the median of this many steps, so that lost frames do not make one."""


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
