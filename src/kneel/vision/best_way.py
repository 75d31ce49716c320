"""The cheapest way through a row of choices (Viterbi 1967)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


def ways_through(price: FloatArray, moves: Callable[[int], FloatArray]) -> FloatArray:
    """What the cheapest way costs that takes each of K choices at each of N steps, (N, K), as for
    :func:`cheapest_way`: how far a choice stands out is how much dearer the others are.

    >>> ways_through(np.array([[0.0, 1], [1, 0], [0, 1]]), lambda n: 5 * (1 - np.eye(2))).tolist()
    [[1.0, 2.0], [1.0, 2.0], [1.0, 2.0]]
    """
    until, since = price.copy(), np.zeros(price.shape)
    for n in range(1, len(price)):
        until[n] += (until[n - 1][:, None] + moves(n)).min(axis=0)
    for n in range(len(price) - 2, -1, -1):
        since[n] = (since[n + 1] + price[n + 1] + moves(n + 1)).min(axis=1)
    return until + since


def cheapest_way(price: FloatArray, moves: Callable[[int], FloatArray]) -> NDArray[np.int64]:
    """Which of K choices to take at each of N steps so that the whole costs least, (N,).

    ``price`` (N, K) is what each choice costs, ``moves(n)`` (K, K) what it costs
    to go from each choice at step n - 1 to each at step n.

    >>> cheapest_way(np.array([[0.0, 1], [1, 0], [0, 1]]), lambda n: 5 * (1 - np.eye(2))).tolist()
    [0, 0, 0]
    """
    total, came = price[0].copy(), np.zeros(price.shape, dtype=np.int64)
    for n in range(1, len(price)):
        sums = total[:, None] + moves(n)
        came[n] = sums.argmin(axis=0)
        total = sums.min(axis=0) + price[n]
    chosen = np.zeros(len(price), dtype=np.int64)
    chosen[-1] = int(total.argmin())
    for n in range(len(price) - 1, 0, -1):
        chosen[n - 1] = came[n, chosen[n]]
    return chosen
