"""Everything a clip tells of itself: frames, times, rates, strikes."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from kneel.footage.clip import Clip, ClipInfo
from kneel.footage.sound import read_sound
from kneel.footage.strike import Strike, find_strikes

UNEVEN_SHARE = 2.5
"""Steps between frames that differ this many times tell of a slow-motion ramp."""


@dataclass(frozen=True)
class Probed:
    """What a clip tells. Times of strikes are stored seconds from the first frame.

    ``start_s`` is the first frame's own time; ``rate_captured`` equals the
    stored rate where the file says nothing else.
    """

    info: ClipInfo
    start_s: float
    rate_captured: float
    strikes: tuple[Strike, ...]
    warnings: tuple[str, ...]


def probe(path: str | Path) -> Probed:
    """Look through a clip's table and listen to it. Raises ``FootageError`` where it cannot be read."""
    with Clip(path) as clip:
        info, start = clip.info, clip.start_s
    sound = read_sound(path, start)
    strikes = find_strikes(sound) if sound else []
    captured = info.rate_captured or info.rate_stored
    return Probed(info, start, captured, tuple(strikes), (*info.warnings, *_notes(info)))


def _notes(info: ClipInfo) -> list[str]:
    notes = []
    steps = np.diff(info.times_s)
    if len(steps) > 20 and info.pace is None:
        quick, slow = np.percentile(steps, (10, 90))
        if quick > 0 and slow / quick > UNEVEN_SHARE:
            notes.append(
                "The frames are unevenly spaced: the clip may hold a slow-motion ramp or lack frames; "
                "check its times before trusting a tempo."
            )
    return notes + rate_notes(info)


def rate_notes(info: ClipInfo) -> list[str]:
    """What is said of a rate of capture that the file gives away; nothing where it is as stored."""
    if info.filmed is None:
        return []
    rate, why = info.filmed.rate, info.filmed.why
    slowed = info.pace.max() if info.pace is not None else rate / info.rate_stored
    if slowed <= 1.2:
        return []
    part = "part of it" if info.pace is not None else "it"
    return [
        f"Filmed at {rate:.4g} frames a second, for {why}: {part} runs {slowed:.3g} times slower than life."
    ]
