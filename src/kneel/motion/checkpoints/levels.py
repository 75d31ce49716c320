"""Checkpoints at which an arm or the shaft is parallel to the ground."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, anatomical
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.phases import Phases
from kneel.motion.chest import Height, heights
from kneel.motion.signal import Path, first_crossing
from kneel.motion.stand import ANKLE_M, DISTANCE_M, HEIGHT_M, HEIGHT_SIGMA_M
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

TITLES = {
    "takeaway": "Takeaway",
    "half_back": "Half way back",
    "half_down": "Half way down",
    "delivery": "Delivery",
    "through": "Shaft level after impact",
    "follow": "Follow-through",
}

LEVEL_SIGMA_M = 0.025
"""How well "parallel to the ground" is told by two ends of an arm or shaft, m (simulated swings)."""

ARM_M, SHAFT_M = 0.60, 0.85
"""Seen down the line a level arm or shaft points at the camera or away: so much nearer is its end."""

DEEPER_SIGMA = 0.35
"""How far from that, and from where the camera is believed to stand, as a share."""

FLAT_S = 0.05
"""What crosses too slowly to be dated better than this, however well it is seen, is no checkpoint."""

FLAT = Moment(float("nan"), float("inf"))


@dataclass(frozen=True)
class Swinging:
    tracks: Mapping[str, Track]
    hands: Path
    error: Middle
    hand: Hand
    px_per_m: float
    club_lost: bool
    """Seen down the line a club that is only followed is lost wherever it points at the camera."""

    hands_lost: bool
    """From behind the body hides hands that nobody marked, and the club at address."""

    @property
    def horizon(self) -> float:
        """The row as high as the camera is believed to stand, by the feet."""
        feet = [t.xy[:, 1] for n in ("left_ankle", "right_ankle") if (t := self.tracks.get(n)) is not None]
        ground = np.median(feet) if feet else max(np.median(t.xy[:, 1]) for t in self.tracks.values())
        return float(ground) - (HEIGHT_M - ANKLE_M) * self.px_per_m

    def track(self, name: str) -> Track | None:
        return self.tracks.get(anatomical(name, self.hand))


_Height = tuple[Path, tuple[Middle, Middle | Height]]


def find_levels(
    swing: Swinging, phases: Phases, impact: Moment | None, *, along: bool
) -> tuple[dict[str, Moment], list[str]]:
    """The checkpoints at which an arm or the shaft is parallel to the ground, and why some are not told.

    >>> from kneel.motion.checkpoints.phases import find_phases
    >>> from kneel.motion.example import example, example_hands
    >>> hands, error, px_per_m = example_hands()
    >>> swing = Swinging(example().tracks, hands, error, Hand.RIGHT, px_per_m, False, False)
    >>> found, _ = find_levels(swing, find_phases(*example_hands(), {}), Moment(1.05, 0.01), along=False)
    >>> 0.1 < found["half_back"].time_s < 0.8 < found["half_down"].time_s < 1.05
    True
    """
    top = phases.top.time_s
    start = phases.address.time_s if phases.address else float(swing.hands.t[0])
    strike = impact.time_s if impact else phases.fastest.time_s
    end = phases.finish.time_s
    arm, shaft = (ARM_M, SHAFT_M) if along else (0.0, 0.0)
    back, fore = _height(swing, "clubhead", nearer_m=shaft), _height(swing, "clubhead", nearer_m=-shaft)
    lead, trail = (
        _height(swing, "lead_shoulder", nearer_m=arm, square_s=None if along else start),
        _height(swing, "trail_shoulder", nearer_m=-arm, square_s=None if along else start),
    )
    half_back = _level(lead, start, top, rising=True)
    half_down = _level(lead, top, strike, rising=False)
    found = {
        "half_back": half_back,
        "half_down": half_down,
        "takeaway": _level(back, start, _time_of(half_back, top), rising=True),
        "delivery": _level(back, _time_of(half_down, top), strike, rising=False),
        "through": None if swing.club_lost else _level(fore, strike, end, rising=True),
        "follow": _level(trail, strike, end, rising=True),
    }
    moments, notes = {}, []
    for name, moment in found.items():
        if moment is None:
            continue
        if moment is FLAT:
            notes.append(f"{TITLES[name]} not found.")
        else:
            moments[name] = moment
    return moments, notes


def _height(swing: Swinging, name: str, *, nearer_m: float, square_s: float | None = None) -> _Height | None:
    """Height of the hands over a shoulder, or of the clubhead over the hands: a path along y, and its ends.

    Positive is above. ``nearer_m`` is how much nearer the camera the far end hangs when all is level: it then
    looks that much farther from the row of the camera's height. A shoulder seen across the line of somebody
    who stands square at ``square_s`` is as high as a chest that turns has it: the lead one lower before the
    strike, the trail one after it.
    """
    track = swing.track(name)
    if track is None:
        return None
    grid = swing.hands.t
    row, own = track.xy[:, 1], cast("Middle | Height", Middle([track]))
    side, _, joint = name.partition("_")
    pair = [swing.track(f"{one}_shoulder") for one in ("lead", "trail")]
    if joint == "shoulder" and square_s is not None and pair[0] is not None and pair[1] is not None:
        rows = heights(
            pair[0], pair[1], start_s=square_s, down=1.0 if side == "lead" else -1.0, px_per_m=swing.px_per_m
        )
        row, own = rows[side].y, rows[side]
    y = np.interp(grid, track.times_s, row)
    club = name == "clubhead"
    far = y if club else swing.hands.xy[:, 1]
    above = (swing.hands.xy[:, 1] - y) if club else (y - swing.hands.xy[:, 1])
    grown = (swing.horizon - far) * nearer_m / DISTANCE_M
    above = above - grown
    speed = np.gradient(above, grid)
    both = np.stack([above, above], axis=1)
    camera = HEIGHT_SIGMA_M * swing.px_per_m * nearer_m / DISTANCE_M
    slack = np.sqrt((LEVEL_SIGMA_M * swing.px_per_m) ** 2 + (DEEPER_SIGMA * grown) ** 2 + camera**2)
    path = Path(grid, both, np.stack([speed, np.asarray(slack)], axis=1), np.abs(speed), 0.0, both)
    return path, (swing.error, own)


def _time_of(moment: Moment | None, otherwise: float) -> float:
    return otherwise if moment is None or moment is FLAT else moment.time_s


def _level(found: _Height | None, start: float, end: float, *, rising: bool) -> Moment | None:
    """When a height crosses zero between two times: as sure as that height there, over its slope; where it
    hangs about zero, half as unsure as the times are apart at which it crosses if its ends are off by their
    errors.
    """
    if found is None:
        return None
    height, ends = found
    part = (height.t >= start) & (height.t <= end)
    if part.sum() < 3:
        return None
    time = first_crossing(height.t[part], height.xy[part, 0], rising=rising)
    if time is None:
        return None
    slope = max(float(np.interp(time, height.t, height.speed)), 1e-6)
    step = float(height.t[1] - height.t[0])
    slack = float(np.interp(time, height.t, height.velocity[:, 1]))
    if slack / slope > FLAT_S:
        return FLAT
    seen = float(np.sqrt(sum(one.sigma(time) ** 2 for one in ends)))
    crossings = [
        first_crossing(height.t[part], height.xy[part, 0] + off, rising=rising) for off in (seen, -seen)
    ]
    first, last = (time if crossed is None else crossed for crossed in crossings)
    hangs = abs(last - first) / 2
    return Moment(time, float(np.hypot(max(np.hypot(slack, seen) / slope, hangs), step / np.sqrt(12))))
