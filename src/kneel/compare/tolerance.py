"""What share of a population an interval holds, and how surely: windows from the numbers of good swings.

An interval from a few numbers holds nine in ten of all such numbers only with luck; one that is wide enough
holds them in 95 of 100 such samples. For numbers told without error this is the exact two-sided factor of a
normal sample (Krishnamoorthy and Mathew 2009, Statistical Tolerance Regions, section 2.3). Here every
golfer's number has an error of its own, which says nothing of how golfers differ: it is taken out by drawing
what the sample leaves possible (a fiducial distribution) from two exact pivots, the weighted squares about
the mean, χ² with n - 1 degrees of freedom whatever the errors are, and the mean itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import gammaincinv, ndtr, ndtri

FloatArray = NDArray[np.float64]

CONTENT, CONFIDENCE = 0.9, 0.95
"""The share of good swings that a window holds, and in what share of samples it does."""

DRAWS = 2048
"""So many draws of what a sample leaves possible of spreads; of the mean it is summed exactly."""

TINY = 1e-12
"""A deviation that is none."""

GOLDEN = 0.6180339887498949
STEPS = 26
"""Halvings of where a root is looked for: to some hundred millionths of it."""

FAR_ASIDE, FINELY, NEWTON_STEPS = 7.0, 7001, 8
"""Means that lie farther aside have nothing of a population on the other side; between places a thousandth of
a deviation apart what is wanted is straight to some ten millionths.
"""


@dataclass(frozen=True)
class Group:
    """What one golfer's good swings tell: their ``mean``, its error of measuring ``sigma`` (what the swings
    differ by is no part of it), how many there are, and the sum of squares ``scatter`` about the mean.
    """

    mean: float
    sigma: float
    count: int = 1
    scatter: float = 0.0


@dataclass(frozen=True)
class Tolerance:
    """An interval that holds a share of a population; ``edge`` is how far either end is unsure: from
    where it would be as likely as not to hold that share, so many standard deviations of a normal error on.
    """

    lo: float
    hi: float
    edge: float


def factor(count: int, content: float = CONTENT, confidence: float = CONFIDENCE) -> float:
    """The factor by which the standard deviation of ``count`` numbers without error is taken to either side.

    Raises ``ValueError`` below two numbers.

    >>> round(factor(10), 2)
    2.86
    """
    # By scale and place the interval of a sample of any spread is that of one with a spread of one.
    values = ndtri((np.arange(count) + 0.5) / count)
    values = (values - values.mean()) / values.std(ddof=1) if count > 1 else values
    found = interval([Group(float(v), 0.0) for v in values], content, confidence)
    return (found.hi - found.lo) / 2


def interval(
    groups: Sequence[Group],
    content: float = CONTENT,
    confidence: float = CONFIDENCE,
    *,
    own: float | None = None,
) -> Tolerance:
    """The interval that holds ``content`` of the true numbers of single good swings of golfers like these,
    each golfer counting as one, in ``confidence`` of such samples.

    ``own`` is the error of measuring a single swing that the scatter holds besides, in the unit of the
    values; it goes out of what swings of one golfer differ by. Raises ``ValueError`` with fewer than two
    golfers.

    >>> found = interval([Group(mean, 0.5) for mean in (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0)])
    >>> found.lo < 1.0 and found.hi > 8.0
    True
    """
    if len(groups) < 2:
        raise ValueError("an interval over golfers needs two of them")
    mean = np.array([one.mean for one in groups], float)
    count = np.array([one.count for one in groups], float)
    freedom = count.sum() - len(groups)
    squares: FloatArray = np.asarray((np.arange(DRAWS) + 0.5) / DRAWS, np.float64)
    within: FloatArray = np.asarray((0.5 + GOLDEN * np.arange(DRAWS)) % 1.0, np.float64)
    # Swings of one golfer: what they differ by is drawn where any golfer has two.
    total = sum(one.scatter for one in groups)
    differ = total / _chi_square(within, freedom) if freedom > 0 else np.zeros(DRAWS)
    error = np.array([one.sigma for one in groups])[None, :] ** 2 + differ[:, None] / count[None, :]
    # It is drawn apart from the means: the golfers' own part may come out below nothing, as long as what the
    # means differ by besides errors does not.
    least = -differ / count.max()
    between = _between(mean, error, _chi_square(squares, len(groups) - 1), least)
    weight = 1.0 / np.maximum(between[:, None] + error, TINY)
    heart = (weight * mean).sum(1) / weight.sum(1)
    unsure = 1.0 / np.sqrt(weight.sum(1))
    spread = np.sqrt(np.maximum(between + differ - (own or 0.0) ** 2, 0.0))
    centre = float(np.median(heart))
    wide, half = (_reach(heart - centre, unsure, spread, content, sure) for sure in (confidence, 0.5))
    return Tolerance(centre - wide, centre + wide, max(wide - half, 0.0) / float(ndtri(confidence)))


def _chi_square(share: FloatArray, freedom: float) -> FloatArray:
    """The χ² below which a share of that distribution lies."""
    return np.asarray(2.0 * gammaincinv(freedom / 2.0, share))


def _between(mean: FloatArray, error: FloatArray, asked: FloatArray, least: FloatArray) -> FloatArray:
    """The variance between golfers (D,) at which the weighted squares are as many as ``asked``; ``least``
    where the errors alone explain more than that.
    """

    def squares(variance: FloatArray) -> FloatArray:
        weight = 1.0 / np.maximum(variance[:, None] + error, TINY)
        heart = (weight * mean).sum(1) / weight.sum(1)
        return np.asarray((weight * (mean - heart[:, None]) ** 2).sum(1))

    low = least
    high = np.sum((mean - mean.mean()) ** 2) / asked
    for _ in range(STEPS):
        half = (low + high) / 2
        more = squares(half) > asked
        low, high = np.where(more, half, low), np.where(more, high, half)
    return np.where(squares(least) <= asked, least, (low + high) / 2)


@cache
def _farthest(content: float) -> tuple[FloatArray, FloatArray]:
    """How far to either side an interval must reach (M,), rising, to hold ``content`` of a normal population
    whose mean lies so far from its middle (M,), both in deviations; farther out both grow alike.
    """
    aside = np.linspace(0.0, FAR_ASIDE, FINELY)
    wide: FloatArray = aside + ndtri(content)
    for _ in range(NEWTON_STEPS):
        # What is held is concave in how far it reaches: from below Newton's steps never pass the root.
        held = ndtr(wide - aside) - ndtr(-wide - aside)
        grows = (np.exp(-((wide - aside) ** 2) / 2) + np.exp(-((wide + aside) ** 2) / 2)) / np.sqrt(2 * np.pi)
        wide = wide + (content - held) / grows
    return wide, aside


def _reach(
    away: FloatArray, unsure: FloatArray, spread: FloatArray, content: float, confidence: float
) -> float:
    """How far an interval about a centre must reach to hold ``content`` of a normal population with that
    confidence: its mean lies ``away`` from the centre, give or take ``unsure``, its deviation is ``spread``.
    """
    safe = np.maximum(spread, TINY)
    wide, aside = _farthest(content)

    def sure(reach: float) -> float:
        # The farthest that the mean may lie from the centre for the interval to hold enough.
        asked = reach / safe
        beyond = np.maximum(asked - wide[-1], 0.0)
        most = safe * (np.interp(asked, wide, aside) + beyond)
        chance = ndtr((most - away) / unsure) - ndtr((-most - away) / unsure)
        return float(np.mean(np.where(asked >= wide[0], chance, 0.0)))

    low, high = 0.0, float(np.max(np.abs(away) + 6 * unsure + 6 * safe)) + TINY
    for _ in range(STEPS):
        half = (low + high) / 2
        low, high = (half, high) if sure(half) < confidence else (low, half)
    return (low + high) / 2
