"""Fault dials: an amount asked for is an amount that is there.

``dials.toml`` holds the mechanism of each fault: what moves together, in
which proportion, when. :func:`perform` scales a mechanism for the golfer at
hand until the dial's own measure, in the moving body and at its true
checkpoint, has changed by exactly the amount; dials are put on one after
the other, each on top of those before it.
"""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Mapping
from functools import cache
from importlib.resources import files

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.model import UsageError
from kneel.sim.golfer import Golfer
from kneel.sim.measures import in_space
from kneel.sim.pose import Motion
from kneel.sim.swing import SwingPlan, nine

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

CLOSE_ENOUGH = 1e-3
"""A dial is set when its measure is this near, cm or degrees."""

SIZED_FOR_CM = 175.0
LENGTHS = ("setup_shift", "stand", "pelvis_shift", "pelvis_thrust", "pelvis_lift")
"""What a pattern lays down in centimetres, for a body of this stature: a child moves by less."""


class Dial(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One fault: its own measure at a checkpoint and which way it goes, and what moves per unit."""

    measure: str
    at: str
    sign: int
    unit: str
    limit: float
    moves: dict[str, float | list[float]]


@cache
def dials() -> Mapping[str, Dial]:
    """All dials in the order they are put on."""
    raw = tomllib.loads((files("kneel.sim") / "dials.toml").read_text(encoding="utf-8"))
    return {name: msgspec.convert(entry, Dial) for name, entry in raw.items()}


def perform(golfer: Golfer, plan: SwingPlan) -> Motion:
    """The swing with all its faults. Raises ``UsageError`` for an unknown dial or an amount out of reach."""
    known = dials()
    for name, amount in plan.faults.items():
        if name not in known:
            raise UsageError(f"There is no fault dial “{name}”; there is {', '.join(known)}.")
        dial = known[name]
        if not (np.isfinite(amount) and 0 <= amount <= dial.limit):
            raise UsageError(f"The dial {name} takes 0 to {dial.limit:g} {dial.unit}, not {amount:g}.")
    size = golfer.stature_cm / SIZED_FOR_CM
    rows = {n: v * size if n in LENGTHS else v for n, v in plan.clean_rows(golfer.club).items()}
    motion = Motion(golfer, plan, rows)
    for name, dial in known.items():
        amount = plan.faults.get(name, 0.0)
        if amount:
            rows, motion = _put_on(name, dial, amount, rows, motion)
    return motion


def turned(key: str, wanted: float, told: Callable[[float], float | None], near: float) -> float | None:
    """The amount of a dial at which what is ``told`` of it is ``near`` what is wanted, by secant steps.

    None where it does not get there within the limit, or is not told; an amount that the body cannot do
    (``UsageError``) is taken for less to be asked.
    """
    limit = dials()[key].limit
    low, at_low = 0.0, told(0.0)
    if at_low is None:
        return None
    amount = 0.3 * limit
    for _ in range(8):
        try:
            found = told(amount)
        except UsageError:
            amount = (low + amount) / 2
            continue
        if found is None:
            return None
        if abs(found - wanted) < near:
            return amount
        slope = (found - at_low) / (amount - low) if amount != low else 0.0
        if not slope > 0:
            return None
        low, at_low = amount, found
        amount = float(np.clip(amount + (wanted - found) / slope, 0.0, limit))
        if amount == low:
            return None
    return None


def _put_on(name: str, dial: Dial, amount: float, rows: Rows, before: Motion) -> tuple[Rows, Motion]:
    """Scale the dial's mechanism by secant steps until its measure has moved by ``amount``."""
    goal = _own(before, dial) + dial.sign * amount
    lower, missing = 0.0, -dial.sign * amount
    scale = 1.0
    for _ in range(25):
        moved = _moved(rows, dial, scale * amount)
        try:
            motion = Motion(before.golfer, before.plan, moved)
            miss = _own(motion, dial) - goal
        except (ValueError, FloatingPointError):
            break
        if abs(miss) < CLOSE_ENOUGH:
            return moved, motion
        slope = (miss - missing) / (scale - lower)
        if not np.isfinite(slope) or slope == 0:
            break
        lower, missing = scale, miss
        scale = float(np.clip(scale - miss / slope, scale - 0.8, scale + 0.8))
    raise UsageError(f"This golfer's body cannot do {name} {amount:g} {dial.unit} here; ask for less.")


def _moved(rows: Rows, dial: Dial, units: float) -> Rows:
    return rows | {name: rows[name] + units * nine(values) for name, values in dial.moves.items()}


def _own(motion: Motion, dial: Dial) -> float:
    """The dial's own measure where it counts."""
    times = motion.checkpoints_s
    skeleton = motion.pose(np.array([times["address"], times[dial.at]]))
    return float(in_space(skeleton, rest=0)[dial.measure][1])
