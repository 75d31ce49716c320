"""A pressure plate's stand-in: what the ground feels of the moving body.

The centre of pressure is where the ground's push has to act so that the
mass moves as it does (zero moment point of the body as one mass: Vukobratović
and Borovac 2004, *Int J Humanoid Robotics* 1:157, from memory). The body's
own spin is left out, so the trace is consistent, not complete.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kneel.disk import write_text
from kneel.sim.measures import centre_of_mass
from kneel.sim.pose import Motion

FloatArray = NDArray[np.float64]

GRAVITY = 981.0
"""cm/s²."""

STEP_S = 0.004
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
    at = [motion.pose(times_s + offset).joints for offset in (-STEP_S, 0.0, STEP_S)]
    before, now, after = (centre_of_mass(joints) for joints in at)
    pull = (before - 2 * now + after) / STEP_S**2
    weight = np.maximum(GRAVITY + pull[:, 2], 0.05 * GRAVITY)
    x = now[:, 0] - now[:, 2] * pull[:, 0] / weight
    y = now[:, 1] - now[:, 2] * pull[:, 1] / weight
    feet = at[1]
    lead, trail = (_middle(feet, side) for side in ("lead", "trail"))
    share = np.clip((x - trail[:, 0]) / (lead[:, 0] - trail[:, 0]), 0, 1)
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
