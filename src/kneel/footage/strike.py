"""Finding the strike of the ball in the sound of a clip.

A struck ball is a click: within a millisecond or two the energy between
1.5 and 12 kHz rises far above what was heard before, and it has died away
some tens of milliseconds later. A voice rises slowly and stays; a bag or a
thud on the mat lives below a kilohertz; the swish of the club swells.
Onsets are found on the log energy of the band (Bello et al. 2005, "A tutorial
on onset detection in music signals"), then put to the sample.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, find_peaks, sosfiltfilt

from kneel.footage.sound import Sound

FloatArray = NDArray[np.float64]

BAND_HZ = (1500.0, 12000.0)
LOW_HZ = 900.0
HOP_S = 0.0005
RISE_DB = 14.0
"""A strike rises at least this far above the sound of the 40 ms before it, within 3 ms."""

ATTACK_S = 0.004
NEAR_TOP_DB = 6.0
DIES_S = 0.080
DIES_DB = 9.0
"""It has fallen by this much before :data:`DIES_S` is over."""

HIGH_SHARE = 0.15
"""Share of its energy above 1.5 kHz; a thud has next to none."""

APART_S = 0.35
"""Two strikes of one golfer lie at least this far apart; a later click within it is an echo or the net."""

LEAST_SIGMA_S = 0.0005


@dataclass(frozen=True)
class Strike:
    """When the ball was struck as heard, seconds after the first picture, with its standard error.

    ``loudness_db`` is how far it rose above what went before.
    """

    time_s: float
    sigma_s: float
    loudness_db: float


def find_strikes(sound: Sound) -> list[Strike]:
    """All strikes in order; an empty list is an answer."""
    if len(sound.samples) < sound.rate // 10:
        return []
    high = _band(sound, BAND_HZ)
    low = _low(sound)
    hop = max(1, round(HOP_S * sound.rate))
    level = _energy(high, hop)
    rise = _rise(level)
    peaks, _ = find_peaks(rise, height=RISE_DB, distance=round(0.01 / HOP_S))
    strikes: list[Strike] = []
    for peak in sorted(peaks.tolist()):
        found = _judge(sound, high, low, level, float(rise[peak]), peak, hop)
        if found is None:
            continue
        if strikes and found.time_s - strikes[-1].time_s < APART_S:
            if found.loudness_db > strikes[-1].loudness_db + 6:
                strikes[-1] = found
            continue
        strikes.append(found)
    return strikes


def _band(sound: Sound, band: tuple[float, float]) -> FloatArray:
    top = min(band[1], 0.45 * sound.rate)
    return np.asarray(
        sosfiltfilt(butter(3, (band[0], top), "band", fs=sound.rate, output="sos"), sound.samples)
    )


def _low(sound: Sound) -> FloatArray:
    return np.asarray(sosfiltfilt(butter(3, LOW_HZ, "low", fs=sound.rate, output="sos"), sound.samples))


def _energy(samples: FloatArray, hop: int) -> FloatArray:
    """Log energy (dB) per hop, never below the smallest that means anything."""
    count = len(samples) // hop
    power = (samples[: count * hop].reshape(count, hop) ** 2).mean(axis=1)
    floor = max(float(np.median(power)) * 1e-2, 1e-10)
    return 10 * np.log10(power + floor)


def _rise(level: FloatArray) -> FloatArray:
    """How far each hop's next 3 ms stand above the loudest the 40 ms before usually were (dB)."""
    ahead, before = round(0.003 / HOP_S), round(0.040 / HOP_S)
    wide = np.pad(level, (before, ahead), mode="edge")
    windows = np.lib.stride_tricks.sliding_window_view(wide, before)
    past = np.percentile(windows[: len(level)], 90, axis=1)
    coming = np.lib.stride_tricks.sliding_window_view(wide[before:], ahead)[: len(level)].max(axis=1)
    return np.asarray(coming - past)


def _judge(
    sound: Sound, high: FloatArray, low: FloatArray, level: FloatArray, rise: float, peak: int, hop: int
) -> Strike | None:
    """The strike at a rise, or None where it is something else."""
    reach = round(0.012 / HOP_S)
    stretch = level[peak : peak + reach]
    if len(stretch) < 3:
        return None
    # A long ring has its loudest hop anywhere; the first that comes near it ends the attack.
    top = peak + int(np.flatnonzero(stretch > stretch.max() - NEAR_TOP_DB)[0])
    begin = _onset_hop(level, peak, top)
    attack = (top - begin) * HOP_S
    after = level[top + round(0.03 / HOP_S) : top + round(DIES_S / HOP_S)]
    dies = len(after) == 0 or float(np.min(after)) < level[top] - DIES_DB
    if attack > ATTACK_S + 0.002 or not dies:
        return None
    part = slice(begin * hop, (top + round(0.015 / HOP_S)) * hop)
    strong, weak = float((high[part] ** 2).sum()), float((low[part] ** 2).sum())
    if strong < HIGH_SHARE * (strong + weak):
        return None
    sample, error = _onset_sample(high, begin * hop, top * hop, hop)
    return Strike(
        sound.start_s + sample / sound.rate,
        float(np.hypot(LEAST_SIGMA_S, error / sound.rate)),
        rise,
    )


def _onset_hop(level: FloatArray, peak: int, top: int) -> int:
    """The last hop before the top that still lay near what went before."""
    before = level[max(peak - 80, 0) : max(peak, 1)]
    ground = float(np.median(before)) if len(before) else float(level[peak])
    limit = ground + 0.25 * (level[top] - ground)
    quiet = np.flatnonzero(level[: top + 1] < limit)
    return int(quiet[-1]) if quiet.size else max(top - 1, 0)


def _onset_sample(high: FloatArray, first: int, last: int, hop: int) -> tuple[float, float]:
    """The sample at which the sound leaves its noise, and how unsure that is (samples)."""
    start = max(first - 2 * hop, 0)
    quiet = np.abs(high[max(start - 40 * hop, 0) : start + hop])
    noise = float(np.percentile(quiet, 95)) if quiet.size else 0.0
    stretch = np.abs(high[start : last + hop])
    crest = float(stretch.max())
    limit = noise + 0.12 * (crest - noise)
    over = np.flatnonzero(stretch > limit)
    at = int(over[0]) if over.size else first - start
    half = np.flatnonzero(stretch > noise + 0.5 * (crest - noise))
    spread = float(half[0] - at) if half.size else float(hop)
    return float(start + at), max(spread / 2, 8.0)
