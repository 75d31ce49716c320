"""Moments of an instructor's own by a rule: so long before another, hands at a height, a limb at an angle."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, Hand, anatomical
from kneel.motion.checkpoints.find import Checkpoint
from kneel.motion.failure import Failed
from kneel.motion.signal import first_crossing
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

HEIGHTS = {"knee": "knee", "hip": "hip", "belt": "hip", "shoulder": "shoulder", "head": "head"}
LIMBS = {
    "lead arm": ("lead_shoulder", "grip"),
    "trail arm": ("trail_shoulder", "grip"),
    "shaft": ("grip", "clubhead"),
    "lead shin": ("lead_ankle", "lead_knee"),
    "trail shin": ("trail_ankle", "trail_knee"),
    "lead thigh": ("lead_knee", "lead_hip"),
    "trail thigh": ("trail_knee", "trail_hip"),
}
"""Each limb from its near end to its far one: its angle is how far the far end rises over the level."""

PARTS = {"back": ("address", "top"), "down": ("top", "impact"), "through": ("impact", "finish")}
"""Where a moment is looked for."""

HELP = (
    "a rule is “60 ms before impact”, “hands at hip height, down”, or “lead arm at 45°, back”; "
    "the part is back, down or through"
)

_TIME = re.compile(r"(\d{1,4}(?:\.\d+)?)\s*ms\s+(before|after)\s+(?:the\s+)?([a-z_ ]+)")
_HEIGHT = re.compile(r"hands?\s+at\s+(\w+)(?:\s+height)?\s*,?\s*(back|down|through)")
_ANGLE = re.compile(r"([a-z ]+?)\s+at\s+(-?\d{1,3}(?:\.\d+)?)\s*(?:°|deg)?\s*,?\s*(back|down|through)")


@dataclass(frozen=True)
class Rule:
    """A rule as read: ``find`` gives a moment (s) and its error in a swing, or why there is none."""

    words: str
    find: Callable[[Known], tuple[float, float] | Failed]


@dataclass(frozen=True)
class Known:
    """What a rule looks at: times (T,) s, tracks by anatomical name, the golfer's hand, checkpoints."""

    times_s: FloatArray
    tracks: Mapping[str, Track]
    hand: Hand
    points: Mapping[str, Checkpoint]

    def y(self, name: str) -> Track | None:
        return self.tracks.get(anatomical(name, self.hand))


def read_rule(text: str) -> Rule | Failed:
    """A rule from its words, or what a rule is like.

    >>> read_rule("60 ms before impact").words, bool(read_rule("soon"))
    ('60 ms before impact', False)
    """
    plain = " ".join(text.lower().split())
    for pattern, make in ((_TIME, _of_time), (_HEIGHT, _of_height), (_ANGLE, _of_angle)):
        found = pattern.fullmatch(plain)
        if found is not None:
            find = make(found)
            if find is not None:
                return Rule(plain, find)
    return Failed(f"“{plain[:60]}” is no rule: {HELP}.", "rule")


def by_rule(rule: Rule, known: Known) -> Checkpoint | Failed:
    """The moment of a rule in a swing.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> known = Known(study.times_s, study.tracks, study.setup.hand, study.checkpoints)
    >>> round(by_rule(read_rule("100 ms before impact"), known).time_s, 3)
    0.95
    """
    told = rule.find(known)
    if isinstance(told, Failed):
        return told
    time, sigma = told
    if not known.times_s[0] <= time <= known.times_s[-1]:
        return Failed(f"“{rule.words}” lies outside the clip.", "rule")
    frame = float(np.interp(time, known.times_s, np.arange(len(known.times_s))))
    return Checkpoint(frame, time, sigma, "found")


def _of_time(found: re.Match[str]) -> Callable[[Known], tuple[float, float] | Failed] | None:
    far, way, other = float(found[1]) / 1000, found[2], found[3].strip().replace(" ", "_")
    if other not in CHECKPOINTS:
        return None

    def find(known: Known) -> tuple[float, float] | Failed:
        point = known.points.get(other)
        if point is None:
            return Failed(f"There is no {other.replace('_', ' ')} to count from.", "rule")
        return point.time_s + (far if way == "after" else -far), point.sigma_s

    return find


def _of_height(found: re.Match[str]) -> Callable[[Known], tuple[float, float] | Failed] | None:
    joint, part = HEIGHTS.get(found[1]), found[2]
    if joint is None:
        return None

    def find(known: Known) -> tuple[float, float] | Failed:
        level = _address_height(known, joint)
        hands = _hands(known)
        if level is None or hands is None:
            return Failed(f"“{found[0]}” needs the hands and the {joint} at address.", "rule")
        y, sigma = hands
        return _crossing(known, level - y, sigma, part, found[0])

    return find


def _of_angle(found: re.Match[str]) -> Callable[[Known], tuple[float, float] | Failed] | None:
    ends, angle, part = LIMBS.get(found[1].strip()), float(found[2]), found[3]
    if ends is None or not -90 <= angle <= 90:
        return None

    def find(known: Known) -> tuple[float, float] | Failed:
        near, far = (known.y(name) for name in ends)
        if near is None or far is None:
            return Failed(f"“{found[0]}” needs its two ends, which nobody has marked.", "rule")
        way = far.xy - near.xy
        length = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
        rises = np.degrees(np.arcsin(np.clip(-way[:, 1] / length, -1, 1)))
        sigma = np.degrees(np.hypot(near.sigma, far.sigma) / length)
        return _crossing(known, rises - angle, sigma, part, found[0])

    return find


def _address_height(known: Known, joint: str) -> float | None:
    """The row of a joint, or of a pair's middle, at address."""
    point = known.points.get("address")
    names = [joint] if joint == "head" else [f"lead_{joint}", f"trail_{joint}"]
    tracks = [track for name in names if (track := known.y(name)) is not None]
    if point is None or not tracks:
        return None
    return float(np.mean([track.xy[point.shown, 1] for track in tracks]))


def _hands(known: Known) -> tuple[FloatArray, FloatArray] | None:
    grip = known.tracks.get("grip")
    tracks = [grip] if grip is not None else [t for n in ("lead_wrist", "trail_wrist") if (t := known.y(n))]
    if not tracks:
        return None
    y = np.mean([t.xy[:, 1] for t in tracks], axis=0)
    return np.asarray(y), np.asarray(np.mean([t.sigma for t in tracks], axis=0))


def _crossing(
    known: Known, values: FloatArray, sigma: FloatArray, part: str, words: str
) -> tuple[float, float] | Failed:
    """When values cross zero in a part of the swing, either way; its error is theirs over their speed."""
    ends = [known.points.get(name) for name in PARTS[part]]
    if ends[0] is None or ends[1] is None:
        return Failed(f"“{words}” needs {' and '.join(PARTS[part])}.", "rule")
    inside = (known.times_s >= ends[0].time_s) & (known.times_s <= ends[1].time_s)
    times, told = known.times_s[inside], values[inside]
    found = [first_crossing(times, told, rising=rising) for rising in (True, False)] if len(times) > 2 else []
    time = min((one for one in found if one is not None), default=None)
    if time is None:
        return Failed(f"“{words}” does not happen in this swing.", "rule")
    speed = abs(float(np.interp(time, known.times_s, np.gradient(values, known.times_s))))
    step = float(np.median(np.diff(known.times_s)))
    return time, float(np.hypot(np.interp(time, known.times_s, sigma) / max(speed, 1e-6), step / np.sqrt(12)))
