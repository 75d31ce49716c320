"""Drawn clips for measuring accuracy: golfers, places and cameras by a seed, no two alike."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from kneel.model import Club, Hand, View
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.look import Light, Look, Place
from kneel.sim.swing import SwingPlan

VIEWS = (View.FACE_ON, View.DOWN_THE_LINE)
PATTERNS = ("neutral", "centred", "loading", "forward", "braced")
FAULTS = {
    "sway": (3, 10),
    "slide": (3, 8),
    "reverse_pivot": (3, 8),
    "early_extension": (3, 9),
    "hang_back": (3, 9),
    "flat_turn": (3, 8),
    "lead_knee_collapse": (2, 5),
    "posture_loss": (4, 10),
}


@dataclass(frozen=True)
class Cast:
    """One drawn clip: its name and what makes it."""

    name: str
    shoot: Shoot


def cast(seed: int, count: int) -> Iterator[Cast]:
    """``count`` clips by a seed, face-on and down the line by turns."""
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        yield Cast(f"{seed}-{number:02d}", _shoot(rng, VIEWS[number % len(VIEWS)]))


def _shoot(rng: np.random.Generator, view: View) -> Shoot:
    colour = lambda low, high: tuple(int(v) for v in rng.integers(low, high, 3))  # noqa: E731
    look = Look(
        shirt=colour(50, 225),
        trousers=colour(30, 170),
        hair=colour(20, 190),
        skin=tuple(int(v) for v in (np.array([214, 168, 138]) * rng.uniform(0.55, 1.08))),
        shorts=bool(rng.random() < 0.3),
        long_hair=bool(rng.random() < 0.35),
        cap=colour(30, 240) if rng.random() < 0.4 else None,
        loose_cm=float(rng.choice([0.0, 0.0, 0.8, 1.5])),
    )
    hand = Hand.LEFT if rng.random() < 0.3 else Hand.RIGHT
    golfer = Golfer(
        float(rng.uniform(150, 197)),
        hand,
        Club(rng.choice([c.value for c in Club])),
        float(rng.uniform(0.86, 1.25)),
        look=look,
    )
    chosen = rng.choice(list(FAULTS), size=int(rng.integers(0, 3)), replace=False)
    plan = SwingPlan(
        {str(name): float(rng.uniform(*FAULTS[name])) for name in chosen},
        str(rng.choice(PATTERNS)),
        tempo=float(rng.uniform(0.88, 1.2)),
        variation=0.7,
        seed=int(rng.integers(1, 10**6)),
    )
    camera = Camera(
        view,
        hand,
        distance_cm=float(rng.uniform(370, 520)),
        camera_height_cm=float(rng.uniform(85, 130)),
        yaw_deg=float(rng.normal(0, 3)),
        roll_deg=float(rng.normal(0, 0.7)),
        barrel=(float(rng.choice([0.0, -0.03])), 0.0),
        exposure_s=float(rng.choice([0.0, 0.0015])),
    )
    return Shoot(
        golfer,
        plan,
        camera,
        float(rng.choice([60.0, 60.0, 120.0])),
        int(rng.integers(1, 10**6)),
        Place(rng.choice([p.value for p in Place])),
        Light(rng.choice([p.value for p in Light])),
        noise=float(rng.uniform(1.5, 4.0)),
        quality=int(rng.integers(20, 27)),
    )


def filmed(folder: Path, clips: Iterator[Cast]) -> Iterator[tuple[Cast, Path]]:
    """The clips as files in ``folder``; those already there are not drawn again."""
    folder.mkdir(parents=True, exist_ok=True)
    for one in clips:
        path = folder / f"{one.name}.mp4"
        if not path.exists():
            part = path.with_suffix(".part.mp4")
            film(one.shoot, part)
            part.replace(path)
            print(f"filmed {path.name}", file=sys.stderr, flush=True)
        yield one, path


if __name__ == "__main__":
    for _ in filmed(Path(sys.argv[1]), cast(int(sys.argv[2]), int(sys.argv[3]))):
        pass
