"""What is heard of a review as it is shown: the pieces of its voices on one clock."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kneel.model.review import Review, SpokenTake
from kneel.review.file import ReviewError
from kneel.review.voice import RATE, read_voice

BLOCK = 1 << 18

FADE = 240
"""Samples over which a piece fades in and out, so that no cut clicks: 5 ms."""


def spoken(review: Review) -> tuple[NDArray[np.float32], tuple[str, ...]]:
    """The sound of a review (N,) at :data:`RATE`, and what is to be said of it: voices that are gone are
    silent.
    """
    voices: dict[int, NDArray[np.float32]] = {}
    notes: list[str] = []
    for number, take in enumerate(review.takes):
        if take.voice is None or all(piece.take != number for piece in review.pieces):
            continue
        try:
            voices[number], _ = read_voice(Path(take.voice.path))
        except ReviewError as error:
            notes.append(str(error))
    whole = np.zeros(round(review.seconds * RATE), np.float32)
    shown = 0.0
    for piece in review.pieces:
        first, last = round(shown * RATE), min(round((shown + piece.seconds) * RATE), len(whole))
        shown += piece.seconds
        voice = voices.get(piece.take)
        if voice is None or last - first < 2 * FADE:
            continue
        part = whole[first:last]
        _lay(voice, review.takes[piece.take], piece.start_s, part)
        part[:FADE] *= np.linspace(0, 1, FADE, dtype=np.float32)
        part[-FADE:] *= np.linspace(1, 0, FADE, dtype=np.float32)
    return whole, tuple(notes)


def _lay(voice: NDArray[np.float32], take: SpokenTake, start_s: float, into: NDArray[np.float32]) -> None:
    """Lay a voice into samples that begin at a time of its take, block by block: its own clock runs a little
    otherwise than the recording's.
    """
    for k in range(0, len(into), BLOCK):
        count = min(BLOCK, len(into) - k)
        at = (start_s + (k + np.arange(count)) / RATE - take.late_s) * take.pace * RATE
        low = np.floor(at).astype(np.int64)
        inside = (low >= 0) & (low < len(voice) - 1)
        low, share = low[inside], (at - low)[inside]
        into[k : k + count][inside] = voice[low] * (1 - share) + voice[low + 1] * share


def loudness(samples: NDArray[np.float32], count: int) -> NDArray[np.float32]:
    """How loud it is in each of so many equal stretches, 0 to 1, for a picture of it.

    >>> loudness(np.array([0.0, 0.0, 0.5, -0.25], np.float32), 2).tolist()
    [0.0, 0.5]
    """
    if not len(samples) or count < 1:
        return np.zeros(max(count, 0), np.float32)
    edges = np.linspace(0, len(samples), count + 1).astype(int)
    return np.array(
        [np.abs(samples[a:b]).max() if b > a else 0.0 for a, b in pairwise(edges)],
        np.float32,
    )
