"""One clock for two cameras of one swing: how much later the second one's clock reads the same moment.

The hands are as high in both pictures at one moment, but for perspective: a picture shows the height over the
camera larger by how much nearer the hands are, and how near they are the other picture shows. So at the right
offset o

    y_B + k_B x y_B - q_B x  =  s y_A + c - k_A z y_A + q_A z

with x toward the target by A's picture, z toward the ball line by B's, k = 1 / distance and q = height of the
camera / distance of each, s and c for scales that differ. That is linear but for o: it is solved by least
squares at many offsets with what is known of cameras beforehand, and the best offset is taken, with its error
by the curve of the sum of squares there (D. M. Bates and D. G. Watts, Nonlinear Regression Analysis, 1988,
variable projection). What is left over goes together over tenths of a second, so that there are fewer
observations than frames (effective number by the lag-one correlation).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.failure import Failed
from kneel.motion.stand import Stand
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

HANDS = "grip"
FARTHEST_S = 0.6
"""Cameras are started within so much of each other on the clock the first guess gives."""

STEP_S, FINE_S = 0.008, 0.0005
SCALES_APART = 0.08
DISTANCE_SHARE = 0.25
LEAST_FRAMES = 12
LEAST_RISE_CM = 40.0
"""Hands that move less up and down than this tell no time."""

FLOOR_CM = 0.6
"""No pair of hands is seen alike to better than this by two cameras (common practice, no source)."""

SEEN_S = 0.0015
"""Hands are followed a little late or early, by the blur of each camera (simulated clips)."""

MISFIT_CM = 9.0
"""What is left over, root mean square, by which two clips are of two swings."""


@dataclass(frozen=True)
class Clock:
    """``offset_s`` is to be added to the first camera's times to read the second one's clock, with its
    standard error; ``left_cm`` is how far apart both see the hands then, root mean square.
    """

    offset_s: float
    sigma_s: float
    left_cm: float

    def turned(self) -> Clock:
        """The same for the other way round: the first camera's clock by that of the second."""
        return replace(self, offset_s=-self.offset_s)

    def with_strikes(self, first_s: float, second_s: float, sigma_s: float) -> Clock:
        """Put together with the strike as both heard it, each to ``sigma_s``.

        >>> clock = Clock(0.100, 0.004, 1.0).with_strikes(1.0, 1.108, 0.006)
        >>> round(clock.offset_s, 4), round(clock.sigma_s, 4)
        (0.1015, 0.0036)
        """
        heard, spread = second_s - first_s, 2 * sigma_s**2
        weight = spread / (spread + self.sigma_s**2)
        offset = weight * self.offset_s + (1 - weight) * heard
        sigma = float(np.sqrt(spread * self.sigma_s**2 / (spread + self.sigma_s**2)))
        return Clock(offset, sigma, self.left_cm)


@dataclass(frozen=True)
class _Hands:
    """The hands in one picture, cm: ``along`` and ``up`` from the camera's height, by time."""

    times_s: FloatArray
    along: FloatArray
    up: FloatArray
    sigma: FloatArray
    stand: Stand
    behind: bool


def find_clock(across: Study, along: Study, *, slower: float = 1.0) -> Clock | Failed:
    """The clock of two cameras: ``across`` faces the golfer or the back, ``along`` looks down the line.

    ``slower`` is by how many times less time passed than the second clip's own times tell.

    >>> from kneel.motion.space.example import example_pair
    >>> round(find_clock(*example_pair()).offset_s, 2)
    0.1
    """
    first, second = _hands(across), _hands(along)
    for one in (first, second):
        if isinstance(one, Failed):
            return one
    assert isinstance(first, _Hands) and isinstance(second, _Hands)
    second = replace(second, times_s=second.times_s / slower)
    start = _guess(across, along, slower)
    if isinstance(start, Failed):
        return start
    span = _span(across, first)
    if min(len(first.times_s), len(second.times_s)) < LEAST_FRAMES:
        return Failed("One of the two is too short for a swing.", "short")
    coarse = np.arange(start - FARTHEST_S, start + FARTHEST_S + STEP_S / 2, STEP_S)
    sums = np.array([_solved(first, second, span, offset)[0] for offset in coarse])
    if not np.isfinite(sums).any():
        return Failed("The two clips hardly overlap in time.", "clock")
    best = float(coarse[int(np.nanargmin(np.where(np.isfinite(sums), sums, np.inf)))])
    fine = np.arange(best - STEP_S, best + STEP_S + FINE_S / 2, FINE_S)
    sums = np.array([_solved(first, second, span, offset)[0] for offset in fine])
    best = float(fine[int(np.argmin(sums))])
    return _told(first, second, span, best)


def _told(first: _Hands, second: _Hands, span: tuple[float, float], best: float) -> Clock | Failed:
    """The offset where the sum is least, its error by the curve there and by what is left over."""
    reach = 3 * FINE_S
    around = np.array([best - reach, best, best + reach])
    sums = [_solved(first, second, span, offset) for offset in around]
    if not all(np.isfinite(total) for total, _ in sums):
        return Failed("The two clips hardly overlap in time.", "clock")
    bend = (sums[0][0] - 2 * sums[1][0] + sums[2][0]) / reach**2
    slope = (sums[2][0] - sums[0][0]) / (2 * reach)
    left = sums[1][1]
    rms = float(np.sqrt(np.mean(left**2)))
    if rms > MISFIT_CM or bend <= 0:
        return Failed("The hands of the two clips do not go together: they show two swings.", "two swings")
    offset = best - float(np.clip(slope / bend, -reach, reach))
    variance = max(rms, FLOOR_CM) ** 2 * _fewer(left)
    return Clock(offset, float(np.hypot(np.sqrt(2 * variance / bend), SEEN_S)), rms)


def _fewer(left: FloatArray) -> float:
    """By how much fewer the observations are than frames: neighbours err alike."""
    centred = left - left.mean()
    alike = float((centred[1:] * centred[:-1]).sum() / max((centred**2).sum(), 1e-12))
    alike = min(max(alike, 0.0), 0.98)
    return (1 + alike) / (1 - alike)


def _hands(study: Study) -> _Hands | Failed:
    places = study.places
    if isinstance(places, Failed):
        return places
    if places.track(HANDS) is None:
        return Failed("The hands are not followed in one of the clips.", "hands")
    xy, per_cm = places.xy[HANDS], places.scale.cm_per_unit
    sigma = places.sigma[HANDS] * per_cm
    return _Hands(
        study.times_s, xy[:, 0] * per_cm, xy[:, 1] * per_cm, sigma, study.stand, study.setup.view is View.REAR
    )


def _guess(across: Study, along: Study, slower: float) -> float | Failed:
    """A first guess by a checkpoint of both: it need not be right to a tenth of a second."""
    for name in ("impact", "top", "half_down", "address"):
        if name in across.checkpoints and name in along.checkpoints:
            return along.checkpoints[name].time_s / slower - across.checkpoints[name].time_s
    return Failed("The two clips have no checkpoint in common; mark one in both.", "no checkpoint")


def _span(across: Study, hands: _Hands) -> tuple[float, float]:
    """From takeaway to follow, by the first camera's clock."""
    at = across.checkpoints
    begin = next((at[n].time_s for n in ("takeaway", "address") if n in at), float(hands.times_s[0]))
    end = next((at[n].time_s for n in ("follow", "through", "finish") if n in at), float(hands.times_s[-1]))
    return begin, end


def _solved(
    first: _Hands, second: _Hands, span: tuple[float, float], offset: float
) -> tuple[float, FloatArray]:
    """The sum of squares at an offset, cm², and what is left over of each frame; infinite without overlap."""
    # The clip of fewer frames is the one that is not interpolated.
    slow = np.median(np.diff(second.times_s)) >= np.median(np.diff(first.times_s))
    times = second.times_s - offset if slow else first.times_s
    inside = (times >= span[0]) & (times <= span[1])
    inside &= (times >= first.times_s[0]) & (times <= first.times_s[-1])
    inside &= (times + offset >= second.times_s[0]) & (times + offset <= second.times_s[-1])
    times = times[inside]
    if len(times) < LEAST_FRAMES:
        return float("inf"), np.empty(0)
    x, y_a, noise_a = (np.interp(times, first.times_s, v) for v in (first.along, first.up, first.sigma))
    z, y_b, noise_b = (
        np.interp(times + offset, second.times_s, v) for v in (second.along, second.up, second.sigma)
    )
    if np.ptp(y_a) < LEAST_RISE_CM:
        return float("inf"), np.empty(0)
    weight = 1 / np.hypot(np.hypot(noise_a, noise_b), FLOOR_CM)
    weight = weight / np.sqrt(np.mean(weight**2))
    means, spreads = _expected(first.stand, second.stand)
    # Toward a camera behind the golfer is away from the ball; toward one down the line, from the target.
    near = -z if first.behind else z
    columns = np.stack([y_a, np.ones_like(y_a), -near * y_a, near, -x * y_b, x], axis=1)
    design = np.concatenate([columns * weight[:, None], np.diag(1 / spreads) * FLOOR_CM])
    wanted = np.concatenate([y_b * weight, means / spreads * FLOOR_CM])
    found, *_ = np.linalg.lstsq(design, wanted, rcond=None)
    left = wanted - design @ found
    return float(left @ left), left[: len(times)]


def _expected(first: Stand, second: Stand) -> tuple[FloatArray, FloatArray]:
    """What is known beforehand of scale, shift, and of 1 / distance and height / distance of each, by cm."""
    means, spreads = [1.0, 0.0], [SCALES_APART, 1e4]
    for stand in (first, second):
        near, height = 1 / (100 * stand.distance_m), stand.height_m / stand.distance_m
        means += [near, 0.0]
        spreads += [DISTANCE_SHARE * near, max(stand.height_sigma_m / stand.distance_m, 0.02 * height)]
    return np.array(means), np.array(spreads)
