"""Signal detection: how well something is told from its absence (d′), and how readily it is named (c).

d′ = z(H) − z(F) and c = −(z(H) + z(F)) / 2, H and F the rates of hits and of false alarms with the log-linear
correction, (hits + ½) / (signals + 1): Hautus 1995, *Behavior Research Methods, Instruments, & Computers*
27:46 (from memory). The corrected rate is the mean of the Beta(hits + ½, misses + ½) that Jeffreys' prior
leaves; the interval is that of both rates so believed. Answers of one sitting go together, since an eye and
what it calls a fault differ from day to day: the interval is that of as many fewer answers.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.special import betaincinv, ndtri

LEAST = 25
"""Nothing is told of fewer signals, or of fewer swings without one."""

INSIDE = 0.95
STEPS = 200
"""So many equally likely values stand for what is believed of a rate."""

USUAL_SITTING, PRIOR_SITTINGS = 0.02, 4.0
"""How alike answers of one sitting usually are, the share of an answer's variance that is the sitting's,
believed like so many sittings (common practice, no source).
"""


@dataclass(frozen=True)
class Counts:
    """What was answered of one thing in one sitting: of ``signals`` so many ``hits``, of ``noises`` so many
    ``alarms``.
    """

    hits: int
    signals: int
    alarms: int
    noises: int

    def __post_init__(self) -> None:
        if not (0 <= self.hits <= self.signals and 0 <= self.alarms <= self.noises):
            raise ValueError("there are more hits than signals, or more false alarms than swings without one")

    def __add__(self, other: Counts) -> Counts:
        return Counts(
            self.hits + other.hits,
            self.signals + other.signals,
            self.alarms + other.alarms,
            self.noises + other.noises,
        )


NONE = Counts(0, 0, 0, 0)


@dataclass(frozen=True)
class Detection:
    """What the answers of some sittings come to.

    >>> one = Detection((Counts(20, 25, 10, 25),))
    >>> round(one.d_prime, 2), one.enough
    (1.04, True)
    """

    sittings: tuple[Counts, ...]

    @cached_property
    def total(self) -> Counts:
        return sum(self.sittings, NONE)

    @property
    def enough(self) -> bool:
        """Whether there are answers enough to tell it."""
        return min(self.total.signals, self.total.noises) >= LEAST

    @property
    def d_prime(self) -> float:
        hit, alarm = self._corrected
        return float(ndtri(hit) - ndtri(alarm))

    @property
    def criterion(self) -> float:
        """+ where it is said too seldom, − where too readily."""
        hit, alarm = self._corrected
        return float(-(ndtri(hit) + ndtri(alarm)) / 2)

    @property
    def _corrected(self) -> tuple[float, float]:
        t = self.total
        return corrected(t.hits, t.signals), corrected(t.alarms, t.noises)

    @cached_property
    def d_prime_between(self) -> tuple[float, float]:
        """The 95 % interval of d′."""
        hit, alarm = self._believed
        return _between(hit[:, None] - alarm[None, :])

    @cached_property
    def criterion_between(self) -> tuple[float, float]:
        """The 95 % interval of c."""
        hit, alarm = self._believed
        return _between(-(hit[:, None] + alarm[None, :]) / 2)

    @cached_property
    def _believed(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Equally likely values of z(H) and of z(F)."""
        t = self.total
        hits = [(one.hits, one.signals) for one in self.sittings]
        alarms = [(one.alarms, one.noises) for one in self.sittings]
        return _z_of(t.hits, t.signals, worth(hits)), _z_of(t.alarms, t.noises, worth(alarms))


def corrected(count: int, of: int) -> float:
    """A rate with the log-linear correction: never 0 and never 1.

    >>> round(corrected(25, 25), 3)
    0.981
    """
    return (count + 0.5) / (of + 1.0)


def worth(sittings: Sequence[tuple[int, int]]) -> float:
    """As how many answers each one counts, at most 1: a variance over that of chance, believed by sittings.

    Kish's design effect, 1 + (m − 1) ρ, with the ρ that the sittings show (moments; the usual one counts like
    ``PRIOR_SITTINGS``).

    >>> worth([(10, 20), (10, 20), (10, 20)]) > 0.8 > worth([(2, 20), (18, 20), (3, 20), (17, 20)])
    True
    """
    asked = np.array([of for _, of in sittings if of], dtype=np.float64)
    said = np.array([count for count, of in sittings if of], dtype=np.float64)
    total = asked.sum()
    if not len(asked) or total <= 1:
        return 1.0
    mean = (said.sum() + 0.5) / (total + 1)
    size = float((asked**2).sum() / total)
    if size <= 1:
        return 1.0
    shown = 0.0
    if len(asked) > 1:
        scatter = float((asked * (said / asked - mean) ** 2).sum() / (len(asked) - 1) / (mean * (1 - mean)))
        typical = (total - (asked**2).sum() / total) / (len(asked) - 1)
        shown = (scatter - 1) / max(typical - 1, 1e-9) if typical > 1 else 0.0
    weight = len(asked) - 1
    between = (weight * shown + PRIOR_SITTINGS * USUAL_SITTING) / (weight + PRIOR_SITTINGS)
    return 1.0 / (1.0 + (size - 1) * float(np.clip(between, 0.0, 0.9)))


def _z_of(count: int, of: int, each: float) -> NDArray[np.float64]:
    levels = (np.arange(STEPS) + 0.5) / STEPS
    rate = betaincinv(each * count + 0.5, each * (of - count) + 0.5, levels)
    return np.asarray(ndtri(np.clip(rate, 1e-12, 1 - 1e-12)), dtype=np.float64)


def _between(values: NDArray[np.float64]) -> tuple[float, float]:
    low, high = np.quantile(values, [(1 - INSIDE) / 2, (1 + INSIDE) / 2])
    return float(low), float(high)
