"""All checkpoints of one swing, found or pinned by hand."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, Hand, anatomical
from kneel.motion.checkpoints.impact import as_heard, find_impact
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.phases import Moment, Phases, find_phases
from kneel.motion.checkpoints.plausible import no_swing
from kneel.motion.failure import Failed
from kneel.motion.signal import Path, even_path, first_crossing
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

LEVEL_SIGMA_M = 0.04
"""How well "parallel to the ground" is told from two ends of an arm or shaft, metres."""

ALONG_SIGMA_S = 0.08
"""Seen along the target line the hands first move away from the camera: they seem to set off late (simulated
swings)."""

USUAL_DOWN_S = 0.28
LONGEST_DOWN_S = 0.6
SLOW_FACTORS = (2.0, 4.0, 5.0, 8.0, 10.0, 16.0)


@dataclass(frozen=True)
class Checkpoint:
    """``frame`` is an index into the frames of the clip, fractions allowed.

    Impact read off the ball lies midway between the last frame with the ball
    and the first without; the frame that shows it is the latter.

    >>> Checkpoint(143.5, 1.196, 0.002, "found").shown, Checkpoint(142.5, 1.188, 0.002, "found").shown
    (144, 143)
    """

    frame: float
    time_s: float
    sigma_s: float
    source: str

    @property
    def shown(self) -> int:
        """The one frame that stands for it wherever a frame is shown or named."""
        return shown_frame(self.frame)


def shown_frame(frame: float) -> int:
    """The whole frame nearest to a fractional one, the later of two as near.

    Times between frames are interpolated, hence the little slack.
    """
    return int(np.floor(frame + 0.5 + 1e-6))


@dataclass(frozen=True)
class _Swing:
    tracks: Mapping[str, Track]
    hands: Path
    error: Middle
    hand: Hand
    px_per_m: float

    def track(self, name: str) -> Track | None:
        return self.tracks.get(anatomical(name, self.hand))


_Height = tuple[Path, tuple[Middle, Middle]]


def find_checkpoints(
    times_s: FloatArray,
    tracks: Mapping[str, Track],
    seen: Mapping[str, tuple[int, int]],
    *,
    hand: Hand,
    px_per_m: float,
    pinned: Mapping[str, float],
    strikes: Sequence[Moment] = (),
    along: bool = False,
    behind: bool = False,
) -> tuple[dict[str, Checkpoint], list[str]]:
    """Find what the points allow; what is pinned by hand stands.

    ``times_s`` (T,) are real seconds, ``seen`` maps each point to its first
    and last sighted index, ``px_per_m`` is a rough px per metre, ``pinned`` maps
    names to frame indices, ``strikes`` are those heard, ``along`` is whether
    the camera looks along the target line, ``behind`` whether it sees the
    golfer's back. Gives the checkpoints in order and warnings.
    """
    step = float(np.median(np.diff(times_s))) if len(times_s) > 1 else 0.0
    index = np.arange(len(times_s))
    by_hand = {
        name: Moment(float(np.interp(frame, index, times_s)), step / np.sqrt(12))
        for name, frame in pinned.items()
    }
    found, notes = _found(
        times_s,
        tracks,
        seen,
        hand=hand,
        px_per_m=px_per_m,
        by_hand=by_hand,
        strikes=strikes,
        behind=behind,
    )
    if along and "address" in found:
        address = found["address"]
        found["address"] = Moment(address.time_s, float(np.hypot(address.sigma_s, ALONG_SIGMA_S)))
    heard = [as_heard(strike) for strike in strikes]
    points = {
        name: Checkpoint(
            pinned.get(name, float(np.interp(moment.time_s, times_s, index))),
            moment.time_s,
            moment.sigma_s,
            "marked" if name in pinned else "sound" if moment in heard else "found",
        )
        for name, moment in {**found, **by_hand}.items()
    }
    points, dropped = _in_order(points)
    return points, notes + dropped


def _found(
    times_s: FloatArray,
    tracks: Mapping[str, Track],
    seen: Mapping[str, tuple[int, int]],
    *,
    hand: Hand,
    px_per_m: float,
    by_hand: Mapping[str, Moment],
    strikes: Sequence[Moment],
    behind: bool,
) -> tuple[dict[str, Moment], list[str]]:
    found = _hands(times_s, tracks, seen)
    if isinstance(found, Failed):
        return {}, [found.reason]
    hands, error = found
    phases = find_phases(hands, error, px_per_m, by_hand)
    if isinstance(phases, Failed):
        return {}, [phases.reason]
    swing = _Swing(tracks, hands, error, hand, px_per_m)
    impact = by_hand.get("impact") or find_impact(
        phases, hands, error, tracks, seen, px_per_m, strikes, behind=behind
    )
    if not {"top", "impact"} <= set(by_hand):
        against = no_swing(hands, phases, impact, tracks, px_per_m)
        if against is not None:
            return {}, [against]
    moments: dict[str, Moment] = {"top": phases.top}
    notes = []
    if phases.address:
        moments["address"] = phases.address
    elif "address" not in by_hand:
        notes.append("No address shows: the hands are moving already when the clip begins.")
    if impact:
        moments["impact"] = impact
        moments["finish"] = phases.finish
    if not phases.finished:
        notes.append("The clip ends before the body comes to rest; its last frame stands for the finish.")
    moments.update(_levels(swing, phases, impact))
    return moments, notes + _tempo_notes(moments)


def _hands(
    times_s: FloatArray, tracks: Mapping[str, Track], seen: Mapping[str, tuple[int, int]]
) -> tuple[Path, Middle] | Failed:
    """The path of the hands and its error: the grip, else the middle of the wrists, else one wrist."""
    wrists = [n for n in ("left_wrist", "right_wrist") if n in tracks]
    names = ["grip"] if "grip" in tracks else wrists
    if not names:
        return Failed("The checkpoints cannot be found without the hands: mark the grip or the wrists.")
    first = max(seen[n][0] for n in names)
    last = min(seen[n][1] for n in names)
    if last - first < 8:
        return Failed("The checkpoints cannot be found: the hands are marked on too few frames.")
    part = slice(first, last + 1)
    xy = np.mean([tracks[n].xy[part] for n in names], axis=0)
    return even_path(times_s[part], xy, smooth_s=0.016), Middle([tracks[n] for n in names])


def _levels(swing: _Swing, phases: Phases, impact: Moment | None) -> dict[str, Moment]:
    """The checkpoints at which an arm or the shaft is parallel to the ground."""
    top = phases.top.time_s
    start = phases.address.time_s if phases.address else float(swing.hands.t[0])
    strike = impact.time_s if impact else phases.fastest.time_s
    end = phases.finish.time_s
    shaft = _height(swing, "clubhead", over=None)
    lead = _height(swing, "lead_shoulder", over="hands")
    trail = _height(swing, "trail_shoulder", over="hands")
    half_back = _level(lead, start, top, rising=True)
    half_down = _level(lead, top, strike, rising=False)
    wanted: dict[str, Callable[[], Moment | None]] = {
        "half_back": lambda: half_back,
        "half_down": lambda: half_down,
        "takeaway": lambda: _level(shaft, start, half_back.time_s if half_back else top, rising=True),
        "delivery": lambda: _level(shaft, half_down.time_s if half_down else top, strike, rising=False),
        "follow": lambda: _level(trail, strike, end, rising=True),
    }
    return {name: moment for name, find in wanted.items() if (moment := find())}


def _height(swing: _Swing, name: str, *, over: str | None) -> _Height | None:
    """Height of the hands over a point, or of a point over the hands, as a path along y, and its two ends.

    With ``over="hands"`` the hands are measured against the named shoulder;
    without, the clubhead against the hands. Positive is above.
    """
    track = swing.track(name)
    if track is None:
        return None
    grid = swing.hands.t
    y = np.interp(grid, track.times_s, track.xy[:, 1])
    above = y - swing.hands.xy[:, 1] if over == "hands" else swing.hands.xy[:, 1] - y
    speed = np.gradient(above, grid)
    both = np.stack([above, above], axis=1)
    slack = LEVEL_SIGMA_M * swing.px_per_m
    path = Path(grid, both, np.stack([speed, speed], axis=1), np.abs(speed), slack)
    return path, (swing.error, Middle([track]))


def _level(found: _Height | None, start: float, end: float, *, rising: bool) -> Moment | None:
    """When a height crosses zero between two times: as sure as that height there, over its slope."""
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
    unsure = np.sqrt(height.speed_noise**2 + sum(one.sigma(time) ** 2 for one in ends))
    return Moment(time, float(np.hypot(unsure / slope, step / np.sqrt(12))))


def slowed_times(checkpoints: Mapping[str, Checkpoint | Moment]) -> float | None:
    """How many times slower than life a clip looks by its downswing, or None where it looks real.

    Top to impact takes 0.25 to 0.33 s (common practice, no source). Cameras
    slow down by few whole factors; the one nearest in proportion is taken.
    """
    if "impact" not in checkpoints or "top" not in checkpoints:
        return None
    down = checkpoints["impact"].time_s - checkpoints["top"].time_s
    if down <= LONGEST_DOWN_S:
        return None
    return min(SLOW_FACTORS, key=lambda f: abs(np.log(down / f / USUAL_DOWN_S)))


def _tempo_notes(moments: Mapping[str, Moment]) -> list[str]:
    """Say so where the timing cannot be that of a real swing."""
    slowed = slowed_times(moments)
    if slowed is None:
        return []
    down = moments["impact"].time_s - moments["top"].time_s
    return [
        f"The downswing lasts {down:.1f} s: the clip looks slowed down {slowed:g} times; "
        "give its true capture rate to have real times."
    ]


def _in_order(points: Mapping[str, Checkpoint]) -> tuple[dict[str, Checkpoint], list[str]]:
    """Keep checkpoints in their order of time; found ones give way to pinned ones."""
    kept = {n: points[n] for n in CHECKPOINTS if n in points}
    marked = {n: c for n, c in kept.items() if c.source == "marked"}
    order = {n: i for i, n in enumerate(CHECKPOINTS)}
    notes = []
    for name, found in list(kept.items()):
        if found.source == "marked":
            continue
        clash = [m for m, c in marked.items() if (c.frame - found.frame) * (order[m] - order[name]) < 0]
        if clash:
            del kept[name]
            notes.append(f"The {name} found does not agree with the {clash[0]} set by hand and is left out.")
    return kept, notes
