"""Cameras as people really put them: drawn clips filmed from odd places, bare, held against the truth.

    python -m benchmarks.placed [SEED] [COUNT] [NAME,NAME,…]

A phone that leans on a bag, one on a bay's roof, one too near, or far off, or askew; a golfer who is small in
the picture; a picture whose rows are exposed one after another; an upright one.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import replace

import platformdirs

from benchmarks.cast import Cast, cast, filmed
from benchmarks.spoilt import print_page, table, told
from kneel.sim.camera import Camera

SEED, COUNT = 9840, 2
SMALL = 0.2
"""The share of the picture's height that somebody small in it has."""


def _from(distance_cm: float, barrel: tuple[float, float] | None = None) -> Callable[[Camera, float], Camera]:
    """From so far off, with the golfer as large in the picture as before."""

    def placed(camera: Camera, _: float) -> Camera:
        focal = camera.focal * distance_cm / camera.distance_cm
        return replace(camera, distance_cm=distance_cm, focal_px=focal, barrel=barrel or camera.barrel)

    return placed


def _small(camera: Camera, stature_cm: float) -> Camera:
    return replace(camera, focal_px=SMALL * camera.height * camera.distance_cm / (1.08 * stature_cm))


PLACED: dict[str, Callable[[Camera, float], Camera]] = {
    "as it was": lambda camera, _: camera,
    "on the ground": lambda camera, _: replace(camera, camera_height_cm=12.0),
    "over head height": lambda camera, _: replace(camera, camera_height_cm=195.0),
    "near, a wide lens": _from(230.0, (-0.10, 0.01)),
    "far off": _from(1500.0),
    "12° toward the target": lambda camera, _: replace(camera, yaw_deg=12.0),
    "12° away from it": lambda camera, _: replace(camera, yaw_deg=-12.0),
    "leaning by 5°": lambda camera, _: replace(camera, roll_deg=5.0),
    "rows one after another": lambda camera, _: replace(camera, readout_s=0.025, exposure_s=0.004),
    "small in the picture": _small,
    "upright": lambda camera, _: replace(camera, width=720, height=1280),
}


def placed(seed: int, count: int, names: list[str]) -> Iterator[tuple[str, Cast]]:
    """The clips of a seed, from every place by its name."""
    for one in cast(seed, count):
        for name in names:
            shoot = one.shoot
            camera = PLACED[name](shoot.camera, shoot.golfer.stature_cm)
            words = name.replace(" ", "-").replace("°", "")
            yield name, Cast(f"{one.name}-{words}", one.style, replace(shoot, camera=camera))


def page(seed: int, count: int, names: list[str]) -> str:
    """How far off numbers are, by where the camera was."""
    folder = platformdirs.user_cache_path("kneel") / "placed"
    found: dict[str, list[float]] = defaultdict(list)
    for name, one in placed(seed, count, names):
        for _, path in filmed(folder, [one]):
            numbers, said = told(one, path)
            found[name] += numbers
            print(f"{one.name}: {len(numbers)} numbers. {' '.join(said)}", file=sys.stderr, flush=True)
    return table("placed", found)


if __name__ == "__main__":
    print_page(page, SEED, COUNT, list(PLACED))
