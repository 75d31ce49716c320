"""Swings nobody drew for a test: bodies, cameras and swings of many kinds, seen as points with noise."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import Club, Hand, PointRows, ScaleSource, Stature, TypedScale, UsageError, View
from kneel.model.names import side_of
from kneel.motion.analysis import analyse
from kneel.motion.measures import REGISTRY, Domain, Way
from kneel.motion.quantity import Single
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.study import Study
from kneel.sim import measures as m
from kneel.sim.build import BUILDS
from kneel.sim.camera import Camera
from kneel.sim.dials import dials
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan, patterns
from kneel.sim.truth import Truth

OTHER_NAMES = {"lead_foot_swivel": "lead_foot_spin", "trail_foot_swivel": "trail_foot_spin"}
"""Measures that the simulator calls otherwise."""

IN_THE_PICTURE = tuple(f"{side}_{part}_flex" for side in ("lead", "trail") for part in ("knee", "hip"))
"""Angles of the image plane: their truth is that of the body in the plane a square camera sees."""


@dataclass(frozen=True)
class Case:
    """One swing with its truth. Measures are true as on the body, angles of limbs in the view's own plane."""

    study: Study
    truth: Truth
    shoot: Shoot

    def true(self, key: str, checkpoint: str) -> float | None:
        """The truth at the true checkpoint; None where there is none."""
        if key == "tilt_turn_ratio_half_back":
            tilt, turn = (self.truth.at(part, "half_back") for part in ("pelvis_tilt", "pelvis_turn"))
            return tilt / abs(turn)
        if REGISTRY[key].domain is Domain.ONCE:
            value = self.truth.swing.get(key, float("nan"))
            return value if np.isfinite(value) else None
        known = OTHER_NAMES.get(key, key)
        if key in IN_THE_PICTURE or known not in self.truth.measures:
            return self._in_plane(key, checkpoint)
        return self.truth.at(known, checkpoint)

    def _in_plane(self, key: str, checkpoint: str) -> float | None:
        """The measure's own function on the exact body in the plane that a square camera sees."""
        look = self.study.way(key)
        if not isinstance(look, Way) or look.turns:
            return None
        now, then = self._flat(checkpoint), self._flat("address")
        if not set(look.points) <= set(now):
            return None
        return float(look.compute({p: now[p] for p in look.needs}, {p: then[p] for p in look.then})[0])

    def _flat(self, checkpoint: str) -> m.Points:
        when, hand = self.truth.checkpoints_s[checkpoint], self.study.setup.hand
        axes = [1, 2] if self.study.setup.view is View.DOWN_THE_LINE else [0, 2]
        out = {}
        for name, xyz in self.truth.space.items():
            side = side_of(name, hand)
            known = name if side is None else f"{side}_{name.partition('_')[2]}"
            out[known] = np.array([[np.interp(when, self.truth.times_s, xyz[:, k]) for k in axes]])
        ball = self.shoot.motion.address.clubhead
        return out | {"ball": np.array([[ball[k] for k in axes]])}

    def told(self) -> list[tuple[str, str, Single, float]]:
        """Every measure at every checkpoint but the finish, with its truth."""
        rows = []
        for key, entry in REGISTRY.items():
            if entry.domain is Domain.ONCE:
                found, names = self.study.once(key), ["once"]
            else:
                names = ["address"] if entry.domain is Domain.SETUP else list(self.study.checkpoints)
            for name in names:
                if entry.domain is not Domain.ONCE:
                    found = self.study.at(key, name)
                true = self.true(key, name)
                # What counts from address is 0 there, and nothing is told by that.
                at_rest = name == "address" and isinstance(found, Single) and found.sigma < 1e-3
                if isinstance(found, Single) and true is not None and name != "finish" and not at_rest:
                    rows.append((key, name, found, true))
        return rows


def off(key: str, found: float, true: float) -> float:
    """How far a value is off, an angle by the shorter way round."""
    error = found - true
    return (error + 180) % 360 - 180 if REGISTRY[key].unit == "deg" else error


def case(seed: int, *, view: View | None = None, stated: bool = True) -> Case:
    """A swing by its number: points with 1 to 2 px of noise, 60 to 240 frames/s, a camera 5° off at most.

    ``stated`` is whether the points come with their errors.
    """
    rng = np.random.default_rng([seed, 99])
    view = view or list(View)[rng.choice(3, p=[0.45, 0.4, 0.15])]
    while True:
        try:
            shoot = _shoot(rng, view, seed)
            truth = shoot.truth()
            break
        except UsageError:
            continue
    xy, noise = noisy(rng, truth)
    scale = Stature(shoot.golfer.stature_cm) if rng.random() < 0.6 else TypedScale(truth.cm_per_px)
    return Case(study_of(shoot, xy, noise if stated else np.nan, scale), truth, shoot)


def noisy(rng: np.random.Generator, truth: Truth) -> tuple[dict[str, NDArray[np.float64]], float]:
    """The true points with 1 to 2 px of noise, and how much it is."""
    noise = float(rng.uniform(1, 2))
    return {n: p + rng.normal(0, noise, p.shape) for n, p in truth.pixels.items()}, noise


def study_of(
    shoot: Shoot, xy: Mapping[str, NDArray[np.float64]], sigma_px: float, scale: ScaleSource
) -> Study:
    """The numbers of points that come with one stated error."""
    count = len(shoot.times_s)
    rows = PointRows(np.arange(count), shoot.times_s, xy, {n: np.full(count, sigma_px) for n in xy})
    setup = Setup(shoot.camera.view, shoot.golfer.hand, scale=scale, width_px=1280.0, height_px=720.0)
    return analyse(rows.times_s, from_rows(rows), setup)


def any_camera(rng: np.random.Generator, view: View, hand: Hand) -> Camera:
    """A camera up to 5° off square and a little tipped, somewhere about the golfer's belt."""
    return Camera(
        view,
        hand,
        distance_cm=float(rng.uniform(330, 560)),
        camera_height_cm=float(rng.uniform(70, 140)),
        yaw_deg=float(rng.uniform(-5, 5)),
        roll_deg=float(rng.normal(0, 0.7)),
    )


def _shoot(rng: np.random.Generator, view: View, seed: int) -> Shoot:
    hand = Hand.RIGHT if rng.random() < 0.6 else Hand.LEFT
    faults = {}
    if rng.random() < 0.6:
        for name in rng.choice(list(dials()), rng.integers(1, 3), replace=False):
            faults[str(name)] = float(rng.uniform(0.2, 0.6) * dials()[str(name)].limit)
    golfer = Golfer(
        float(rng.uniform(150, 198)),
        hand,
        list(Club)[rng.integers(4)],
        float(rng.uniform(0.9, 1.2)),
        float(rng.uniform(5, 35)),
        float(rng.uniform(0, 30)),
        float(rng.uniform(14, 32)),
        float(rng.uniform(24, 38)),
        build=BUILDS[list(BUILDS)[rng.integers(len(BUILDS))]],
    )
    plan = SwingPlan(
        faults,
        list(patterns())[rng.integers(len(patterns()))],
        float(rng.uniform(0.85, 1.3)),
        still_before_s=float(rng.uniform(0.4, 1.4)),
        variation=1.0,
        waggle=bool(rng.random() < 0.3),
        seed=seed,
    )
    return Shoot(golfer, plan, any_camera(rng, view, hand), float(rng.choice([60, 120, 240])))
