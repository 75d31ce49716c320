"""All checkpoints of one swing, found or pinned by hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, Hand, anatomical
from kneel.motion.checkpoints.impact import as_heard, find_impact
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment, fused
from kneel.motion.checkpoints.onset import comes_to_rest, set_off
from kneel.motion.checkpoints.phases import REST_SIGMA_S, Phases, find_phases
from kneel.motion.checkpoints.plausible import no_swing
from kneel.motion.failure import Failed
from kneel.motion.signal import Path, even_path, first_crossing
from kneel.motion.stand import ANKLE_M, DISTANCE_M, HEIGHT_M, HEIGHT_SIGMA_M
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

HELD = "held"
"""What the one moment of a held pose, or of a photograph, is called."""

LEVEL_SIGMA_M = 0.025
"""How well "parallel to the ground" is told by two ends of an arm or shaft, m (simulated swings)."""

ARM_M, SHAFT_M = 0.60, 0.85
"""Seen down the line a level arm or shaft points at the camera or away: so much nearer is its end."""

DEEPER_SIGMA = 0.35
"""How far from that, and from where the camera is believed to stand, as a share."""

FLAT_S = 0.05
"""What crosses too slowly to be dated better than this, however well it is seen, is no checkpoint."""

FLAT = Moment(float("nan"), float("inf"))

ALONG_SIGMA_S = 0.025
"""Seen along the target line hands and club first move away from the camera, or toward it, and hardly aside:
how much less surely they seem to set off (simulated swings)."""

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


def _source(name: str, moment: Moment, heard: Sequence[Moment]) -> str:
    """``sound`` where impact is told by a strike as much as by all else together."""
    told = [s for s in heard if abs(s.time_s - moment.time_s) <= 2 * s.sigma_s]
    # Two witnesses of one sigma leave a root of two less.
    by_sound = name == "impact" and any(moment.sigma_s >= s.sigma_s / np.sqrt(2) for s in told)
    return "sound" if by_sound else "found"


@dataclass(frozen=True)
class _Swing:
    tracks: Mapping[str, Track]
    hands: Path
    error: Middle
    hand: Hand
    px_per_m: float

    @property
    def horizon(self) -> float:
        """The row as high as the camera is believed to stand, by the feet."""
        feet = [t.xy[:, 1] for n in ("left_ankle", "right_ankle") if (t := self.tracks.get(n)) is not None]
        ground = np.median(feet) if feet else max(np.median(t.xy[:, 1]) for t in self.tracks.values())
        return float(ground) - (HEIGHT_M - ANKLE_M) * self.px_per_m

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
        along=along,
    )
    heard = [as_heard(strike) for strike in strikes]
    points = {
        name: Checkpoint(
            pinned.get(name, float(np.interp(moment.time_s, times_s, index))),
            moment.time_s,
            moment.sigma_s,
            "marked" if name in pinned else _source(name, moment, heard),
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
    along: bool,
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
        moments["address"] = _began(swing, phases.address, along=along)
    elif "address" not in by_hand:
        notes.append("No address shows: the hands are moving already when the clip begins.")
    if impact:
        moments["impact"] = impact
        moments["finish"] = _rested(swing, phases.finish) if phases.finished else phases.finish
    if not phases.finished:
        notes.append("The clip ends before the body comes to rest; its last frame stands for the finish.")
    levels, unsaid = _levels(swing, phases, impact, along=along)
    moments.update(levels)
    return moments, notes + unsaid + _tempo_notes(moments)


def _began(swing: _Swing, rough: Moment, *, along: bool) -> Moment:
    """When the club moves away, by clubhead and hands; by the hands' speed where neither tells."""
    club, hands = swing.tracks.get("clubhead"), swing.hands
    begins, known, near = (0.22 if along else 0.30), rough.time_s, swing.px_per_m
    witnesses = []
    if club is not None:
        sigma = float(np.median(club.sigma))
        witnesses.append(set_off(club.times_s, club.xy, sigma, rough_s=known, begins_s=begins, px_per_m=near))
    if not along:
        # Down the line the hands first move away from the camera, which does not show.
        sigma = swing.error.moved_sigma(known - 0.1, known)
        witnesses.append(set_off(hands.t, hands.xy, sigma, rough_s=known, begins_s=begins, px_per_m=near))
    told = [w for w in witnesses if w is not None]
    if along:
        return (
            Moment(told[0].time_s, float(np.hypot(told[0].sigma_s, ALONG_SIGMA_S)))
            if told
            else Moment(known, float(np.hypot(rough.sigma_s, 3 * ALONG_SIGMA_S)))
        )
    return fused(told) or rough


def _rested(swing: _Swing, rough: Moment) -> Moment:
    """When the body comes to rest, by the hands."""
    hands, known = swing.hands, rough.time_s
    sigma = swing.error.moved_sigma(known, known + 0.1)
    found = comes_to_rest(hands.t, hands.xy, sigma, rough_s=known, begins_s=0.4, px_per_m=swing.px_per_m)
    return rough if found is None else Moment(found.time_s, float(np.hypot(found.sigma_s, REST_SIGMA_S)))


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


def _levels(
    swing: _Swing, phases: Phases, impact: Moment | None, *, along: bool
) -> tuple[dict[str, Moment], list[str]]:
    """The checkpoints at which an arm or the shaft is parallel to the ground, and why some are not told."""
    top = phases.top.time_s
    start = phases.address.time_s if phases.address else float(swing.hands.t[0])
    strike = impact.time_s if impact else phases.fastest.time_s
    end = phases.finish.time_s
    arm, shaft = (ARM_M, SHAFT_M) if along else (0.0, 0.0)
    back, fore = _height(swing, "clubhead", nearer_m=shaft), _height(swing, "clubhead", nearer_m=-shaft)
    lead, trail = (
        _height(swing, "lead_shoulder", nearer_m=arm),
        _height(swing, "trail_shoulder", nearer_m=-arm),
    )
    half_back = _level(lead, start, top, rising=True)
    half_down = _level(lead, top, strike, rising=False)
    found = {
        "half_back": half_back,
        "half_down": half_down,
        "takeaway": _level(back, start, _time_of(half_back, top), rising=True),
        "delivery": _level(back, _time_of(half_down, top), strike, rising=False),
        "through": _level(fore, strike, end, rising=True),
        "follow": _level(trail, strike, end, rising=True),
    }
    moments, notes = {}, []
    for name, moment in found.items():
        if moment is None:
            continue
        if moment is FLAT:
            words = name.replace("_", " ")
            notes.append(f"The {words} is not told: what crosses there does so too slowly to date.")
        else:
            moments[name] = moment
    return moments, notes


def _height(swing: _Swing, name: str, *, nearer_m: float) -> _Height | None:
    """Height of the hands over a shoulder, or of the clubhead over the hands: a path along y, and its ends.

    Positive is above. ``nearer_m`` is how much nearer the camera the far end hangs when all is level: it then
    looks that much farther from the row of the camera's height.
    """
    track = swing.track(name)
    if track is None:
        return None
    grid = swing.hands.t
    y = np.interp(grid, track.times_s, track.xy[:, 1])
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
    return path, (swing.error, Middle([track]))


def _time_of(moment: Moment | None, otherwise: float) -> float:
    return otherwise if moment is None or moment is FLAT else moment.time_s


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
    slack = float(np.interp(time, height.t, height.velocity[:, 1]))
    if slack / slope > FLAT_S:
        return FLAT
    unsure = np.sqrt(slack**2 + sum(one.sigma(time) ** 2 for one in ends))
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
