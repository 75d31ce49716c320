"""All checkpoints of one swing, found or pinned by hand."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, Hand
from kneel.motion.checkpoints.backswing import find_backswing
from kneel.motion.checkpoints.ends import began, cut_short, hidden_beginning, rested
from kneel.motion.checkpoints.impact import as_heard, find_impact
from kneel.motion.checkpoints.levels import Swinging, find_levels
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.phases import find_phases
from kneel.motion.checkpoints.plausible import no_swing
from kneel.motion.failure import Failed
from kneel.motion.signal import Path, even_path
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

HELD = "held"
"""What the one moment of a held pose, or of a photograph, is called."""

LEAST_SEEN = 8
"""Frames for which a ball is seen before it leaves, and gone after."""


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

    >>> shown_frame(41.5), shown_frame(41.49)
    (42, 41)
    """
    return int(np.floor(frame + 0.5 + 1e-6))


def _source(name: str, moment: Moment, heard: Sequence[Moment]) -> str:
    """``sound`` where impact is told by a strike as much as by all else together."""
    told = [s for s in heard if abs(s.time_s - moment.time_s) <= 2 * s.sigma_s]
    # Two witnesses of one sigma leave a root of two less.
    by_sound = name == "impact" and any(moment.sigma_s >= s.sigma_s / np.sqrt(2) for s in told)
    return "sound" if by_sound else "found"


def start_of(points: Mapping[str, Checkpoint]) -> Checkpoint | None:
    """The moment at which a body stands still and scale and places are told: address; of a held pose its own,
    whichever position that is. None where there is neither.

    >>> from kneel.motion.example import example
    >>> round(start_of(example().checkpoints).time_s, 2)
    0.1
    """
    alone = next(iter(points.values())) if len(points) == 1 else None
    return (
        points.get("address") or points.get(HELD) or (alone if alone and alone.source == "marked" else None)
    )


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
    guessed: Collection[str] = (),
    back_only: bool = False,
) -> tuple[dict[str, Checkpoint], list[str]]:
    """Find what the points allow; what is pinned by hand stands.

    ``times_s`` (T,) are real seconds, ``seen`` maps each point to its first
    and last sighted index, ``px_per_m`` is a rough px per metre, ``pinned`` maps
    names to frame indices, ``strikes`` are those heard, ``along`` is whether
    the camera looks along the target line, ``behind`` whether it sees the
    golfer's back; ``guessed`` are points that nobody marked; ``back_only`` that there is a backswing alone.
    Gives the checkpoints in order and warnings.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> seen = dict.fromkeys(study.tracks, (0, 119))
    >>> how = {"hand": study.setup.hand, "px_per_m": 300.0, "pinned": study.setup.pinned}
    >>> found, _ = find_checkpoints(study.times_s, study.tracks, seen, **how)
    >>> sorted(found)[:2]
    ['address', 'finish']
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
        guessed=guessed,
        back_only=back_only,
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
    guessed: Collection[str],
    back_only: bool,
) -> tuple[dict[str, Moment], list[str]]:
    found = _hands(times_s, tracks, seen)
    if isinstance(found, Failed):
        return {}, [found.reason]
    hands, error = found
    phases = (
        find_backswing(hands, error, px_per_m, by_hand)
        if back_only
        else find_phases(hands, error, px_per_m, by_hand, _struck(times_s, seen, strikes, behind=behind))
    )
    if isinstance(phases, Failed):
        return {}, [phases.reason]
    swing = Swinging(
        tracks, hands, error, hand, px_per_m, along and "clubhead" in guessed, behind and "grip" in guessed
    )
    impact = None
    if not back_only:
        impact = by_hand.get("impact") or find_impact(
            phases, hands, error, tracks, seen, px_per_m, strikes, behind=behind
        )
    if not back_only and not {"top", "impact"} <= set(by_hand):
        against = no_swing(hands, phases, impact, tracks, px_per_m)
        if against is not None:
            return {}, [against]
    moments: dict[str, Moment] = {"top": phases.top}
    notes = []
    if phases.address:
        moments["address"] = began(swing, phases.address, along=along)
    elif "address" not in by_hand:
        notes.append("No address shows: the hands are moving already when the clip begins.")
    if impact:
        moments["impact"] = impact
        if swing.hands_lost and "address" in moments:
            moments["address"] = hidden_beginning(moments["address"], phases.top, impact)
        if phases.finished:
            moments["finish"] = rested(swing, phases.finish)
        else:
            last = cut_short(phases, impact)
            then = ": its finish is not seen. Let the camera run until it is held."
            if last is not None:
                moments["finish"], then = last, "; its last frame stands for the finish."
            notes.append(f"The clip ends before the body comes to rest{then}")
    levels, unsaid = find_levels(swing, phases, impact, along=along)
    moments.update(levels)
    return moments, notes + unsaid


def _struck(
    times_s: FloatArray, seen: Mapping[str, tuple[int, int]], strikes: Sequence[Moment], *, behind: bool
) -> list[float]:
    """When something seems to be struck, s: a ball that is seen for long and then gone, a strike heard."""
    first, last = seen.get("ball", (0, 0))
    leaves = not behind and last - first > LEAST_SEEN and last < len(times_s) - LEAST_SEEN
    return [float(times_s[last])] * leaves + [strike.time_s for strike in strikes]


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
