"""What was swung, as far as the hands tell: a half swing's top is not a top."""

from __future__ import annotations

import numpy as np

from kneel.model import Kind
from kneel.motion.track import Track

HALF, THREE_QUARTER = 0.80, 1.10
"""Height of the hands at the top, from hips (0) to shoulders (1), below which a swing is a half, and a
three-quarter one (common practice, no source: hands at the chest, hands at the shoulder)."""


def seen_kind(
    hands: list[Track], hips: list[Track], shoulders: list[Track], address: int, top: int
) -> Kind | None:
    """A full, three-quarter or half swing, by how high the hands are at the ``top`` frame.

    Hips and shoulders are taken at ``address``, where they are seen best. None where a joint is missing.

    >>> from kneel.motion.example import example
    >>> tracks = example().tracks
    >>> hips = [tracks["left_hip"], tracks["right_hip"]]
    >>> shoulders = [tracks["left_shoulder"], tracks["right_shoulder"]]
    >>> seen_kind([tracks["grip"]], hips, shoulders, 6, 48).value
    'full'
    """
    if not (hands and hips and shoulders):
        return None
    hand = float(np.mean([track.xy[top, 1] for track in hands]))
    low, high = (float(np.mean([t.xy[address, 1] for t in pair])) for pair in (hips, shoulders))
    if low - high < 1.0:
        return None
    share = (low - hand) / (low - high)
    return Kind.HALF if share < HALF else Kind.THREE_QUARTER if share < THREE_QUARTER else Kind.FULL
