"""Two real clips of one golfer through the tracker: how far told differences are from the true ones.

    python -m benchmarks.pairs [GOLFERS]

Golfers of ``benchmarks.cast``, three clips each: two swings of one lesson (one camera that stood, the same clothes)
and one of another (another camera, other clothes); looked at as the desk does, bare and with three frames marked.
Every number that the school asks is compared, and what is told is held against the simulator's truth.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import platformdirs

from benchmarks.cast import Cast, Style, cast, filmed, golfer_of
from benchmarks.swings import any_camera
from kneel.model import View

SEED, COUNT = 9700, 8
RATE = 60.0


def lessons(seed: int, count: int) -> Iterator[tuple[Cast, Cast, Cast]]:
    """Three clips each of some golfers: two of one lesson, one of the next."""
    for number, one in enumerate(cast(seed, count)):
        rng = np.random.default_rng([seed, number, 5])
        shoot = replace(one.shoot, rate=RATE)
        if shoot.camera.view is View.REAR:
            camera = replace(shoot.camera, view=View.FACE_ON)
            shoot = replace(shoot, camera=camera)
        plan = replace(shoot.plan, variation=1.0)
        size = shoot.golfer.stature_cm / 175
        faults = dict(plan.faults)
        key = "sway" if shoot.camera.view is View.FACE_ON else "early_extension"
        faults[key] = faults.get(key, 0.0) + size * float(rng.uniform(1, 3))
        other = any_camera(rng, shoot.camera.view, shoot.golfer.hand)
        moved = replace(
            shoot.camera,
            camera_height_cm=other.camera_height_cm,
            yaw_deg=other.yaw_deg,
            roll_deg=other.roll_deg,
        )
        dressed = golfer_of(rng, Style(list(Style)[int(rng.integers(len(Style) - 1))]), shoot.golfer.hand).look
        shoots = (
            replace(shoot, plan=replace(plan, seed=number * 10 + 1)),
            replace(shoot, plan=replace(plan, seed=number * 10 + 2, faults=faults), seed=shoot.seed + 1),
            replace(
                shoot,
                plan=replace(plan, seed=number * 10 + 3, faults=faults),
                seed=shoot.seed + 2,
                camera=moved,
                golfer=replace(shoot.golfer, look=dressed),
            ),
        )
        yield tuple(Cast(f"{one.name}-{k}", one.style, s) for k, s in zip("abc", shoots, strict=True))  # type: ignore[misc]
