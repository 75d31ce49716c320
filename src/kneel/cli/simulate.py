"""``kneel simulate``: a clip, its truth, its true points, and what a pressure plate would have felt."""

from __future__ import annotations

import argparse
import contextlib
import re
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

import numpy as np

from kneel.cli.outputs import Output, demand_outputs
from kneel.cli.parts import named_numbers, progress_on_terminal
from kneel.disk import shown
from kneel.model import Club, Hand, UsageError, View

if TYPE_CHECKING:
    from kneel.sim.film import Shoot
    from kneel.sim.routine import Routine

SMALLEST, LARGEST = 160, 4096

# What each number may be, with its unit.
_RANGES = {
    "stature": (120, 220, "cm"),
    "girth": (0.7, 1.5, "times the usual"),
    "variation": (0, 3, "times the usual"),
    "still": (0.1, 20, "s"),
    "walk": (0, 600, "cm"),
    "looks": (0, 5, "looks"),
    "fps": (10, 1000, "frames a second"),
    "stored_fps": (10, 1000, "frames a second"),
    "distance": (200, 1500, "cm"),
    "height": (20, 300, "cm"),
    "yaw": (-45, 45, "degrees"),
    "roll": (-20, 20, "degrees"),
    "held": (0, 2, "degrees"),
    "pan": (-20, 20, "degrees"),
    "focal": (100, 20000, "pixels"),
    "barrel": (-0.4, 0.4, ""),
    "readout": (0, 50, "ms"),
    "exposure": (0, 50, "ms"),
    "noise": (0, 40, "levels"),
    "quality": (0, 45, ""),
    "loose": (0, 6, "cm"),
    "start": (-3600, 3600, "s"),
    "seed": (0, 2**63, ""),
}

Choice = TypeVar("Choice", bound=StrEnum)


def run(asked: argparse.Namespace) -> int:
    """Film what was asked for, with progress on standard error."""
    from kneel.sim.film import film

    for name, (low, high, unit) in _RANGES.items():
        value = getattr(asked, name)
        if value is not None and not low <= value <= high:
            option = name.replace("_", "-")
            raise UsageError(f"--{option} takes {low:g} to {high:g} {unit}".rstrip() + f", not {value:g}.")
    out = Output(asked.out, "--out", over_films=True)
    beside = {name: Output.of(getattr(asked, name), f"--{name}") for name in ("truth", "points", "plate")}
    outputs = [out, *(output for outputs in beside.values() for output in outputs)]
    demand_outputs(outputs, [])
    shoot = _shoot(asked)
    with contextlib.ExitStack() as stack:
        clip = stack.enter_context(out.writing())
        places = {
            name: stack.enter_context(output.writing())
            for name, outputs in beside.items()
            for output in outputs
        }
        progress = progress_on_terminal("filming")
        truth = film(shoot, clip, places.get("truth"), progress, places.get("plate"))
        if "points" in places:
            _write_points(places["points"], shoot.times_s, truth.pixels)
    return 0


def _shoot(asked: argparse.Namespace) -> Shoot:
    """The whole of what was asked. Raises ``UsageError``."""
    from kneel.sim.build import BUILDS, Physique
    from kneel.sim.camera import Camera
    from kneel.sim.film import Shoot
    from kneel.sim.golfer import Golfer
    from kneel.sim.held import Held
    from kneel.sim.look import ORANGE_TAPE, Appearance, FilmPlace, Light, Outfit, Weave
    from kneel.sim.swing import SwingPlan

    width, height = _size(asked.size)
    hand = Hand(asked.handed)
    tape = ORANGE_TAPE if asked.tape else None
    return Shoot(
        Golfer(
            asked.stature,
            hand,
            Club(asked.club or Club.IRON),
            asked.girth,
            look=Appearance(
                outfit=_one_of(Outfit, asked.outfit, "--outfit"),
                weave=_one_of(Weave, asked.weave, "--weave"),
                loose_cm=asked.loose,
                tape=tape,
            ),
            build=BUILDS[_one_of(Physique, asked.build, "--build")],
        ),
        SwingPlan(
            named_numbers(asked.fault, "--fault", "NAME=AMOUNT"),
            asked.pattern,
            asked.tempo,
            asked.ratio,
            asked.still,
            variation=asked.variation,
            waggle=asked.waggle,
            seed=asked.seed,
            routine=_routine(asked),
        ),
        Camera(
            View(asked.view),
            hand,
            width,
            height,
            asked.distance,
            asked.height,
            asked.yaw,
            asked.roll,
            asked.focal,
            mirrored=asked.mirrored,
            barrel=(asked.barrel, 0.0),
            readout_s=asked.readout / 1000,
            exposure_s=asked.exposure / 1000,
            held=Held.turning(asked.held, asked.pan, asked.seed),
        ),
        asked.fps,
        asked.seed,
        _one_of(FilmPlace, asked.place, "--place"),
        _one_of(Light, asked.light, "--light"),
        asked.noise,
        asked.quality,
        asked.stored_fps,
        asked.start,
        bystander_cm=_place(asked.bystander) if asked.bystander else None,
    )


def _place(text: str) -> tuple[float, float]:
    match = re.fullmatch(r"(-?\d{1,3}(?:\.\d+)?),(-?\d{1,3}(?:\.\d+)?)", text)
    if not match:
        raise UsageError(f"--bystander takes X,Y in cm, such as 100,-40, not {shown(text)}.")
    return float(match[1]), float(match[2])


def _routine(asked: argparse.Namespace) -> Routine | None:
    """What is done about the swing; None where nothing is. Raises ``UsageError``."""
    from kneel.sim.routine import Routine

    if not (asked.walk or asked.rehearsal or asked.looks or asked.leaves):
        return None
    return Routine(asked.walk, asked.rehearsal, looks=asked.looks, leaves=asked.leaves)


def _one_of(kind: type[Choice], text: str, option: str) -> Choice:
    try:
        return kind(text)
    except ValueError:
        raise UsageError(f"{option} takes {', '.join(kind)}, not {text}.") from None


def _size(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d+)x(\d+)", text)
    if not match:
        raise UsageError(f"--size takes WIDTHxHEIGHT, such as 1280x720, not {text}.")
    width, height = int(match[1]), int(match[2])
    if not all(SMALLEST <= side <= LARGEST and side % 2 == 0 for side in (width, height)):
        raise UsageError(f"--size takes even numbers from {SMALLEST} to {LARGEST}, not {text}.")
    return width, height


def _write_points(path: Path, times_s: np.ndarray, pixels: dict[str, np.ndarray]) -> None:
    from kneel.documents.points_csv import write_points

    start = float(times_s[0])
    rows = [
        (frame, time - start, name, float(xy[frame, 0]), float(xy[frame, 1]), None)
        for frame, time in enumerate(times_s.tolist())
        for name, xy in pixels.items()
        if np.isfinite(xy[frame, 0])
    ]
    write_points(path, rows)
