"""A golfer fitted to a student: proportions, set-up and camera that put the joints at address where a picture
shows them.

One least-squares fit, each quantity with its belief (body tables; how cameras are set up; common practice, no
source).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from kneel.judge.numbers import SIZED_FOR_CM, body_size
from kneel.model import Club, View, anatomical
from kneel.motion.stand import DISTANCE_SHARE, ROLL_SIGMA_DEG, YAW_SIGMA_DEG
from kneel.motion.study import Study
from kneel.sim import legs, upper
from kneel.sim.build import MAN, WOMAN, Build
from kneel.sim.camera import Camera
from kneel.sim.dials import LENGTHS
from kneel.sim.golfer import STANCE, Golfer
from kneel.sim.swing import Rows

FloatArray = NDArray[np.float64]

JOINTS = tuple(
    f"{side}_{joint}" for side in ("lead", "trail") for joint in ("hip", "knee", "ankle", "shoulder")
)
SEEN_CM = 0.8
"""How far a joint may be off where nobody knows better."""

MEAN = Build(*((a + b) / 2 for a, b in zip(vars(MAN).values(), vars(WOMAN).values(), strict=True)))

BELIEVED = {
    "thigh": 0.05,
    "shank": 0.05,
    "trunk": 0.06,
    "hips": 0.10,
    "shoulders": 0.10,
    "stance": 0.25,
    "knee_flex": 8.0,
    "bend": 10.0,
    "lead_flare": 8.0,
    "trail_flare": 8.0,
    "setup_shift": 3.0,
    "stand": 3.0,
    "lead_swivel": 6.0,
    "trail_swivel": 6.0,
    "pelvis_turn": 5.0,
    "pelvis_tilt": 4.0,
    "side_tilt": 5.0,
    "shoulder_turn": 8.0,
    "shoulder_roll": 8.0,
    "aside": 40.0,
    "above": 60.0,
    "distance": DISTANCE_SHARE,
    "camera_height": 25.0,
    "yaw": YAW_SIGMA_DEG,
    "roll": ROLL_SIGMA_DEG,
    "scale": 0.04,
}
"""What is fitted and its spread: bones and stance as shares of themselves, the rest in degrees and cm
(common practice, no source; bones after the tables that the simulator has)."""

KEPT = ("lead_flare", "trail_flare", "setup_shift", "stand", "lead_swivel", "trail_swivel", "pelvis_turn")
"""Of the set-up what lasts through the swing; the rest is the pattern's own as soon as it moves."""

ADDED = (*KEPT, "pelvis_tilt", "side_tilt", "shoulder_turn", "shoulder_roll")
"""What of the set-up is added to the pattern; how knees and trunk are bent is the golfer's own."""

FADES = np.array([1.0, 0.6, 0.2, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0])


class AddressFit:
    """Body, set-up and camera that put the joints at address where they are seen."""

    def __init__(self, study: Study, frame: int, club: Club, rows: Rows) -> None:
        self._study, self._club = study, club
        self._view, self._hand = study.setup.view, study.setup.hand
        self.px_per_cm = study.px_per_m / 100
        self._stature = body_size(study) * SIZED_FOR_CM
        size = self._stature / SIZED_FOR_CM
        self._rows = {name: row * size if name in LENGTHS else row for name, row in rows.items()}
        self._seen = np.array([study.steadied_at(name, frame) for name in JOINTS])
        sigma = [study.tracks[anatomical(name, self._hand)].sigma[frame] for name in JOINTS]
        self._sigma = np.hypot(sigma, SEEN_CM * self.px_per_cm)[:, None]
        width, height = study.setup.width_px, study.setup.height_px
        self._size = (int(width or 1280), int(height or 720))
        ankles = self._seen[[JOINTS.index("lead_ankle"), JOINTS.index("trail_ankle")]]
        self._middle = ankles.mean(axis=0)
        self._apart = float(np.linalg.norm(ankles[0] - ankles[1])) / self.px_per_cm

    def solved(self) -> tuple[Golfer, Camera, Rows]:
        """The body, the camera and the whole pattern as this golfer sets up to it."""
        found = least_squares(self._residuals, np.zeros(len(BELIEVED)), method="trf", max_nfev=25)
        own = self._own(found.x)
        golfer = self._golfer(own)
        rows = {
            name: row + own[name] * (1.0 if name in KEPT else FADES) if name in ADDED else row.copy()
            for name, row in self._rows.items()
        }
        return golfer, self._camera(own, golfer), rows

    def _own(self, x: FloatArray) -> dict[str, float]:
        return {name: float(v) * spread for (name, spread), v in zip(BELIEVED.items(), x, strict=True)}

    def _golfer(self, own: Mapping[str, float]) -> Golfer:
        bones = ("thigh", "shank", "trunk", "hips", "shoulders")
        build = replace(MEAN, **{name: getattr(MEAN, name) * float(np.exp(own[name])) for name in bones})
        usual = STANCE[self._club]
        if self._view is not View.DOWN_THE_LINE:
            usual = self._apart / self._stature
        return Golfer(
            self._stature,
            self._hand,
            self._club,
            knee_flex_deg=24.0 + own["knee_flex"],
            forward_bend_deg=30.0 + own["bend"],
            build=build,
            stance=usual * float(np.exp(own["stance"])),
        )

    def _camera(self, own: Mapping[str, float], golfer: Golfer) -> Camera:
        stand, (width, height) = self._study.stand, self._size
        distance = 100 * stand.distance_m * float(np.exp(own["distance"]))
        aside = -self._study.direction * (self._middle[0] - (width - 1) / 2) / self.px_per_cm + own["aside"]
        above = golfer.ankle_height + (self._middle[1] - (height - 1) / 2) / self.px_per_cm + own["above"]
        line = self._view is View.DOWN_THE_LINE
        return Camera(
            self._view,
            self._hand,
            width,
            height,
            distance,
            100 * stand.height_m + own["camera_height"],
            own["yaw"],
            stand.roll_deg + own["roll"],
            self.px_per_cm * distance * float(np.exp(own["scale"])),
            (0.0, aside, above) if line else (aside, 0.0, above),
            self._study.mirrored,
        )

    def _residuals(self, x: FloatArray) -> FloatArray:
        own = self._own(x)
        golfer = self._golfer(own)
        joints = _at_address(golfer, self._rows, own)
        seen, _ = self._camera(own, golfer).project(np.array([joints[name][0] for name in JOINTS]))
        return np.concatenate([((seen - self._seen) / self._sigma).ravel(), x])


def _at_address(golfer: Golfer, rows: Rows, own: Mapping[str, float]) -> dict[str, FloatArray]:
    """The joints at address, (1, 3) each."""
    c = {name: row[:1] + (own[name] if name in ADDED else 0.0) for name, row in rows.items()}
    flexes = legs.flexes(golfer, c)
    c |= {f"{side}_knee": flexes[side] for side in legs.SIDES}
    joints = legs.feet(golfer, c)
    lower, pelvis = legs.hang_pelvis(golfer, c, joints)
    body = upper.trunk(golfer, c, lower)
    for side in legs.SIDES:
        hip = lower + legs.SIGN[side] * golfer.half_hips * pelvis[:, 0]
        joints[f"{side}_knee"] = legs.knee(golfer, side, hip, joints, pelvis[:, 1], c[f"{side}_swivel"])
        joints[f"{side}_hip"] = hip
        joints[f"{side}_shoulder"] = body.shoulders[side]
    return joints
