"""Whether what was found is a swing at all: a film of anything else must not get a verdict.

Each rule asks for far less than any swing shows, a half one or a rehearsal
included (simulated swings: hands 0.03 to 0.13 m apart, rising by 0.84 m or
more, back within 0.12 m of where they began, feet within 0.05 m).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.phases import NO_SWING, Phases
from kneel.motion.signal import Path
from kneel.motion.track import Track

APART_M = 0.30
"""Both hands hold one club: their wrists are never farther apart than this for half of the way."""

SURE_SIGMAS = 2.0

LEAST_RISE_M, FARTHEST_HOME_M = 0.15, 0.45
"""Hands rise by at least so much to the top, and come back to within so much of where they began."""

SHORTEST_DOWN = 0.06
"""Top to impact takes at least this share of the backswing (about a third is usual)."""

FEET_M = 0.30
"""One foot at least stays within this until impact."""

PIN = "Pin the top and impact by hand if it is one."


def no_swing(
    hands: Path,
    phases: Phases,
    impact: Moment | None,
    tracks: Mapping[str, Track],
    px_per_m: float,
) -> str | None:
    """What speaks against a swing, in a sentence; None where nothing does.

    ``tracks`` are by anatomical name, ``px_per_m`` is a rough px per metre.

    >>> from kneel.motion.checkpoints.phases import find_phases
    >>> from kneel.motion.example import example, example_hands
    >>> hands, error, px_per_m = example_hands()
    >>> phases, tracks = find_phases(hands, error, px_per_m, {}), example().tracks
    >>> no_swing(hands, phases, Moment(1.05, 0.01), tracks, px_per_m) is None
    True
    >>> no_swing(hands, phases, Moment(0.8, 0.01), tracks, px_per_m).split(":")[-1].split(".")[0]
    ' the hands are down at once'
    """
    if impact is None:
        return None
    address = phases.address or Moment(float(hands.t[0]), 0.0)
    start, top, strike = (hands.index(m.time_s) for m in (address, phases.top, impact))
    if not start < top < strike:
        return f"{NO_SWING} the hands do not go up and come down. {PIN}"
    rules: tuple[tuple[str, Callable[[], bool]], ...] = (
        ("both feet walk away", lambda: _walks(tracks, address, impact, px_per_m)),
        ("the hands are apart, not on one club", lambda: _apart(tracks, address, phases, impact, px_per_m)),
        ("the hands are down at once", lambda: strike - top < SHORTEST_DOWN * (top - start)),
        ("the hands do not rise and come back", lambda: _astray(hands, start, top, strike, px_per_m)),
    )
    for words, broken in rules:
        if broken():
            return f"{NO_SWING} {words}. {PIN}"
    return None


def _apart(
    tracks: Mapping[str, Track], address: Moment, phases: Phases, impact: Moment, px_per_m: float
) -> bool:
    left, right = tracks.get("left_wrist"), tracks.get("right_wrist")
    if left is None or right is None:
        return False
    # From behind the body hides both hands: what may be one grip is none that is apart.
    unsure = SURE_SIGMAS * np.hypot(left.sigma, right.sigma)
    apart = (np.linalg.norm(left.xy - right.xy, axis=1) - unsure) / px_per_m
    times = left.times_s
    ways = ((address.time_s, phases.top.time_s), (phases.top.time_s, impact.time_s))
    parts = [apart[(times >= start) & (times <= end)] for start, end in ways]
    return any(part.size and float(np.median(part)) > APART_M for part in parts)


def _astray(hands: Path, start: int, top: int, strike: int, px_per_m: float) -> bool:
    height = hands.xy[:, 1] / px_per_m
    return bool(
        height[start] - height[top] < LEAST_RISE_M or abs(height[strike] - height[start]) > FARTHEST_HOME_M
    )


def _walks(tracks: Mapping[str, Track], address: Moment, impact: Moment, px_per_m: float) -> bool:
    feet = [track for name in ("left_ankle", "right_ankle") if (track := tracks.get(name)) is not None]
    if len(feet) < 2:
        return False
    inside = (feet[0].times_s >= address.time_s) & (feet[0].times_s <= impact.time_s)
    moved = [float(np.ptp(track.xy[inside], axis=0).max()) / px_per_m for track in feet if inside.any()]
    return bool(moved) and min(moved) > FEET_M
