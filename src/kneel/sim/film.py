"""Filming a simulated swing: pictures, sound and truth."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.footage import write_clip
from kneel.sim.camera import Camera
from kneel.sim.golfer import Golfer
from kneel.sim.mesh import Faces, ball_faces, figure
from kneel.sim.paint import draw
from kneel.sim.pose import pose
from kneel.sim.scenery import backdrop
from kneel.sim.sound import RATE, swing_sound
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth, find_truth, truth_json

Picture = NDArray[np.uint8]

NOISE_LEVELS = 2.0
BALL_SPEED_CM_S = 5500.0


@dataclass(frozen=True)
class Shoot:
    """All that makes a simulated clip; the same settings give the same pictures."""

    golfer: Golfer = field(default_factory=Golfer)
    plan: SwingPlan = field(default_factory=SwingPlan)
    camera: Camera = field(default_factory=Camera)
    rate: float = 120.0
    seed: int = 1

    @property
    def times_s(self) -> NDArray[np.float64]:
        return np.arange(0.0, self.plan.length_s, 1 / self.rate)

    def truth(self) -> Truth:
        return find_truth(self.golfer, self.plan, self.camera, self.times_s)


def pictures(shoot: Shoot) -> Iterator[Picture]:
    """The frames of a clip, (H, W, 3) RGB each."""
    scene = backdrop(shoot.camera, shoot.seed)
    rng = np.random.default_rng(shoot.seed)
    tall, wide = scene.shape[0] + 64, scene.shape[1] + 64
    grain = np.repeat(rng.normal(0, NOISE_LEVELS, (tall, wide, 1)).round().astype(np.int16), 3, axis=2)
    skeleton = pose(shoot.golfer, shoot.plan, shoot.times_s)
    impact = shoot.truth().checkpoints_s["impact"]
    for index, time in enumerate(shoot.times_s.tolist()):
        flown = max(0.0, time - impact) * BALL_SPEED_CM_S * np.array([0.93, 0.0, 0.36])
        faces = figure(shoot.golfer, skeleton, index)
        if flown[0] < 1500:
            faces = _joined(faces, ball_faces(skeleton.ball + flown))
        clean = draw(faces, shoot.camera, scene)
        dy, dx = rng.integers(0, 64, 2)
        noise = grain[dy : dy + scene.shape[0], dx : dx + scene.shape[1]]
        yield np.asarray(cv2.add(clean, noise, dtype=cv2.CV_8U), dtype=np.uint8)


def film(
    shoot: Shoot,
    path: str | Path,
    truth_path: str | Path | None = None,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> Truth:
    """Write the clip as MP4, and its truth as JSON where asked. Raises ``FootageError``."""
    truth = shoot.truth()
    total = len(shoot.times_s)

    def counted() -> Iterator[Picture]:
        for number, picture in enumerate(pictures(shoot), 1):
            yield picture
            progress(number, total)

    sound = swing_sound(shoot.plan.length_s, truth.checkpoints_s["impact"], shoot.seed)
    size = (shoot.camera.width, shoot.camera.height)
    write_clip(path, counted(), rate=shoot.rate, size=size, sound=(sound, RATE))
    if truth_path is not None:
        content = truth_json(truth, shoot.golfer, shoot.plan, shoot.camera, shoot.rate)
        Path(truth_path).write_text(json.dumps(content), encoding="utf-8")
    return truth


def _joined(a: Faces, b: Faces) -> Faces:
    return Faces(
        np.concatenate([a.corners, b.corners]),
        np.concatenate([a.normals, b.normals]),
        np.concatenate([a.colours, b.colours]),
    )
