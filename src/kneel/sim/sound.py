"""The sound of a simulated swing: quiet air, the swish of the club, the strike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

FloatArray = NDArray[np.float64]

RATE = 48000


def swing_sound(length_s: float, impact_s: float, seed: int) -> FloatArray:
    """Mono samples in -1..1 at :data:`RATE`; the strike begins exactly at ``impact_s``."""
    rng = np.random.default_rng(seed)
    count = int(length_s * RATE)
    t = np.arange(count) / RATE
    air = sosfilt(butter(2, 900, fs=RATE, output="sos"), rng.normal(0, 0.012, count))
    swish = sosfilt(butter(2, (300, 1400), "band", fs=RATE, output="sos"), rng.normal(0, 0.12, count))
    swish *= np.exp(-(((t - impact_s + 0.03) / 0.07) ** 2))
    strike = np.zeros(count)
    start = round(impact_s * RATE)
    tail = np.arange(count - start) / RATE
    ring = sosfilt(butter(2, (1800, 9000), "band", fs=RATE, output="sos"), rng.normal(0, 1.0, len(tail)))
    strike[start:] = ring * np.exp(-tail / 0.006) + 0.4 * np.sin(2 * np.pi * 2900 * tail) * np.exp(
        -tail / 0.010
    )
    return np.clip(air + swish + 0.7 * strike, -1, 1)
