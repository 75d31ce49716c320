"""On the way down hips and shoulders pass square: there they lie as far apart as at address.

Seen across the target line a pelvis that is closed at the top and open after
the strike looks as wide once between as it did at address, but for how far it
is tilted by then. A body model that sees hips too far apart where they are
turned, put right by marks on turned ones, would be put right as much there:
between a mark at the top and one at impact the line of the hips would stay as
short as in both, as if it never passed square. Where it is solved shorter than
it can be, both ends share what lacks, in every frame as far as its error hangs
together with that (the update of one scalar, Kalman 1960). As with limbs
(:mod:`kneel.motion.limbs`) no error gets smaller by it.

When that is tells which way a line is turned, which its length does not: see
:func:`which_way`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints import Checkpoint
from kneel.motion.pairs import JOINTS, Paired, both_of
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

SHORTER: Final = 0.04
"""So much shorter than at address the line may look where it passes square: somebody stands 10° from square
to the camera, and the moment is told to 30 ms, in which a pelvis turns by 15° (common practice, no source),
1.5 and 3.4 %."""

LATE: Final = {"hip": 0.2, "shoulder": 1.0}
"""How much rarer that is after the strike than before: a pelvis is open by 20 to 45° there, of one in twenty
not yet, a chest nearly square (common practice, no source)."""


def which_way(gap: FloatArray, sigma: FloatArray, often: FloatArray, first: int, last: int) -> FloatArray:
    """How sure it is which way a line is turned (T,): -1 away from the target, +1 toward it.

    It turns from the one to the other once between the frames ``first`` and
    ``last``, where it looks longest: ``gap`` (T,) is how long it looks, ``sigma``
    (T,) the error of how much longer it is in its longest frame, ``often`` (T,)
    how often that is each. Between, it is the odds of the one less those of the other.

    >>> gap = np.array([5.0, 6.0, 9.0, 6.0, 5.0])
    >>> which_way(gap, np.full(5, 0.1), np.ones(5), 0, 4).tolist()
    [-1.0, -1.0, 0.0, 1.0, 1.0]
    >>> which_way(gap, np.full(5, 3.0), np.ones(5), 0, 4).round(1).tolist()
    [-0.9, -0.5, 0.0, 0.5, 0.9]
    """
    here = slice(first, last + 1)
    likely = often[here] * np.exp(-(((gap[here].max() - gap[here]) / sigma[here]) ** 2) / 2)
    way = np.where(np.arange(len(gap)) < first, -1.0, 1.0)
    # In the frame in which it passes it is turned neither way.
    way[here] = np.clip((2 * np.cumsum(likely) - likely) / likely.sum() - 1, -1.0, 1.0)
    return way


def passed_square(tracks: Mapping[str, Track], checkpoints: Mapping[str, Checkpoint]) -> dict[str, Track]:
    """Hips and shoulders of a swing seen across the line that are solved shorter than they can be where they
    pass square, by left and right. None of pairs that were solved end by end, or that are widest at the top
    or at impact: these may pass later, or never.

    >>> from kneel.motion.example import example
    >>> passed_square(example().tracks, example().checkpoints)
    {}
    """
    if not {"address", "top", "impact"} <= checkpoints.keys():
        return {}
    address, top, last = (checkpoints[name].shown for name in ("address", "top", "impact"))
    if not address < top < last - 1:
        return {}
    found: dict[str, Track] = {}
    for joint in JOINTS:
        names = both_of(joint)
        left, right = (tracks.get(name) for name in names)
        if not (isinstance(left, Paired) and isinstance(right, Paired) and left.pair is not None):
            continue
        half = (left.xy - right.xy) / 2
        way = float(np.sign(half[address, 0]))
        square = top + int(np.argmax(way * half[top : last + 1, 0]))
        long = float(np.hypot(*half[address]))
        # What is tilted more looks shorter across.
        across = np.sqrt(max(long**2 - half[square, 1] ** 2, (long / 2) ** 2))
        lacks = across - SHORTER * long - way * half[square, 0]
        if square in (top, last) or lacks <= 0:
            continue
        shares, total = left.pair.longer(square, address)
        shares[..., 1] = 0.0
        moved = shares * (way * lacks / (total[0] + (SHORTER * long) ** 2))
        pair = replace(left.pair, xy=left.pair.xy + moved)
        found |= {name: end.with_other(pair, moved) for name, end in zip(names, (left, right), strict=True)}
    return found
