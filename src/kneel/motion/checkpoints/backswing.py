"""The shape of a backswing that is swung alone: still, back, and held or let down again."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.phases import (
    CALM_S,
    NO_SWING,
    REST_M,
    REST_SIGMA_S,
    Phases,
    still_before,
)
from kneel.motion.checkpoints.reversal import reversal
from kneel.motion.failure import Failed
from kneel.motion.signal import Path, even_path

HELD_S = 0.2
"""Hands that stay about their highest place so long are held there."""


def find_backswing(
    hands: Path, error: Middle, px_per_m: float, pinned: Mapping[str, Moment]
) -> Phases | Failed:
    """Address and top by the hands: where they come to rest at their highest, else where they turn.

    Fails where the hands hardly move.

    >>> from kneel.motion.example import example_hands
    >>> round(find_backswing(*example_hands(until=52), {}).top.time_s, 1)
    0.8
    """
    if np.ptp(hands.xy, axis=0).max() < 0.3 * px_per_m or hands.speed.max() < 4 * hands.speed_noise:
        return Failed(f"{NO_SWING} the hands hardly move.")
    calm = even_path(hands.t, hands.plain, smooth_s=CALM_S)
    highest = int(np.argmin(calm.xy[:, 1]))
    top = pinned.get("top") or _held(calm, error, highest, px_per_m) or reversal(hands, error, highest)
    address = pinned.get("address") or still_before(calm, error, hands.index(top.time_s), 0)
    return Phases(address, top, top, top, True)


def _held(calm: Path, error: Middle, highest: int, px_per_m: float) -> Moment | None:
    """When the hands come to rest about their highest place; None where they do not stay there."""
    away = np.linalg.norm(calm.xy - calm.xy[highest], axis=1) > REST_M * px_per_m
    before, after = np.flatnonzero(away[:highest]), np.flatnonzero(away[highest:])
    first = int(before[-1]) + 1 if before.size else 0
    last = highest + int(after[0]) - 1 if after.size else len(away) - 1
    if calm.t[last] - calm.t[first] < HELD_S:
        return None
    step = float(calm.t[1] - calm.t[0])
    slows = float(calm.speed[max(first - 2, 0)]) / max(2 * step, 1e-9)
    unsure = error.speed_sigma(float(calm.t[first]), CALM_S) / max(slows, 1e-9)
    # What is held may be read anywhere in the hold: it is dated where it begins to be one.
    return Moment(float(calm.t[first]), float(np.hypot(REST_SIGMA_S, min(unsure, HELD_S))))
