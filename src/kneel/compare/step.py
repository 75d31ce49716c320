"""Two swings in step: from the time of one to the time of the other, through the checkpoints of both.

At each checkpoint the other's time is known to the errors of both. Between neighbours the pace (seconds of
the other per second of this one) changes little, at the top and at the ball it may change more. The most
probable times under both are those of least squares (a random walk of the pace, weights by inverse variance
after GUM); a monotone cubic goes through them (F. N. Fritsch and R. E. Carlson, Monotone piecewise cubic
interpolation, SIAM J. Numer. Anal. 17, 1980). Before the first and after the last both run in real time.

One that waits at the top, or waits longer there, has two moments more: when the hands come to rest, and when
they leave. The other then stands still, or nearly, while it waits.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from kneel.model import CHECKPOINTS, UsageError
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

PACE_VARIES = 0.06
"""By so much of itself the pace changes from stretch to stretch of a swing (common practice, no source)."""

RESTS, LEAVES = "comes to rest", "leaves"
"""Two moments about the top, where one of two swings waits there."""

NAMES = tuple(name for one in CHECKPOINTS for name in ((RESTS, one, LEAVES) if one == "top" else (one,)))

TURNS = {"top": 8.0, "impact": 2.0, RESTS: 120.0, LEAVES: 120.0}
"""Where it changes so many times as much: another ratio of back and down; the ball; a wait at the top."""

WAITING = {RESTS, "top"}
"""From these on to the next moment one may stand while the other goes."""

REST_M = 0.03
"""Hands that stay within this of where they are at the top rest there."""

WAIT_S = 0.12
"""A rest that is longer than the other's by this is a wait."""

REST_SIGMA_S = 0.012
MOST_WAIT_PACE = 200.0

LEAST_SIGMA_S = 5e-4
MOST_PACE = 10.0
"""A checkpoint that would make the pace more than this, or its inverse, is left to its neighbours."""


@dataclass(frozen=True)
class Beat:
    """A checkpoint of both: its time in each (s), and how far the two are out of step by its errors (s)."""

    name: str
    a_s: float
    b_s: float
    sigma_s: float


@dataclass(frozen=True)
class InStep:
    """A swing's time as another's. ``beats`` are the checkpoints of both, ``b_s`` the other's times that are
    believed there (K,), and ``sigma_s`` their standard errors (K,).
    """

    beats: tuple[Beat, ...]
    b_s: FloatArray
    sigma_s: FloatArray

    @staticmethod
    def of(a: Mapping[str, Checkpoint], b: Mapping[str, Checkpoint]) -> InStep:
        """Two swings by their checkpoints. Raises :class:`UsageError` where they have none in common.

        >>> def at(*times):
        ...     names = ("address", "top", "impact", "finish")
        ...     return {n: Checkpoint(0.0, t, 0.002, "found") for n, t in zip(names, times)}
        >>> step = InStep.of(at(0.0, 0.8, 1.0, 1.8), at(1.0, 2.2, 2.5, 3.7))
        >>> step.to_b(np.array([-0.5, 0.8, 1.8])).round(2).tolist()
        [0.5, 2.2, 3.7]
        """
        beats = _beats(a, b)
        if not beats:
            raise UsageError("The two have no checkpoint in common; mark one in both.")
        return InStep(beats, *_believed(beats))

    @staticmethod
    def by_clock(offset_s: float, sigma_s: float) -> InStep:
        """Two clips of one swing, of which the second's clock reads so much more.

        >>> InStep.by_clock(-0.15, 0.001).to_a(np.array([0.0, 1.0])).round(2).tolist()
        [0.15, 1.15]
        """
        return InStep((Beat("clock", 0.0, offset_s, sigma_s),), np.array([offset_s]), np.array([sigma_s]))

    @property
    def checkpoints(self) -> tuple[Beat, ...]:
        """Those of the beats that are checkpoints."""
        return tuple(beat for beat in self.beats if beat.name in CHECKPOINTS)

    @cached_property
    def a_s(self) -> FloatArray:
        return np.array([beat.a_s for beat in self.beats])

    @property
    def typical_s(self) -> float:
        """How far out of step they are believed to be on the whole: the root mean square at the beats."""
        return float(np.sqrt(np.mean(self.sigma_s**2)))

    def to_b(self, times_s: FloatArray) -> FloatArray:
        """The other's times at these of the first, (T,) s."""
        return self._warped(times_s)[0]

    def to_a(self, times_s: FloatArray) -> FloatArray:
        """The first's times at these of the other: the same path, walked back, (T,) s."""
        fine = np.unique(np.concatenate([np.linspace(a, b, 65) for a, b in pairwise(self.a_s)] or [self.a_s]))
        there = self.to_b(fine)
        inside = np.interp(times_s, there, fine)
        before, after = np.minimum(times_s - there[0], 0.0), np.maximum(times_s - there[-1], 0.0)
        return inside + before + after

    def pace(self, times_s: FloatArray) -> FloatArray:
        """Seconds of the other that pass in one of the first, (T,); 1 outside the swing."""
        return self._warped(times_s)[1]

    @cached_property
    def _slopes(self) -> FloatArray:
        return monotone_slopes(self.a_s, self.b_s)

    def _warped(self, times_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """The other's times, and the pace there: a cubic of Hermite between the beats."""
        a, b, m = self.a_s, self.b_s, self._slopes
        inside = np.clip(times_s, a[0], a[-1])
        if len(a) < 2:
            return b[0] + (times_s - a[0]), np.ones_like(inside)
        k = np.clip(np.searchsorted(a, inside, side="right") - 1, 0, len(a) - 2)
        gap, rise = np.diff(a)[k], np.diff(b)[k]
        u = (inside - a[k]) / gap
        first, last = m[k] * gap - rise, rise - m[k + 1] * gap
        bent = (1 - u) * first + u * last
        there = b[k] + u * rise + u * (1 - u) * bent
        pace = (rise + (1 - 2 * u) * bent + u * (1 - u) * (last - first)) / gap
        return there + (times_s - inside), np.where(times_s == inside, pace, 1.0)


def in_step(one: Study, other: Study) -> InStep:
    """Two swings in step by their checkpoints, and by how long each waits at the top.

    Raises :class:`UsageError` where they have no checkpoint in common.

    >>> from kneel.motion.example import example
    >>> in_step(example(), example()).to_b(np.array([0.5])).round(3).tolist()
    [0.5]
    """
    return by_rests((one.checkpoints, other.checkpoints), (rest_at_top(one), rest_at_top(other)))


def by_rests(
    moments: tuple[Mapping[str, Checkpoint], Mapping[str, Checkpoint]],
    rests: tuple[tuple[float, float] | None, tuple[float, float] | None],
) -> InStep:
    """Two swings in step by their checkpoints and by when each rests at the top, s; None where that is not
    known. Raises :class:`UsageError` where they have no checkpoint in common.

    >>> from kneel.motion.example import example
    >>> at = example().checkpoints
    >>> by_rests((at, at), (None, None)).to_b(np.array([0.5])).round(3).tolist()
    [0.5]
    """
    (first, second), (a, b) = rests, map(dict, moments)
    if first is not None and second is not None and abs(np.diff(second)[0] - np.diff(first)[0]) > WAIT_S:
        for found, (begin, end) in ((a, first), (b, second)):
            top = found["top"]
            found[RESTS], found[LEAVES] = (
                replace(top, time_s=time_s, sigma_s=REST_SIGMA_S) for time_s in (begin, end)
            )
            found["top"] = replace(top, time_s=(begin + end) / 2)
    return InStep.of(a, b)


def rest_at_top(study: Study) -> tuple[float, float] | None:
    """When the hands come to rest at the top, and when they leave, s; None where they are not followed.

    >>> from kneel.motion.example import example
    >>> [round(time, 2) for time in rest_at_top(example())]
    [0.8, 0.8]
    """
    top, hands = study.checkpoints.get("top"), study.tracks.get("grip")
    if top is None or hands is None or study.px_per_m <= 0:
        return None
    away = np.linalg.norm(hands.xy - hands.xy[top.shown], axis=1) > REST_M * study.px_per_m
    before, after = np.flatnonzero(away[: top.shown]), np.flatnonzero(away[top.shown :])
    if not len(before) or not len(after):
        return None
    return float(study.times_s[before[-1] + 1]), float(study.times_s[top.shown + after[0] - 1])


def monotone_slopes(x: FloatArray, y: FloatArray) -> FloatArray:
    """Slopes at rising knots (K,) with which a cubic of Hermite through them never turns back.

    Inside the weighted harmonic mean of both neighbours, at the ends three-point formulas held to their
    neighbour (F. N. Fritsch and J. Butland, SIAM J. Sci. Stat. Comput. 5, 1984).

    >>> monotone_slopes(np.array([0.0, 1.0, 2.0]), np.array([0.0, 2.0, 4.0])).tolist()
    [2.0, 2.0, 2.0]
    """
    gap = np.diff(x)
    steep = np.diff(y) / gap if len(x) > 1 else np.ones(1)
    if len(x) < 3:
        return np.full(len(x), steep[0])
    left, right = 2 * gap[1:] + gap[:-1], gap[1:] + 2 * gap[:-1]
    inside = (left + right) / (left / steep[:-1] + right / steep[1:])
    ends = [_end(*gap[:2], *steep[:2]), _end(*gap[:-3:-1], *steep[:-3:-1])]
    return np.concatenate([ends[:1], inside, ends[1:]])


def _end(near: float, far: float, steep: float, beyond: float) -> float:
    slope = ((2 * near + far) * steep - near * beyond) / (near + far)
    return float(np.clip(slope, 0.0, 3 * steep))


def _beats(a: Mapping[str, Checkpoint], b: Mapping[str, Checkpoint]) -> tuple[Beat, ...]:
    """The checkpoints of both, in order; one that stands against the order of its neighbours is left out."""
    shared = [name for name in NAMES if name in a and name in b]
    found: list[Beat] = []
    for name in shared:
        one, other = a[name], b[name]
        beat = Beat(name, one.time_s, other.time_s, 0.0)
        if found and (beat.a_s <= found[-1].a_s or beat.b_s <= found[-1].b_s):
            continue
        waits = bool(found) and found[-1].name in WAITING and {RESTS, LEAVES} <= {*shared}
        most = MOST_WAIT_PACE if waits else MOST_PACE
        if found and not 1 / most < (beat.b_s - found[-1].b_s) / (beat.a_s - found[-1].a_s) < most:
            continue
        found.append(beat)
    whole = found and found[-1].a_s > found[0].a_s
    pace = (found[-1].b_s - found[0].b_s) / (found[-1].a_s - found[0].a_s) if whole else 1.0
    return tuple(
        Beat(
            beat.name,
            beat.a_s,
            beat.b_s,
            float(max(np.hypot(pace * a[beat.name].sigma_s, b[beat.name].sigma_s), LEAST_SIGMA_S)),
        )
        for beat in found
    )


def _believed(beats: tuple[Beat, ...]) -> tuple[FloatArray, FloatArray]:
    """The other's most probable times at the beats, and their standard errors."""
    count = len(beats)
    a, b = np.array([one.a_s for one in beats]), np.array([one.b_s for one in beats])
    sigma = np.array([one.sigma_s for one in beats])
    rows, wanted = [np.eye(count) / sigma[:, None]], [b / sigma]
    if count > 2:
        gaps = np.diff(a)
        pace = np.diff(np.eye(count), axis=0) / gaps[:, None]
        usual = (b[-1] - b[0]) / (a[-1] - a[0])
        loose = np.array([TURNS.get(one.name, 1.0) for one in beats[1:-1]])
        rows.append(np.diff(pace, axis=0) / (PACE_VARIES * usual * loose)[:, None])
        wanted.append(np.zeros(count - 2))
    design, values = np.concatenate(rows), np.concatenate(wanted)
    spread = np.linalg.inv(design.T @ design)
    found = spread @ (design.T @ values)
    if (np.diff(found) <= 0).any():
        found = b
    return found, np.sqrt(np.diag(spread))
