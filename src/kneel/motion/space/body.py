"""A body in space: where its joints are at some moments, with the doubt of each; and what a camera showed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kneel.model import View

FloatArray = NDArray[np.float64]

PAIRED = ("hip", "knee", "ankle", "shoulder")
POINTS = tuple(f"{side}_{joint}" for joint in PAIRED for side in ("lead", "trail")) + ("head", "grip")

ADDRESS = "address"


@dataclass(frozen=True)
class Seen:
    """What one camera shows of the body: places (P, K, 2) cm with the covariance of each over its moments
    (P, K, K), NaN where a point is not seen; ``pace`` (P, K, 2) cm/s; ``scale_share`` the scale's error.
    ``apart`` are pairs of points that are seen too near each other or too far by so much (K,) cm at each
    moment, one as much as the other, so that their middle is not.
    """

    view: View
    places: FloatArray
    spread: FloatArray
    pace: FloatArray
    scale_share: float
    distance_cm: float
    height_cm: float
    height_sigma_cm: float
    roll_sigma_deg: float
    apart: tuple[tuple[int, int, FloatArray], ...] = ()

    def covariance(self) -> FloatArray:
        """Of all points at all moments, (P · K, P · K) cm²."""
        count, many = self.places.shape[:2]
        whole = np.zeros((count, many, count, many))
        for p, spread in enumerate(self.spread):
            whole[p, :, p] = spread
        for lead, trail, far in self.apart:
            both = np.diag(far**2) / 2
            for p, q, sign in ((lead, lead, 1), (trail, trail, 1), (lead, trail, -1), (trail, lead, -1)):
                whole[p, :, q] += sign * both
        return whole.reshape(count * many, count * many)


@dataclass(frozen=True)
class Body:
    """Joints in space: ``xyz`` (K, P, 3) cm at ``moments``, their ``covariance`` over all of it, flat in that
    order, and how fast they go, ``pace`` (K, P, 3) cm/s. ``misfit`` is the mean square of all residuals.
    """

    moments: tuple[str, ...]
    points: tuple[str, ...]
    xyz: FloatArray
    covariance: FloatArray
    pace: FloatArray
    misfit: float
    times_s: FloatArray = field(default_factory=lambda: np.empty(0))
    """When the moments are, by the clock of the camera across the line (K,)."""

    values: FloatArray = field(default_factory=lambda: np.empty(0), compare=False)
    """All that was solved for, cameras and bones too."""

    marked: Callable[[int, str, Sequence[int], float], FloatArray] | None = field(default=None, compare=False)
    """The covariance once a point is marked by hand in one picture, 0 across the line or 1 along it, at some
    moments, to so many cm."""

    def placed(self, time_s: float) -> dict[str, FloatArray]:
        """Every joint at a time, between the moments in a straight line, (3,) cm by name."""
        at = float(np.interp(time_s, self.times_s, np.arange(len(self.times_s))))
        low = max(min(int(at), len(self.times_s) - 2), 0)
        high = min(low + 1, len(self.times_s) - 1)
        here = self.xyz[low] + (at - low) * (self.xyz[high] - self.xyz[low])
        return dict(zip(self.points, here, strict=True))

    def doubt(self, point: str, time_s: float) -> FloatArray:
        """The covariance of a joint at the moment nearest to a time, (3, 3) cm²."""
        k = int(np.abs(self.times_s - time_s).argmin())
        first = 3 * (k * len(self.points) + self.points.index(point))
        return np.asarray(self.covariance[first : first + 3, first : first + 3])

    def at(self, point: str, moment: str) -> FloatArray:
        """A joint at a moment, (3,) cm."""
        return np.asarray(self.xyz[self.moments.index(moment), self.points.index(point)])
