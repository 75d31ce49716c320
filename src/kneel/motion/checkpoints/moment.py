"""A moment with its error, and how several witnesses of one moment are put together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

APART_SIGMAS = 3.0
"""Witnesses further apart than so many of their own errors do not speak of one moment."""


@dataclass(frozen=True)
class Moment:
    """A time in seconds with its standard error."""

    time_s: float
    sigma_s: float


def fused(witnesses: Sequence[Moment]) -> Moment | None:
    """The mean of witnesses that agree, by inverse variance; None of none.

    Where they do not agree, the one that fits the others worst is left out
    (of two, the less sure one), until the rest agree: a normalised residual of
    more than :data:`APART_SIGMAS` tells it (Birge 1932). What agrees badly
    widens the error by the Birge ratio.

    >>> fused([Moment(1.0, 0.01), Moment(1.02, 0.01), Moment(3.0, 0.02)]).time_s
    1.01
    """
    left = list(witnesses)
    while len(left) > 1:
        weight = np.array([w.sigma_s**-2 for w in left])
        times = np.array([w.time_s for w in left])
        others = [
            (weight.sum() - w, (weight * times).sum() - w * t) for w, t in zip(weight, times, strict=True)
        ]
        off = [
            abs(t - pull / rest) / np.sqrt(1 / w + 1 / rest)
            for (rest, pull), w, t in zip(others, weight, times, strict=True)
        ]
        worst = int(np.argmax(off))
        if off[worst] <= APART_SIGMAS:
            mean = float((weight * times).sum() / weight.sum())
            ratio = float((weight * (times - mean) ** 2).sum() / (len(left) - 1))
            return Moment(mean, float(np.sqrt(max(ratio, 1.0) / weight.sum())))
        if len(left) == 2:
            return min(left, key=lambda w: w.sigma_s)
        del left[worst]
    return left[0] if left else None
