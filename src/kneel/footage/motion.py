"""How much moves in each frame of a clip, and where in it a swing lies."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

from kneel.footage.clip import Clip
from kneel.footage.span import HEARD_WITHIN_S, Span

FloatArray = NDArray[np.float64]

SMALL_HEIGHT = 90
PART_S = 0.06
"""Pictures compared lie about this far apart, so that a slow camera and a fast one see one motion."""

BEFORE_S, AFTER_S = 2.2, 1.6
"""What of a clip belongs to a swing, before and after the fastest moment, in real seconds."""

APART_S = 3.0
"""Two swings of one golfer lie at least this far apart."""

LEAST_ENERGY = 100.0
"""A swing changes the liveliest twentieth of the picture by more than this, grey levels a second."""

STANDS_OUT = 6.0
"""A burst stands out from the rest of the clip by this many robust standard deviations."""


def motion_energy(
    clip: Clip,
    times_s: FloatArray,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> FloatArray:
    """Change of the picture per second at each frame, (N,), in grey levels; frames not seen are 0.

    ``times_s`` (N,) are real seconds. Works on pictures of :data:`SMALL_HEIGHT` lines and keeps only those of
    the last :data:`PART_S`. ``stopped`` is asked between frames; once it says
    yes the rest stays 0.
    """
    energy = np.zeros(len(times_s))
    held: list[tuple[float, FloatArray]] = []
    for number, frame in clip.frames():
        if stopped():
            break
        width = max(2, round(SMALL_HEIGHT * frame.width / frame.height))
        small = frame.reformat(
            width=width, height=SMALL_HEIGHT, format="gray", interpolation="FAST_BILINEAR", threads=1
        )
        picture = np.asarray(small.to_ndarray(), dtype=np.float64)
        now = float(times_s[number])
        while len(held) > 1 and now - held[1][0] >= PART_S:
            held.pop(0)
        if held and now > held[0][0]:
            # The part that moves most speaks, not the whole picture: a golfer may stand far off.
            change = np.abs(picture - held[0][1])
            strongest = np.partition(change.ravel(), -change.size // 20)[-change.size // 20 :]
            energy[number] = float(strongest.mean()) / (now - held[0][0])
        held.append((now, picture))
        if number % 20 == 0:
            progress(number, len(times_s))
    return energy


def find_swings(times_s: FloatArray, energy: FloatArray, heard_s: Sequence[float]) -> list[Span]:
    """Split a clip into swings by bursts of motion, checked by sound where sound is there.

    ``times_s`` (N,) and ``heard_s``, the strikes, are real seconds. A burst
    counts when it stands out and, in a clip of several bursts with strikes,
    when a strike was heard in it. Ranges never overlap.
    """
    if len(times_s) < 8 or not energy.any():
        return []
    peaks = _bursts(times_s, energy)
    if heard_s and len(peaks) > 1:
        near = [p for p in peaks if min(abs(times_s[p] - h) for h in heard_s) < HEARD_WITHIN_S]
        peaks = near or peaks
    spans: list[Span] = []
    for k, peak in enumerate(peaks):
        start = times_s[peak] - BEFORE_S
        end = times_s[peak] + AFTER_S
        if k:
            start = max(start, (times_s[peaks[k - 1]] + times_s[peak]) / 2)
        if k + 1 < len(peaks):
            end = min(end, (times_s[peaks[k + 1]] + times_s[peak]) / 2)
        first = int(np.searchsorted(times_s, start))
        last = int(np.searchsorted(times_s, end, side="right")) - 1
        if spans:
            first = max(first, spans[-1].last + 1)
        spans.append(Span(first, last, float(times_s[peak])))
    return spans


def _bursts(times_s: FloatArray, energy: FloatArray) -> list[int]:
    step = float(np.median(np.diff(times_s)))
    width = max(1, round(0.10 / step))
    smooth = np.convolve(np.pad(energy, width, mode="edge"), np.ones(width) / width, mode="same")
    smooth = smooth[width:-width]
    ground = float(np.median(smooth))
    spread = 1.4826 * float(np.median(np.abs(smooth - ground)))
    crest = float(smooth.max())
    if crest < LEAST_ENERGY:
        return []
    limit = max(ground + STANDS_OUT * spread, ground + 0.4 * (crest - ground))
    if crest < 3 * max(ground, 1.0) and len(times_s) * step > 8:
        return []
    distance = max(1, round(APART_S / step))
    if spread == 0 or len(times_s) * step < 6:
        limit = 0.5 * crest
    peaks, _ = find_peaks(np.concatenate([[0.0], smooth, [0.0]]), height=limit, distance=distance)
    return [int(p) - 1 for p in peaks]
