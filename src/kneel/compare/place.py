"""Where a place on one body lies on another: the same way from the same joints, at address."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.model import POINTS, UsageError, anatomical, side_of
from kneel.motion.study import Study

NEAR_M = 0.10
"""Joints nearer than this to what is drawn count alike; farther ones by the square of how far they are."""

NOT_OF_THE_BODY = ("ball", "clubhead", "grip")


def same_place(one: Study, other: Study, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places (N, 2) px on one picture, as they lie on the other body, px of its picture.

    What they are near to at address is what they are near to there; the size is that of the other body, no
    more is turned than that a body that swings the other way is mirrored. Raises :class:`UsageError` where
    address or fewer than two joints are known of both.

    >>> from kneel.motion.example import example
    >>> from kneel.model import Hand
    >>> here, there = example(), example(hand=Hand.LEFT)
    >>> moved = same_place(here, there, here.tracks["left_knee"].xy[[6]])
    >>> bool(np.allclose(moved, there.tracks["right_knee"].xy[[6]]))
    True
    """
    joints = _joints(one, other)
    p, q = joints[:, 0], joints[:, 1]
    mirror = np.array([float(one.direction * other.direction), 1.0])
    spreads = [float(np.sqrt(((side - side.mean(axis=0)) ** 2).sum())) for side in (p, q)]
    grown = spreads[1] / max(spreads[0], 1e-9)
    reach = NEAR_M * one.px_per_m
    far = np.linalg.norm(p[:, None] - places[None], axis=2).min(axis=1)
    weight = 1.0 / (far**2 + reach**2)
    shift = (weight[:, None] * (q - grown * mirror * p)).sum(axis=0) / weight.sum()
    return np.asarray(grown * mirror * places + shift)


def same_point(point: str, one: Study, other: Study) -> str:
    """A point of one body, as it is called on the other: lead stays lead.

    Points without a side keep their names.

    >>> from kneel.motion.example import example
    >>> from kneel.model import Hand
    >>> same_point("left_knee", example(), example(hand=Hand.LEFT))
    'right_knee'
    """
    side = side_of(point, one.setup.hand)
    if side is None:
        return point
    return anatomical(f"{side}_{point.split('_', 1)[1]}", other.setup.hand)


def _joints(one: Study, other: Study) -> NDArray[np.float64]:
    """What both bodies have at address, (N, 2, 2): joints, bodies, px."""
    starts = [study.checkpoints.get("address") for study in (one, other)]
    found = []
    for point in POINTS:
        there = same_point(point, one, other)
        known = point in one.tracks and there in other.tracks and point not in NOT_OF_THE_BODY
        if known and starts[0] is not None and starts[1] is not None:
            found.append((one.tracks[point].xy[starts[0].shown], other.tracks[there].xy[starts[1].shown]))
    if len(found) < 2:
        raise UsageError("Both swings need their address, and joints there, for one place on both bodies.")
    return np.array(found, dtype=float)
