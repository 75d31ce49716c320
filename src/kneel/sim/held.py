"""How a hand holds a camera: never still, slowly carried about, a little shaken."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

SWAY_HZ, TREMOR_HZ = (0.15, 1.8), (6.0, 12.0)
"""Standing people sway below 2 Hz; a hand held out trembles at 6 to 12 Hz (from memory)."""

TREMOR_SHARE = 0.04
"""How large the tremor's turn is against the sway's; of places it moves nothing that counts."""

WAVES = 5


CARRY_CM = 3.0
"""How far a hand carries a camera that it turns by a degree."""


@dataclass(frozen=True)
class Held:
    """A hand by a seed: ``turn_deg`` is the spread of where it points, ``carry_cm`` of where it is.

    ``pan_deg`` is how far it goes round to the right from the swing's first second to its third, as somebody
    does who follows what moves.
    """

    turn_deg: float = 0.25
    carry_cm: float = 0.8
    pan_deg: float = 0.0
    seed: int = 1

    @staticmethod
    def turning(turn_deg: float, pan_deg: float = 0.0, seed: int = 1) -> Held | None:
        """A hand that turns the camera so much and carries it along with that; None where it does neither."""
        if not turn_deg and not pan_deg:
            return None
        return Held(turn_deg, CARRY_CM * turn_deg, pan_deg, seed)

    def carried_cm(self, times_s: FloatArray) -> FloatArray:
        """How far from its place the camera is, (T, 3) cm along the golfer's axes."""
        rng = np.random.default_rng([self.seed, 0])
        return np.stack([self.carry_cm * _sway(rng, times_s, SWAY_HZ) for _ in range(3)], axis=-1)

    def turned_deg(self, times_s: FloatArray) -> FloatArray:
        """Where it points off its aim: right, down and clockwise, (T, 3) degrees."""
        rng = np.random.default_rng([self.seed, 1])
        turns = [
            self.turn_deg * (_sway(rng, times_s, SWAY_HZ) + TREMOR_SHARE * _sway(rng, times_s, TREMOR_HZ))
            for _ in range(3)
        ]
        turns[0] = turns[0] + self.pan_deg * np.clip((times_s - 1) / 2, 0, 1)
        return np.stack(turns, axis=-1)


def _sway(rng: np.random.Generator, times_s: FloatArray, band_hz: tuple[float, float]) -> FloatArray:
    """A smooth wander of spread one: waves of a band, the slower the larger (T,)."""
    rates = np.exp(rng.uniform(np.log(band_hz[0]), np.log(band_hz[1]), WAVES))
    phases, sizes = rng.uniform(0, 2 * np.pi, WAVES), rates**-0.5
    sizes *= np.sqrt(2 / (sizes**2).sum())
    return np.asarray(np.sin(2 * np.pi * rates * times_s[..., None] + phases) @ sizes)
