"""Swings drawn at random for the eye: a body, a camera, clothes, light, and faults of a given size."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from kneel.judge.knowledge import shipped
from kneel.model import Club, UsageError, View
from kneel.sim.build import BUILDS
from kneel.sim.camera import Camera
from kneel.sim.dials import turned
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance, Colour, FilmPlace, Light, Outfit, Weave
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth
from kneel.trainer.asked import SCHOOL, asked_faults, asked_in
from kneel.trainer.records import Clothes, LightKind, Shot
from kneel.trainer.truth import TrueNumbers, present, sizes_of

RATE, WIDTH, HEIGHT = 60.0, 960, 600
NEAR = 0.08
"""A planted fault is as large as asked when it is so near, in steps of severity."""

TRIES = 16
SKINS: tuple[Colour, ...] = ((214, 168, 138), (236, 198, 172), (150, 104, 76), (104, 70, 52), (188, 140, 106))
HAIRS: tuple[Colour, ...] = ((66, 46, 34), (32, 28, 28), (150, 120, 76), (176, 172, 168), (112, 62, 36))
SHIRTS: tuple[Colour, ...] = ((150, 182, 165), (196, 92, 70), (72, 98, 142), (226, 224, 214), (58, 62, 66))
TROUSERS: tuple[Colour, ...] = ((86, 84, 108), (60, 64, 66), (196, 184, 158), (44, 58, 88), (112, 108, 100))
LIGHT_OF: dict[LightKind, tuple[Light, ...]] = {
    "good": (Light.SUN, Light.OVERCAST),
    "poor": (Light.EVENING, Light.DIM),
}


@dataclass(frozen=True)
class Drawn:
    """A swing ready to be filmed, with its truth and how far each fault asked for is past its limit."""

    shot: Shot
    shoot: Shoot
    truth: Truth
    past: dict[str, float]

    @property
    def numbers(self) -> TrueNumbers:
        golfer = self.shoot.golfer
        return TrueNumbers(self.truth, self.shot.view, golfer.stature_cm, golfer.club)


def draw(shot: Shot) -> Drawn | None:
    """The swing of a shot; None where no body that was tried does these faults, and no others, in that size.

    The same shot gives the same swing.
    """
    for attempt in range(TRIES):
        rng = np.random.default_rng([shot.seed, attempt])
        drawn = _attempt(rng, shot)
        if drawn is not None:
            return drawn
    return None


def _attempt(rng: np.random.Generator, shot: Shot) -> Drawn | None:
    scene = _scene(rng, shot)
    try:
        planted = _planted(rng, shot, scene)
    except UsageError:
        return None
    if planted is None:
        return None
    shoot, truth, past = planted
    asked = {one.key for one in asked_in(shot.view)}
    if set(present(past)) != set(shot.planted) or set(past) != asked:
        return None
    return Drawn(shot, shoot, truth, past)


def _planted(
    rng: np.random.Generator, shot: Shot, scene: Shoot
) -> tuple[Shoot, Truth, dict[str, float]] | None:
    """The scene with its faults: each dial turned until its fault is as large as asked, two of them in turn.

    One without any has, as often as not, one that is nearly there: not every sound swing looks alike.
    """
    asked = asked_faults()
    wanted = {
        key: min(shot.size, asked[key].largest) + float(rng.uniform(-0.12, 0.12)) for key in shot.planted
    }
    if not wanted and rng.random() < 0.5:
        near = asked_in(shot.view)[int(rng.integers(len(asked_in(shot.view))))].key
        wanted = {near: float(rng.uniform(-0.8, -0.1))}
    amounts: dict[str, float] = {}
    for _ in range(2 if len(wanted) > 1 else 1):
        for key, size in wanted.items():
            amount = _turned(key, size, scene, amounts, shot.view)
            if amount is None:
                return None if shot.planted else _with(scene, {}, shot.view)
            amounts[key] = amount
    made = _with(scene, amounts, shot.view)
    off = [abs(made[2].get(key, 9.0) - size) for key, size in wanted.items()]
    return made if max(off, default=0.0) < 3 * NEAR else None


def _with(scene: Shoot, amounts: Mapping[str, float], view: View) -> tuple[Shoot, Truth, dict[str, float]]:
    shoot = replace(scene, plan=replace(scene.plan, faults={k: a for k, a in amounts.items() if a > 0}))
    truth = shoot.truth()
    golfer, knowledge = shoot.golfer, shipped()
    numbers = TrueNumbers(truth, view, golfer.stature_cm, golfer.club)
    return shoot, truth, sizes_of(numbers, knowledge.school(SCHOOL), knowledge)


def _turned(key: str, wanted: float, scene: Shoot, others: Mapping[str, float], view: View) -> float | None:
    """The amount of a dial at which its fault is as far past its limit as wanted."""

    @cache
    def past(amount: float) -> float | None:
        return _with(scene, {**others, key: amount}, view)[2].get(key)

    before = past(0.0)
    return None if before is None or before >= wanted else turned(key, wanted, past, NEAR)


def _scene(rng: np.random.Generator, shot: Shot) -> Shoot:
    """Body, clothes, place and camera; what the shot leaves open is drawn."""
    physique = list(BUILDS)[int(rng.choice(3, p=[0.5, 0.4, 0.1]))]
    golfer = Golfer(
        float(rng.uniform(150, 194)),
        shot.hand,
        (Club.IRON, Club.DRIVER, Club.WEDGE)[int(rng.choice(3, p=[0.6, 0.25, 0.15]))],
        float(rng.uniform(0.9, 1.25)),
        float(rng.uniform(18, 32)),
        float(rng.uniform(9, 24)),
        float(rng.uniform(20, 28)),
        float(rng.uniform(27, 34)),
        look=_dressed(rng, shot.clothes),
        build=BUILDS[physique].drawn(rng),
    )
    camera = Camera(
        shot.view,
        shot.hand,
        WIDTH,
        HEIGHT,
        distance_cm=float(rng.uniform(360, 520)),
        camera_height_cm=float(rng.uniform(85, 125)),
        yaw_deg=float(rng.normal(0, 1.5)),
        roll_deg=float(rng.normal(0, 0.3)),
        exposure_s=0.0015,
    )
    places = (FilmPlace.RANGE, FilmPlace.GRASS, FilmPlace.BAY, FilmPlace.NET)
    lights = LIGHT_OF[shot.light]
    return Shoot(
        golfer,
        SwingPlan(
            {},
            SCHOOL,
            tempo=float(rng.uniform(0.9, 1.15)),
            still_before_s=0.4,
            still_after_s=0.2,
            variation=1.0,
            seed=int(rng.integers(1, 2**31)),
        ),
        camera,
        RATE,
        int(rng.integers(1, 2**31)),
        places[int(rng.integers(len(places)))],
        lights[int(rng.integers(len(lights)))],
        noise=1.2 if shot.light == "good" else 3.0,
        quality=25,
    )


def _dressed(rng: np.random.Generator, clothes: Clothes) -> Appearance:
    def one(of: tuple[Colour, ...]) -> Colour:
        return of[int(rng.integers(len(of)))]

    outfits = {
        "close": (Outfit.TROUSERS, Outfit.SHORTS),
        "loose": (Outfit.TROUSERS, Outfit.SHORTS),
        "wide": (Outfit.WIDE, Outfit.SKIRT),
    }[clothes]
    return Appearance(
        one(SHIRTS),
        one(TROUSERS),
        one(HAIRS),
        one(SKINS),
        outfit=outfits[int(rng.integers(len(outfits)))],
        weave=list(Weave)[int(rng.integers(3))],
        untucked=clothes == "wide",
        long_hair=bool(rng.random() < 0.35),
        cap=one(SHIRTS) if rng.random() < 0.4 else None,
        loose_cm={"close": 0.3, "loose": 1.6, "wide": 2.6}[clothes],
    )
