"""A body about its swing: how it is bent at each moment of a routine, where it stands, where its feet do."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from kneel.sim.golfer import Golfer
from kneel.sim.legs import SIDES, SIT_BACK
from kneel.sim.routine import BACK_CM, LEAVES_STRIDES, SIDLE_S, STRIDE_CM, STRIDE_S, TURNS_S, Act, Routine
from kneel.sim.swing import SwingPlan, smooth

FloatArray = NDArray[np.float64]
Rows = dict[str, FloatArray]

STANDS: Final = {"forward_bend": -22.0, "plane": -14.0, "lead_knee": -12.0, "trail_knee": -12.0}
"""How somebody who stands differs from somebody at the ball, degrees."""

WALKS_RAD = -np.pi / 2
"""A walk goes toward the target; standing at the ball the body faces it."""

LOOKS_DEG = 60.0
LIFT_CM = 8.0


class About:
    """A routine as curves: quantities at rest at each act's ends, and the ground the body covers.

    ``rows`` are the swing's quantities at its nine knots, knees included.
    """

    def __init__(self, golfer: Golfer, plan: SwingPlan, routine: Routine, rows: Rows) -> None:
        self.names, self.routine = list(rows), routine
        self.starts_s, ends_s = float(plan.knots_s[0]), float(plan.knots_s[-1])
        self.leaves_s = ends_s + plan.still_after_s
        self._acts = routine.acts(ends_s - self.starts_s)
        self._leaving = routine.leaves_acts(self.leaves_s)
        every = np.stack(list(rows.values()), axis=1)
        self._address, self._finish = every[0], every[-1]
        self._standing = every[0].copy()
        for name, added in STANDS.items():
            self._standing[self.names.index(name)] += added
        self._standing[self.names.index("stand")] += SIT_BACK * golfer.stature_cm
        if routine.rehearsal:
            start = next(a.start_s for a in self._acts if a.name == "rehearsal")
            clock = start + routine.rehearsal_times * (plan.knots_s - self.starts_s)
            self._practice = smooth(clock, every[0] + routine.rehearsal * (every - every[0]))
        self._ground = self._walked()
        self._feet = {side: self._steps(side) for side in SIDES}

    def bent(self, times_s: FloatArray) -> tuple[NDArray[np.bool_], FloatArray]:
        """Where the routine says how the body is bent (T,), and how, (N, Q) in the rows' order."""
        own = (times_s < self._acts[-1].end_s) | (times_s > self.leaves_s)
        told = [self._before(t) if t < self.starts_s else self._after(t) for t in times_s[own].tolist()]
        return own, np.array(told).reshape(-1, len(self.names))

    def _before(self, time: float) -> FloatArray:
        act = next(a for a in self._acts if time < a.end_s)
        share = max(_share(act, time), 0.0)
        if act.name in ("walk", "turn"):
            return self._standing
        if act.name == "gather":
            return _between(self._standing, self._address, share)
        if act.name == "rehearsal":
            return np.asarray(self._practice(max(time, act.start_s)))
        if act.name in ("hold", "recover"):
            finish = np.asarray(self._practice(self._practice.x[-1]))
            return finish if act.name == "hold" else _between(finish, self._address, share)
        row = self._address.copy()
        if act.name == "look":
            row[self.names.index("head_turn")] += LOOKS_DEG * np.sin(np.pi * share) ** 2
        return row

    def _after(self, time: float) -> FloatArray:
        if not self._leaving:
            return self._finish
        return _between(self._finish, self._standing, min(_share(self._leaving[0], time), 1.0))

    def _walked(self) -> PchipInterpolator:
        """Where the body is and how far it is turned round, cm and radians, told at a few moments."""
        back = -BACK_CM if self.routine.rehearsal else 0.0
        far, way = (-self.routine.walk_cm, WALKS_RAD) if self.routine.strides else (0.0, 0.0)
        keys = [(-1.0, far, back, way)]
        for act in (*self._acts, *self._leaving):
            _, x, y, way = keys[-1]
            leaving = act.start_s >= self.leaves_s
            far, turned = (LEAVES_STRIDES * STRIDE_CM, WALKS_RAD) if leaving else (0.0, 0.0)
            ends = {"walk": (far, y, way), "turn": (x, y, turned), "sidle": (x, 0.0, way)}
            keys += [(act.start_s, x, y, way), (act.end_s, *ends.get(act.name, (x, y, way)))]
        keys += [(keys[-1][0] + 1.0, *keys[-1][1:])]
        table = np.array(keys)
        table = table[np.concatenate([[True], np.diff(table[:, 0]) > 1e-9])]
        return PchipInterpolator(table[:, 0], table[:, 1:])

    def _steps(self, side: str) -> list[tuple[float, float]]:
        """When this foot is in the air, from and to, s."""
        first, out = SIDES.index(side), []
        for act in (*self._acts, *self._leaving):
            lasts = {"walk": STRIDE_S, "turn": TURNS_S / 2, "sidle": SIDLE_S}.get(act.name)
            for number in range(first, round((act.end_s - act.start_s) / lasts) if lasts else 0, 2):
                start = act.start_s + number * (lasts or 0.0)
                out.append((start, start + (lasts or 0.0)))
        return out

    def ground(self, times_s: FloatArray) -> FloatArray:
        """Where the body is and how far it is turned round, (T, 3) cm, cm, radians."""
        return np.asarray(self._ground(np.clip(times_s, self._ground.x[0], self._ground.x[-1])))

    def stepped(self, joints: dict[str, FloatArray], times_s: FloatArray) -> dict[str, FloatArray]:
        """Feet where they were put, as the body sees them; ``joints`` are those of one that stays."""
        body, out = self.ground(times_s), {}
        for side in SIDES:
            foot, lift = self._foot(side, times_s)
            for name in ("ankle", "heel", "toe"):
                there = _turned(joints[f"{side}_{name}"], foot[:, 2]) + _flat(foot[:, :2])
                here = _turned(there - _flat(body[:, :2]), -body[:, 2])
                out[f"{side}_{name}"] = here + lift[:, None] * np.array([0.0, 0.0, 1.0])
        return joints | out

    def _foot(self, side: str, times_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Where a foot's own ground is, (T, 3), and how high it is lifted, (T,) cm."""
        steps = self._feet[side]
        lifts = np.array([a for a, _ in steps] + [np.inf])
        plants = np.array([-np.inf] + [b for _, b in steps])
        # Through a support it stands where the body is half way; through the swing where the swing is.
        middles = np.where(np.isinf(plants), lifts - 0.1, (plants + lifts) / 2)
        middles = np.where(np.isinf(lifts), plants + 0.1, middles)
        middles[(plants <= self.starts_s) & (lifts > self.starts_s)] = self.starts_s
        stands = self.ground(middles)
        which = np.searchsorted(lifts, times_s, side="right")
        here, lift = stands[which], np.zeros(len(times_s))
        for k, (lifted, planted) in enumerate(steps):
            flying = (times_s >= lifted) & (times_s < planted)
            share = (times_s[flying] - lifted) / (planted - lifted)
            here[flying] = _between(stands[k], stands[k + 1], share[:, None])
            lift[flying] = LIFT_CM * np.sin(np.pi * share) ** 2
        return here, lift

    def placed(self, places: FloatArray, times_s: FloatArray) -> FloatArray:
        """Places of the body, (T, 3), where it is on the ground."""
        body = self.ground(times_s)
        return _turned(places, body[:, 2]) + _flat(body[:, :2])

    def turned(self, frames: FloatArray, times_s: FloatArray) -> FloatArray:
        """Frames of the body, (T, 3, 3), turned round with it."""
        way = self.ground(times_s)[:, 2]
        return np.stack([_turned(frames[:, k], way) for k in range(3)], axis=1)


def _share(act: Act, time: float) -> float:
    return (time - act.start_s) / (act.end_s - act.start_s)


def _between(a: FloatArray, b: FloatArray, share: float | FloatArray) -> FloatArray:
    """From rest to rest (a quintic)."""
    return a + (b - a) * share**3 * (10 - 15 * share + 6 * share**2)


def _flat(xy: FloatArray) -> FloatArray:
    return np.column_stack([xy, np.zeros(len(xy))])


def _turned(places: FloatArray, way: FloatArray) -> FloatArray:
    """Turned about the vertical by radians, + from the target toward the ball's side."""
    c, s = np.cos(way), np.sin(way)
    x, y, z = places.T
    return np.stack([c * x - s * y, s * x + c * y, z], axis=1)
