"""The rate a clip was filmed at, where the file itself gives it away."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.motion.clock import CAMERA_RATES, WHOLE_WITHIN, whole_times

FloatArray = NDArray[np.float64]

TAGS = ("capture.fps", "capture_fps", "captureframerate", "capturefps")
LEAST_SLOWED = 2.9
"""Twice is not enough: a stream of half pictures counts twice, and sound may stop early."""

SHORTEST_SOUND_S = 0.5
SHORTEST_FILM_S = 0.8
"""Back and down again takes a second and more (common practice, no source)."""


@dataclass(frozen=True)
class RateGuess:
    """Frames a second as filmed, and what in the file tells so."""

    rate: float
    why: str


def guess_rate(container: Any, times_s: FloatArray, pace: FloatArray | None) -> RateGuess | None:
    """The rate of capture of an open clip, or None where it looks stored as it was filmed.

    ``times_s`` (N,) are stored seconds, ``pace`` that of
    :func:`kneel.motion.clock.pace_of`. The file's own tags are believed
    first, then the spread of its frames, then the timing inside the picture
    stream, then a sound track several times shorter than the pictures.
    """
    steps = np.diff(times_s)
    tagged = _tagged(container)
    if pace is not None:
        # What the tag says is the rate at which every frame was filmed, so both may be true.
        quick = 1 / float(np.median(steps / pace))
        return RateGuess(
            tagged or quick, "its frames lie several times farther apart in one part than in another"
        )
    stored = 1 / float(np.median(steps)) if len(steps) else 0.0
    # A tag that outlived its clip, which was written anew since, would leave no time for a swing.
    if tagged and (tagged < LEAST_SLOWED * stored or len(times_s) / tagged > SHORTEST_FILM_S):
        return RateGuess(tagged, "the file says so")
    if len(steps) < 8:
        return None
    for rate, why in (
        (_inner_rate(container), "the picture stream was timed so by the camera"),
        (_by_sound(container, stored, float(times_s[-1])), "its sound is as much shorter than its pictures"),
    ):
        if rate is not None and rate >= LEAST_SLOWED * stored and whole_times(rate / stored) and _usual(rate):
            return RateGuess(rate, why)
    return None


def _tagged(container: Any) -> float | None:
    for tags in (container.metadata, container.streams.video[0].metadata):
        for key, text in tags.items():
            if key.lower().endswith(TAGS):
                try:
                    rate = float(text)
                except ValueError:
                    continue
                if 5 <= rate <= 2000:
                    return rate
    return None


def _inner_rate(container: Any) -> float | None:
    """The rate by the timing that H.264 and HEVC streams carry in themselves (ITU-T H.264, E.2.1)."""
    codec = container.streams.video[0].codec_context
    known = codec is not None and codec.name in ("h264", "hevc") and codec.framerate
    return float(codec.framerate) if known else None


def _by_sound(container: Any, stored: float, pictures_s: float) -> float | None:
    """The rate if the sound were as long as what was filmed."""
    tracks = container.streams.audio
    if not tracks or tracks[0].duration is None or tracks[0].time_base is None:
        return None
    sound_s = float(tracks[0].duration * tracks[0].time_base)
    fits = sound_s > SHORTEST_SOUND_S and whole_times(pictures_s / sound_s)
    return stored * round(pictures_s / sound_s) if fits else None


def _usual(rate: float) -> bool:
    return any(abs(rate / usual - 1) < WHOLE_WITHIN for usual in CAMERA_RATES)
