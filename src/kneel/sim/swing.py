"""The plan of a swing: values at knots in time, smooth in between.

Each quantity is a piecewise quintic through its knots with continuous speed
and acceleration; speeds at knots are those of a shape-preserving cubic, so
that a quantity that peaks at a knot peaks there and nowhere else.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BPoly, CubicSpline, PchipInterpolator, PPoly

from kneel.model import CHECKPOINTS, Club, UsageError
from kneel.sim.routine import Routine

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

INCH: Final = 2.54
NINE: Final = tuple(name for name in CHECKPOINTS if name != "through")
"""The checkpoints at which patterns and dials lay a swing down."""

KNOTS: Final = len(NINE)
TOP, IMPACT = NINE.index("top"), NINE.index("impact")
NEUTRAL: Final = "neutral"
WITH_CLUB: Final = "with_club"

# Seconds from address to each checkpoint of a usual swing.
_STEPS_S: Final = (0.0, 0.30, 0.50, 0.82, 0.957, 1.043, 1.09, 1.17, 1.80)

# Spread of each quantity from swing to swing of one golfer, at knots after address
# (common practice, no source).
_VARIES: Final[Mapping[str, float]] = {
    "pelvis_shift": 0.35,
    "pelvis_thrust": 0.25,
    "pelvis_lift": 0.2,
    "pelvis_turn": 1.2,
    "pelvis_tilt": 0.5,
    "side_tilt": 0.6,
    "forward_bend": 0.6,
    "shoulder_turn": 1.5,
    "arms": 1.2,
    "shaft": 1.5,
}
_TIMING_VARIES: Final = 0.012

WAGGLE_DEG: Final = 9.0
WAGGLE_HZ: Final = 1.6
WAGGLE_ENDS_S: Final = 0.35
"""The club is still again this long before it moves away."""


@cache
def patterns() -> Mapping[str, Mapping[str, FloatArray]]:
    """The clean swings: every quantity at the nine checkpoints, a school's whole where it differs."""
    raw = _file()
    neutral = raw[NEUTRAL]
    return {
        name: {quantity: nine(values) for quantity, values in (neutral | own).items()}
        for name, own in raw.items()
        if name != WITH_CLUB
    }


@cache
def with_club() -> Mapping[str, Mapping[str, FloatArray]]:
    """What a class of club adds to any clean swing, at the nine checkpoints."""
    return {
        club: {quantity: nine(values) for quantity, values in own.items()}
        for club, own in _file()[WITH_CLUB].items()
    }


def _file() -> dict[str, dict[str, Any]]:
    return tomllib.loads((files("kneel.sim") / "patterns.toml").read_text(encoding="utf-8"))


def nine(value: float | list[float]) -> FloatArray:
    """A row of nine knots; one number holds at all of them."""
    return np.broadcast_to(np.asarray(value, dtype=np.float64), (KNOTS,)).copy()


@dataclass(frozen=True)
class SwingPlan:
    """What to simulate.

    ``faults`` are the dials' amounts, cm or degrees; ``pattern`` the clean
    swing they are put on; ``tempo`` stretches the whole swing (1 = usual),
    ``ratio`` is backswing over downswing; ``length`` is the share of a full backswing (a punch has about
    0.85, a half swing 0.7); ``variation`` 1 gives the usual
    spread from swing to swing by ``seed``, 0 none; ``waggle`` moves the club
    before address, ``routine`` is what is done before and after. Raises ``UsageError``.
    """

    faults: Mapping[str, float] = field(default_factory=dict)
    pattern: str = NEUTRAL
    tempo: float = 1.0
    ratio: float | None = None
    still_before_s: float = 0.40
    still_after_s: float = 0.30
    variation: float = 0.0
    waggle: bool = False
    seed: int = 1
    length: float = 1.0
    routine: Routine | None = None

    def __post_init__(self) -> None:
        if self.pattern not in patterns():
            raise UsageError(f"There is no clean swing “{self.pattern}”; there is {', '.join(patterns())}.")
        if not 0.5 <= self.tempo <= 2.5:
            raise UsageError(f"A tempo is 0.5 to 2.5 times the usual, not {self.tempo:g}.")
        if not 0.65 <= self.length <= 1:
            raise UsageError(f"A swing is 0.65 to 1 of a full one, not {self.length:g}.")
        if self.ratio is not None and not 1.5 <= self.ratio <= 6:
            raise UsageError(f"Backswing over downswing is 1.5 to 6, not {self.ratio:g}.")

    @property
    def knots_s(self) -> FloatArray:
        """Times of the nine knots, (9,) seconds."""
        steps = np.diff(_STEPS_S) * self.tempo
        if self.ratio is not None:
            back, down = steps[:TOP].sum(), steps[TOP:IMPACT].sum()
            steps[:TOP] *= self.ratio * down / back
        if self.variation:
            spread = np.random.default_rng([self.seed, 7]).normal(0, _TIMING_VARIES, len(steps))
            steps *= 1 + self.variation * spread
        before = self.routine.before_s(float(steps.sum())) if self.routine else 0.0
        return before + self.still_before_s + np.concatenate([[0.0], np.cumsum(steps)])

    @property
    def length_s(self) -> float:
        after = self.routine.after_s if self.routine else 0.0
        return float(self.knots_s[-1] + self.still_after_s + after)

    def clean_rows(self, club: Club = Club.IRON) -> Rows:
        """Every quantity at the nine knots before any fault, with the swing's own variation."""
        rows = {name: values.copy() for name, values in patterns()[self.pattern].items()}
        for name, added in with_club().get(club.value, {}).items():
            rows[name] += added
        if self.length < 1:
            rows = {name: row[0] + self._shares() * (row - row[0]) for name, row in rows.items()}
        if self.variation:
            rng = np.random.default_rng([self.seed, 3])
            for name, sigma in _VARIES.items():
                rows[name][1:] += self.variation * rng.normal(0, sigma, KNOTS - 1)
        return rows

    def _shares(self) -> FloatArray:
        """What of a full swing a shorter one does: all of it up to the takeaway and at impact, its length at
        the top, something between around it.
        """
        top, near = self.length, (1 + self.length) / 2
        return np.array([1.0, 1.0, near, top, near, near, 1.0, near, near])

    def waggle_deg(self, times_s: FloatArray) -> FloatArray:
        """What the waggle adds to the shaft's angle, (T,) degrees."""
        length = self.still_before_s - WAGGLE_ENDS_S
        if not self.waggle or length < 0.4:
            return np.zeros_like(times_s)
        start = float(self.knots_s[0]) - self.still_before_s
        inside = np.clip((times_s - start) / length, 0, 1)
        return WAGGLE_DEG * np.sin(np.pi * inside) ** 2 * np.sin(2 * np.pi * WAGGLE_HZ * (times_s - start))


def smooth(knots_s: FloatArray, values: FloatArray) -> PPoly:
    """Quintics through ``values`` (9, K), K quantities at once: speed and acceleration continuous, at rest at
    both ends.
    """
    speed = PchipInterpolator(knots_s, values).derivative()(knots_s)
    speed[[0, -1]] = 0.0
    bend = CubicSpline(knots_s, values, bc_type="clamped").derivative(2)(knots_s)
    bend[[0, -1]] = 0.0
    # In powers, which are told fifteen times as fast as Bernstein's polynomials.
    return PPoly.from_bernstein_basis(
        BPoly.from_derivatives(knots_s, np.stack([values, speed, bend], axis=1))
    )
