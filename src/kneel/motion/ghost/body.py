"""A golfer's figure that can be moved by one part: feet planted, legs to length, the rest carried along.

Moves: where a part goes by ``by`` (T,), its own unit a frame. What a part takes along is the body's way, not
the measure's: the pelvis carries trunk and head, the trunk turns about the lower centre, a leg's bend carries
its hip. Hands stay where the arms reach, and go with the shoulders where they do not.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.body import FOREARM, HAND, LEG_SHARE_SIGMA, SHANK, THIGH, UPPER_ARM
from kneel.motion.depth import depth_of
from kneel.motion.failure import Failed
from kneel.motion.ghost.legs import Leg, lifted
from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import SIDES
from kneel.motion.places import Places
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]
ByName = dict[str, FloatArray]
Frames = NDArray[np.int64] | slice

LONGEST = 0.95
"""A bone is as long as it looks in the longest of its frames, all but this share left out."""

UPPER = ("lead_shoulder", "trail_shoulder", "head")
HANGS = ("lead_elbow", "trail_elbow", "lead_wrist", "trail_wrist", "grip", "clubhead")
LOWER = ("lead_hip", "trail_hip", "seat", "belt", "tailbone")
FEET = tuple(f"{side}_{joint}" for side in SIDES for joint in ("heel", "toe"))
LEGS = tuple(f"{side}_{joint}" for side in SIDES for joint in ("hip", "knee", "ankle"))
ARM = UPPER_ARM + FOREARM + HAND / 2


@dataclass(frozen=True)
class Moved:
    """Where a part's move brings the figure: ``places`` (T, 2) by lead/trail name, and how far the pelvis
    had to sink, (T,), infinite where a leg does not reach at all.
    """

    places: ByName
    sunk: FloatArray


@dataclass(frozen=True)
class JointedBody:
    """A golfer's points at some frames: ``own`` (T, 2) by lead/trail name, the lifted legs, arms' length."""

    view: View
    own: Mapping[str, FloatArray]
    legs: Mapping[str, Leg]
    arms: Mapping[str, FloatArray]

    def at(self, frames: Frames) -> JointedBody:
        """Some of its frames."""
        return JointedBody(
            self.view,
            {name: xy[frames] for name, xy in self.own.items()},
            {side: leg.at(frames) for side, leg in self.legs.items()},
            {side: length[frames] for side, length in self.arms.items()},
        )

    def moved(self, part: Carried, by: FloatArray) -> Moved:
        """The figure with a part moved by ``by`` (T,): units of places, or degrees where it turns."""
        places = dict(self.own)
        hips = {side: self.legs[side].hip for side in SIDES}
        swivel = dict.fromkeys(SIDES, np.zeros(len(by)))
        lower = (self.own["lead_hip"] + self.own["trail_hip"]) / 2
        carried = np.zeros((len(by), 2))
        match part:
            case Carried.PELVIS_ACROSS | Carried.PELVIS_UP:
                carried[:, 0 if part is Carried.PELVIS_ACROSS else 1] = by
                hips = {side: hip + _flat(carried) for side, hip in hips.items()}
            case Carried.TRUNK:
                for name in self._there(UPPER):
                    places[name] = lower + _turned(self.own[name] - lower, by)
            case Carried.UPPER_UP:
                # Bending or rising at the hips moves what is higher by more.
                tall = np.maximum(self.own["head"][:, 1] - lower[:, 1], 1e-9)
                for name in self._there(UPPER):
                    share = (self.own[name][:, 1] - lower[:, 1]) / tall
                    places[name] = self.own[name] + np.column_stack([np.zeros_like(by), share * by])
            case Carried.LEAD_KNEE | Carried.TRAIL_KNEE:
                swivel["lead" if part is Carried.LEAD_KNEE else "trail"] = np.radians(by)
            case Carried.LEAD_LEG | Carried.TRAIL_LEG:
                side = "lead" if part is Carried.LEAD_LEG else "trail"
                leg = self.legs[side]
                way = (leg.ankle - leg.hip) / np.linalg.norm(leg.ankle - leg.hip, axis=1, keepdims=True)
                hips[side] = leg.hip + by[:, None] * way
                carried = (by[:, None] * way)[:, :2] / 2
        sunk = np.maximum(*(self.legs[side].sinks(hips[side]) for side in SIDES))
        down = np.where(np.isfinite(sunk), sunk, 0.0)
        carried = carried - np.column_stack([np.zeros_like(down), down])
        for side in SIDES:
            hip = hips[side] - _flat(np.column_stack([np.zeros_like(down), down]))
            places[f"{side}_hip"] = hip[:, :2]
            places[f"{side}_knee"] = self.legs[side].bent(hip, swivel[side])[:, :2]
        for name in self._there((*LOWER[2:], *UPPER)):
            places[name] = places[name] + carried
        self._hang(places)
        return Moved(places, sunk)

    def _there(self, names: tuple[str, ...]) -> list[str]:
        return [name for name in names if name in self.own]

    def _hang(self, places: ByName) -> None:
        """Hands stay, or are drawn along as far as the arms are short of them; elbows go half with each."""
        own = self.own
        if "grip" not in own or any(f"{side}_shoulder" not in own for side in SIDES):
            return
        pulled = np.zeros_like(own["grip"])
        for side in (*SIDES, *SIDES):
            reach = places[f"{side}_shoulder"] - own["grip"] - pulled
            far = np.maximum(np.linalg.norm(reach, axis=1), 1e-9)
            short = np.maximum(far - self.arms[side], 0.0) / far
            pulled = pulled + short[:, None] * reach
        for name in self._there(HANGS):
            if name.endswith("elbow"):
                shoulder = f"{name.partition('_')[0]}_shoulder"
                places[name] = own[name] + (pulled + places[shoulder] - own[shoulder]) / 2
            else:
                places[name] = own[name] + pulled


def jointed(study: Study, stature: float | None = None) -> JointedBody | Failed:
    """The figure of a swing, all frames; ``stature`` in the scale's unit where it is known.

    >>> from kneel.motion.example import example
    >>> sorted(jointed(example()).own)[:3]
    ['grip', 'head', 'lead_ankle']
    """
    places = study.places
    if isinstance(places, Failed):
        return places
    lacking = [name for name in LEGS if places.track(name) is None]
    if lacking:
        words = " and ".join(name.replace("_", " ") for name in lacking[:2])
        return Failed(f"The figure needs the {words}, neither seen nor marked here.", "points")
    own = {
        name: np.asarray(places.xy[name])
        for name in (*LEGS, *FEET, *LOWER, *UPPER, *HANGS)
        if places.track(name) is not None
    }
    legs = {}
    for side in SIDES:
        hip, knee, ankle = (own[f"{side}_{joint}"] for joint in ("hip", "knee", "ankle"))
        thigh, shank = (_bone(study, places, side, of, stature) for of in BONES)
        legs[side] = lifted(hip, knee, ankle, thigh, shank, study.setup.view, study.times_s)
    arms = {}
    for side in SIDES:
        shoulder, grip = own.get(f"{side}_shoulder"), own.get("grip")
        if shoulder is not None and grip is not None:
            arm = 0.0 if stature is None else ARM * stature
            arms[side] = np.maximum(np.linalg.norm(shoulder - grip, axis=1), arm)
    return JointedBody(study.setup.view, own, legs, arms)


BONES = {"thigh": ("hip", "knee", THIGH), "shank": ("knee", "ankle", SHANK)}


def _bone(study: Study, places: Places, side: str, bone: str, stature: float | None) -> float:
    """A bone's length as the picture shows it where it hangs.

    Two witnesses by their variances: how long it looks at address, with the depth that it usually spans
    there, and what a body of that stature has; and no less than it ever looks.
    """
    upper, lower, share = BONES[bone]
    seen = np.linalg.norm(places.xy[f"{side}_{upper}"] - places.xy[f"{side}_{lower}"], axis=1)
    near = [depth_of(f"{side}_{joint}", study.setup.view) for joint in (upper, lower)]
    per_m = study.px_per_m * places.scale.per_px
    deep = (near[0].usual - near[1].usual) * per_m
    spread = float(np.hypot(near[0].spread, near[1].spread)) * per_m
    length = float(np.hypot(seen[places.address_frame], deep))
    if stature is not None:
        grown = 1.0 + (near[0].usual + near[1].usual) / 2 / study.stand.distance_m
        told = share * stature * grown
        weights = np.array([max(abs(deep) * spread / length, 0.01 * length), LEG_SHARE_SIGMA * told]) ** -2
        length = float(np.average([length, told], weights=weights))
    return max(float(np.quantile(seen, LONGEST)), length)


def _flat(moved: FloatArray) -> FloatArray:
    """A move in the picture's plane (T, 2) as one in space (T, 3)."""
    return np.column_stack([moved, np.zeros(len(moved))])


def _turned(vector: FloatArray, degrees: FloatArray) -> FloatArray:
    """Vectors (T, 2) turned counter-clockwise by degrees (T,)."""
    angle = np.radians(degrees)
    cos, sin = np.cos(angle), np.sin(angle)
    return np.column_stack([cos * vector[:, 0] - sin * vector[:, 1], sin * vector[:, 0] + cos * vector[:, 1]])
