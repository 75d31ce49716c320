"""A pressure plate's stand-in: what the ground feels of the moving body.

The share under the lead foot is where the mass hangs, plus what the golfer
pushes (``lead_push`` of the plan, which dials change): arms and club that
swing down press the lead foot long before the mass is over it. That push is
laid down, not derived: the centre of pressure that follows from second
derivatives of a drawn motion swings by half a stance where a knot lies. The
toes' share is that of the mass alone; the force is Newton's, smoothed as by a
plate's filter.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from kneel.disk import write_text
from kneel.sim.measures import centre_of_mass
from kneel.sim.pose import Motion

FloatArray = NDArray[np.float64]

GRAVITY = 981.0
"""cm/s²."""

STEP_S = 0.004
SLOW_S = 0.02
"""What a plate's filter smooths over, as the standard deviation of a bell."""
HEADER = ("time_s", "lead_percent", "toe_percent", "force_n", "cop_x_cm", "cop_y_cm")


@dataclass(frozen=True)
class Pressure:
    """Each (T,): shares under the lead foot and the toes in %, vertical force in N, centre of pressure in cm.

    The centre counts from the middle between the ankles, + toward the target and toward the ball.
    """

    times_s: FloatArray
    lead_percent: FloatArray
    toe_percent: FloatArray
    force_n: FloatArray
    x_cm: FloatArray
    y_cm: FloatArray


def press(motion: Motion, times_s: FloatArray) -> Pressure:
    """The plate's trace at ``times_s`` (T,); it never leaves the feet."""
    feet = motion.pose(times_s).joints
    x, y = centre_of_mass(feet)[:, :2].T
    weight = np.maximum(GRAVITY + _rise(motion, times_s), 0.05 * GRAVITY)
    lead, trail = (_middle(feet, side) for side in ("lead", "trail"))
    # Whoever walks has one foot behind the other.
    apart = np.maximum(feet["lead_ankle"][:, 0] - feet["trail_ankle"][:, 0], 1.0)
    hangs = (x - feet["trail_ankle"][:, 0]) / apart
    share = np.clip(hangs + motion.curves(times_s)["lead_push"] / 100, 0, 1)
    heel = (feet["lead_heel"][:, 1] + feet["trail_heel"][:, 1]) / 2
    toe = (feet["lead_toe"][:, 1] + feet["trail_toe"][:, 1]) / 2
    forward = np.clip((y - heel) / (toe - heel), 0, 1)
    return Pressure(
        times_s,
        100 * share,
        100 * forward,
        motion.golfer.mass_kg * weight / 100,
        trail[:, 0] + share * (lead[:, 0] - trail[:, 0]),
        heel + forward * (toe - heel),
    )


def _rise(motion: Motion, times_s: FloatArray) -> FloatArray:
    """Acceleration of the mass upward at ``times_s`` (T,), cm/s²."""
    rim = 4 * SLOW_S
    fine = np.arange(times_s[0] - rim, times_s[-1] + rim, STEP_S)
    height = centre_of_mass(motion.pose(fine).joints)[:, 2]
    pull = np.gradient(np.gradient(height, STEP_S), STEP_S)
    return np.interp(times_s, fine, gaussian_filter1d(pull, SLOW_S / STEP_S))


def _middle(feet: dict[str, FloatArray], side: str) -> FloatArray:
    return np.asarray((feet[f"{side}_heel"] + feet[f"{side}_toe"]) / 2)


def write_plate(path: str | Path, pressure: Pressure) -> None:
    """The trace as CSV with the header :data:`HEADER`. Raises ``OSError``."""
    text, p = io.StringIO(newline=""), pressure
    table = csv.writer(text)
    table.writerow(HEADER)
    for row in zip(p.times_s, p.lead_percent, p.toe_percent, p.force_n, p.x_cm, p.y_cm, strict=True):
        table.writerow([f"{value:.4f}" for value in row])
    write_text(Path(path), text.getvalue(), lasting=False)
