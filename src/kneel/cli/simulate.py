"""``kneel simulate``: a clip, its truth, and its true points."""

from __future__ import annotations

import argparse
import re

import numpy as np

from kneel.cli.parts import named_numbers, progress_on_terminal
from kneel.model import Club, Hand, UsageError, View

SMALLEST, LARGEST = 160, 4096


def run(asked: argparse.Namespace) -> int:
    """Film what was asked for, with progress on standard error."""
    from kneel.sim.camera import Camera
    from kneel.sim.film import Shoot, film
    from kneel.sim.golfer import Golfer
    from kneel.sim.swing import SwingPlan

    if not 120 <= asked.stature <= 220:
        raise UsageError(f"--stature takes 120 to 220 cm, not {asked.stature:g}.")
    if not 10 <= asked.fps <= 1000:
        raise UsageError(f"--fps takes 10 to 1000, not {asked.fps:g}.")
    if not -45 <= asked.yaw <= 45:
        raise UsageError(f"--yaw takes -45 to 45 degrees, not {asked.yaw:g}.")
    width, height = _size(asked.size)
    hand = Hand(asked.handed)
    golfer = Golfer(asked.stature, hand, Club(asked.club or Club.IRON))
    plan = SwingPlan(named_numbers(asked.fault, "--fault", "NAME=AMOUNT"))
    camera = Camera(View(asked.view), hand, width, height, yaw_deg=asked.yaw, mirrored=asked.mirrored)
    shoot = Shoot(golfer, plan, camera, asked.fps, asked.seed)
    truth = film(shoot, asked.out, asked.truth, progress_on_terminal("filming"))
    if asked.points:
        _write_points(asked.points, shoot.times_s, truth.pixels)
    return 0


def _size(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d+)x(\d+)", text)
    if not match:
        raise UsageError(f"--size takes WIDTHxHEIGHT, such as 1280x720, not {text}.")
    width, height = int(match[1]), int(match[2])
    if not all(SMALLEST <= side <= LARGEST and side % 2 == 0 for side in (width, height)):
        raise UsageError(f"--size takes even numbers from {SMALLEST} to {LARGEST}, not {text}.")
    return width, height


def _write_points(path: str, times_s: np.ndarray, pixels: dict[str, np.ndarray]) -> None:
    from kneel.book.points_csv import write_points

    rows = [
        (frame, time, name, float(xy[frame, 0]), float(xy[frame, 1]), None)
        for frame, time in enumerate(times_s.tolist())
        for name, xy in pixels.items()
        if np.isfinite(xy[frame, 0])
    ]
    write_points(path, rows)
