"""What the solver weighs: sightings and links of all points, laid in layers of one array each.

What is followed in the picture between the same two frames is one witness,
however often and whichever way it was followed: see :func:`one_witness`.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Sighting

FloatArray = NDArray[np.float64]

HUBER = 2.0
"""Residuals beyond this many sigma count linearly (Huber 1964; for a radial residual)."""

LEAST_CHANGE = 1e-5
"""Even at rest a wandering error changes by so much of its time a frame, or it could not be solved for."""


class Layer:
    """One source of sightings or links over all points: values (C, N, 2), weights (C, N)."""

    def __init__(self, shape: tuple[int, int], *, robust: bool) -> None:
        self.value = np.zeros((*shape, 2))
        self.weight = np.zeros(shape)
        self.offset = np.zeros(shape[0])
        self.wander = np.zeros(shape[0])
        self.grip = np.zeros(shape)
        """How much of the point's wandering error each sighting shows, (C, N); 0 of a source without."""

        self.keeps = np.full((shape[0], shape[1] - 1), np.exp(-LEAST_CHANGE))
        self.robust = robust

    def put(self, slot: int, value: FloatArray, sigma: FloatArray) -> None:
        known = np.isfinite(value).all(axis=1) & np.isfinite(sigma) & (sigma > 0)
        self.value[slot] = np.where(known[:, None], value, 0.0)
        self.weight[slot, known] = 1.0 / sigma[known] ** 2

    def weights(self, residual: FloatArray | None) -> FloatArray:
        """Weights after Huber's function of the radial residual, (C, N)."""
        if residual is None or not self.robust:
            return self.weight
        ratio = np.sqrt((residual**2).sum(axis=2) * self.weight)
        return self.weight * np.where(ratio > HUBER, HUBER / np.maximum(ratio, HUBER), 1.0)


def sighting_layers(per_point: Sequence[Sequence[Sighting]], times_s: FloatArray) -> list[Layer]:
    """What was sighted of each point, a layer for each source: marks first, then what is believed less where
    it lies far off.


    >>> seen = Sighting(np.ones((4, 2)), np.ones(4))
    >>> [layer.weight.shape for layer in sighting_layers([[seen], [seen, seen]], np.arange(4) / 60)]
    [(2, 4), (2, 4)]
    """
    by_hand = [[s for s in sights if s.by_hand] for sights in per_point]
    seen = [[s for s in sights if not s.by_hand] for sights in per_point]
    layers = []
    for group, robust in ((by_hand, False), (seen, True)):
        for depth in range(max((len(g) for g in group), default=0)):
            layer = Layer((len(group), len(times_s)), robust=robust)
            for slot, sights in enumerate(group):
                if depth < len(sights):
                    layer.put(slot, sights[depth].xy, sights[depth].sigma)
                    layer.offset[slot] = sights[depth].offset
                    layer.wander[slot] = sights[depth].wander
                    if sights[depth].wander:
                        layer.grip[slot] = sights[depth].doubts
                        layer.keeps[slot] = _keeps(sights[depth], times_s)
            layers.append(layer)
    return layers


def _keeps(sighting: Sighting, times_s: FloatArray) -> FloatArray:
    """What share of a wandering error is left from each frame to the next, (T - 1,)."""
    passed = np.diff(times_s if sighting.clock is None else sighting.clock)
    return np.exp(-np.maximum(passed / max(sighting.wander_s, 1e-3), LEAST_CHANGE))


def link_layers(per_point: Sequence[Sequence[Links]], length: int) -> list[Layer]:
    """One layer: what was followed of each point, counted once.

    >>> steps = Links(np.ones((3, 2)), np.ones(3))
    >>> [layer.weight.shape for layer in link_layers([[steps, steps], []], 3)], link_layers([[], []], 3)
    ([(2, 3)], [])
    """
    if not any(per_point):
        return []
    layer = Layer((len(per_point), length), robust=True)
    for slot, links in enumerate(per_point):
        if links:
            one = one_witness(links)
            layer.put(slot, one.step, one.sigma)
    return [layer]


def one_witness(links: Sequence[Links]) -> Links:
    """Several ways of following one point through the same pictures as the one witness they are.

    Their errors are taken to be the same error, larger or smaller: of steps
    f_k with sigma_k the mean is weighted by 1/sigma_k^2, and its error is the
    weighted mean of the sigma_k, not less (JCGM 100:2008, 5.2.2 with all
    correlations 1). Where they differ, their scatter adds to it.

    >>> one = Links(np.array([[3.0, 0.0]]), np.array([0.5]))
    >>> one_witness([one, one, one, one]).sigma
    array([0.5])
    """
    if len(links) == 1:
        return links[0]
    step = np.stack([one.step for one in links])
    sigma = np.stack([one.sigma for one in links])
    known = np.isfinite(step).all(axis=2) & np.isfinite(sigma) & (sigma > 0)
    weight = np.where(known, 1.0 / np.where(known, sigma, 1.0) ** 2, 0.0)
    total = weight.sum(axis=0)
    share = weight / np.where(total > 0, total, 1.0)
    moved = np.where(known[..., None], step, 0.0)
    mean = (share[..., None] * moved).sum(axis=0)
    scatter = (share * ((moved - mean) ** 2).sum(axis=2)).sum(axis=0) / 2
    error = np.sqrt((share * np.where(known, sigma, 0.0)).sum(axis=0) ** 2 + scatter)
    there = total > 0
    return Links(np.where(there[:, None], mean, np.nan), np.where(there, error, np.nan))
