"""The motion: values at knots in time, smooth in between, and dials for faults.

Each quantity is a piecewise quintic through its knots with continuous speed
and acceleration; speeds at knots are those of a shape-preserving cubic, so
that a quantity that peaks at a knot peaks there and nowhere else.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BPoly, CubicSpline, PchipInterpolator

from kneel.model import CHECKPOINTS, UsageError

FloatArray = NDArray[np.float64]

INCH: Final = 2.54

# Each row: address, takeaway, half_back, top, half_down, delivery, impact, follow, finish.
# Pelvis travel coming down is the reference of a skilled centred pattern, in inches
# (common practice, no source); going back this golfer turns in place.
_CLEAN: Final[Mapping[str, tuple[float, ...]]] = {
    "pelvis_shift": (0.0, -0.15, -0.2, 0.0, 2.7 * INCH, 3.5 * INCH, 3.6 * INCH, 3.8 * INCH, 5.1 * INCH),
    "pelvis_thrust": (0.0, 0.0, 0.0, 0.0, 0.3, 0.6, 1.5, 4.0, 8.0),
    "pelvis_lift": (0.0, 0.0, 0.2, 0.4, -2.0, -1.5, 0.5, 2.0, 3.0),
    "pelvis_turn": (0.0, -14.0, -31.0, -44.0, -14.0, 8.0, 34.0, 52.0, 88.0),
    "pelvis_tilt": (0.0, 2.5, 6.0, 9.0, 2.0, -2.0, -6.0, -7.0, -3.0),
    "upper_shift": (0.0, -0.5, -1.2, -1.5, -0.5, -1.0, -2.0, -1.0, 9.0),
    "forward_bend": (0.0, 0.0, 0.5, 1.0, 1.5, 1.0, -2.0, -8.0, -26.0),
    "shoulder_turn": (0.0, -30.0, -62.0, -90.0, -52.0, -24.0, 14.0, 55.0, 110.0),
    "arms": (0.0, -44.0, -84.0, -138.0, -86.0, -43.0, 12.0, 74.0, 150.0),
    "wrists": (0.0, -46.0, -74.0, -98.0, -108.0, -50.0, -18.0, 12.0, 70.0),
    "trail_heel": (0.0, 0.0, 0.0, 0.0, 0.0, 3.0, 12.0, 30.0, 68.0),
    "lead_heel": (0.0,) * 9,
    "head_turn": (0.0, -5.0, -12.0, -20.0, -10.0, -4.0, 2.0, 30.0, 85.0),
}

_STEPS_S: Final = (0.0, 0.30, 0.50, 0.82, 0.97, 1.02, 1.09, 1.205, 1.80)

# How one unit of a dial changes each quantity at the nine knots.
_DIALS: Final[Mapping[str, Mapping[str, tuple[float, ...]]]] = {
    "sway": {
        "pelvis_shift": (0.0, -0.40, -0.78, -1.0, -0.55, -0.30, -0.15, 0.0, 0.0),
        "upper_shift": (0.0, -0.12, -0.25, -0.30, -0.20, -0.15, -0.10, 0.0, 0.0),
    },
}

DIALS: Final = tuple(_DIALS)


@dataclass(frozen=True)
class SwingPlan:
    """What to simulate: fault dials (cm or degrees), tempo (1 = usual) and stillness before and after."""

    faults: Mapping[str, float] = field(default_factory=dict)
    tempo: float = 1.0
    still_before_s: float = 0.40
    still_after_s: float = 0.30

    def __post_init__(self) -> None:
        for name, amount in self.faults.items():
            if name not in _DIALS:
                raise UsageError(f"There is no fault dial “{name}”; there is {', '.join(_DIALS)}.")
            if not (np.isfinite(amount) and 0 <= amount <= 20):
                raise UsageError(f"The dial {name} takes 0 to 20 cm, not {amount:g}.")

    @property
    def knots_s(self) -> FloatArray:
        """Times of the nine knots, (9,) seconds."""
        return self.still_before_s + np.array(_STEPS_S) * self.tempo

    @property
    def length_s(self) -> float:
        return float(self.knots_s[-1] + self.still_after_s)

    def curves(self, times_s: FloatArray) -> dict[str, FloatArray]:
        """Every quantity at ``times_s`` (T,), held still before the first knot and after the last."""
        knots = self.knots_s
        inside = np.clip(times_s, knots[0], knots[-1])
        return {name: curve(inside) for name, curve in self._curves.items()}

    @cached_property
    def _curves(self) -> dict[str, BPoly]:
        return {name: _quintic(self.knots_s, self._values(name)) for name in _CLEAN}

    def _values(self, name: str) -> FloatArray:
        values = np.array(_CLEAN[name])
        for fault, amount in self.faults.items():
            values = values + amount * np.array(_DIALS[fault].get(name, (0.0,) * len(CHECKPOINTS)))
        return values


def _quintic(knots: FloatArray, values: FloatArray) -> BPoly:
    """Quintic through ``values`` with speed and acceleration continuous, at rest at both ends."""
    speed = PchipInterpolator(knots, values).derivative()(knots)
    speed[[0, -1]] = 0.0
    bend = CubicSpline(knots, values, bc_type="clamped").derivative(2)(knots)
    bend[[0, -1]] = 0.0
    return BPoly.from_derivatives(knots, np.stack([values, speed, bend], axis=1))
