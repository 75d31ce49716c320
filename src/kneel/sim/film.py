"""Filming a simulated swing: pictures, sound and truth."""

from __future__ import annotations

import json
import multiprocessing
import os
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.disk import safe_children, write_text
from kneel.footage import write_clip
from kneel.model import UsageError
from kneel.sim.camera import Camera
from kneel.sim.cloth import LAG_S, lag
from kneel.sim.dials import perform
from kneel.sim.figure import Pose, arms_and_club, ball_loft, body, tape_places
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance, FilmPlace, Light
from kneel.sim.paint import PaintedPart, shaded
from kneel.sim.plate import write_plate
from kneel.sim.pose import Motion
from kneel.sim.scenery import backdrop
from kneel.sim.sound import RATE, swing_sound
from kneel.sim.surface import Loft
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth, find_truth, truth_json

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

BALL_SPEED_CM_S = 5500.0
BALL_WAY = np.array([0.93, 0.0, 0.36])
FARTHEST_CM = 20000.0
WORTH_SHARING = 60
"""Fewer frames are drawn before other processes have started."""

BLUR_STEP_PX = 3.0
MOST_BLURRED = 12
"""A blurred frame is the mean of as many moments as the club moves steps, at most."""


SIMULATED = "simulated by Kneel"
"""What a made film says of itself, so that one that was really filmed is never replaced by it."""


@dataclass(frozen=True)
class Shoot:
    """All that makes a simulated clip; the same settings give the same pictures.

    ``rate`` is how often a second the camera looks, ``stored_rate`` what the
    file says (slow motion where lower). ``start_s`` is when the clip begins on
    the swing's own clock, so that two cameras can film one swing. ``noise`` is
    in levels of 255, ``quality`` the x264 rate factor, lower is better;
    ``focus_px`` is how far off focus the lens is, the standard deviation of a point's blur.
    ``bystander_cm`` is where somebody else stands at a ball of their own, toward the target and the ball.
    """

    golfer: Golfer = field(default_factory=Golfer)
    plan: SwingPlan = field(default_factory=SwingPlan)
    camera: Camera = field(default_factory=Camera)
    rate: float = 120.0
    seed: int = 1
    place: FilmPlace = FilmPlace.RANGE
    light: Light = Light.SUN
    noise: float = 2.0
    quality: int = 21
    stored_rate: float | None = None
    start_s: float = 0.0
    focus_px: float = 0.0
    bystander_cm: tuple[float, float] | None = None

    @cached_property
    def motion(self) -> Motion:
        """The swing with its faults. Raises ``UsageError`` where the body cannot do them."""
        return perform(self.golfer, self.plan)

    @property
    def times_s(self) -> FloatArray:
        """When each frame was taken, on the swing's clock (T,)."""
        if not 0 <= self.start_s < self.plan.length_s - 1 / self.rate:
            raise UsageError(
                f"A clip cannot start {self.start_s:g} s into a swing of {self.plan.length_s:.2f} s."
            )
        return np.arange(self.start_s, self.plan.length_s, 1 / self.rate)

    def truth(self) -> Truth:
        return find_truth(self.motion, self.camera, self.times_s)


class _Stage:
    """What can be filmed: the figure and the ball at any moment, every row of the picture at its own time."""

    def __init__(self, shoot: Shoot) -> None:
        self.shoot = shoot
        self.impact = shoot.motion.checkpoints_s["impact"]
        self.stands = self._backdrop(shoot.camera) if shoot.camera.held is None else None
        self.bystander = [] if shoot.bystander_cm is None else _bystander(*shoot.bystander_cm)

    def picture(self, moments_s: FloatArray) -> Picture:
        """The mean of what is seen at ``moments_s``: the body once, arms and club at each."""
        camera, light = self.shoot.camera.at(float(moments_s.mean())), self.shoot.light
        slow = self._surfaces(np.array([moments_s.mean()]), body, camera)[0] + self.bystander
        fast = self._surfaces(moments_s, arms_and_club, camera)
        every = slow + [loft for lofts in fast for loft in lofts]
        scene = self._backdrop(camera) if self.stands is None else self.stands
        ground = shaded(slow + fast[len(fast) // 2], camera, light, scene)
        canvas = PaintedPart.over(every, camera, light).add(slow)
        if len(fast) == 1:
            return canvas.add(fast[0]).onto(ground)
        total = np.zeros(ground.shape, np.uint16)
        for lofts in fast:
            total += canvas.copy().add(lofts).onto(ground.copy())
        return np.asarray((total + len(fast) // 2) // len(fast), dtype=np.uint8)

    def _backdrop(self, camera: Camera) -> Picture:
        return backdrop(camera, self.shoot.seed, self.shoot.place, self.shoot.light)

    def _surfaces(
        self, times_s: FloatArray, part: Callable[[Golfer, Pose], list[Loft]], camera: Camera
    ) -> list[list[Loft]]:
        now = self._at(times_s, part)
        if not camera.readout_s:
            return now
        late = self._at(times_s + camera.readout_s, part)
        return [
            [_rolled(a, b, camera) for a, b in zip(first, second, strict=True)]
            for first, second in zip(now, late, strict=True)
        ]

    def _at(self, times_s: FloatArray, part: Callable[[Golfer, Pose], list[Loft]]) -> list[list[Loft]]:
        motion = self.shoot.motion
        skeleton, off = motion.pose(times_s), lag(motion, times_s)
        out = []
        for index, time in enumerate(times_s.tolist()):
            lofts = part(motion.golfer, Pose.at(skeleton, index, off))
            if part is arms_and_club:
                flown = max(0.0, time - self.impact) * BALL_SPEED_CM_S
                lofts.append(ball_loft(skeleton.ball + min(flown, FARTHEST_CM) * BALL_WAY))
            out.append(lofts)
        return out


def _bystander(x: float, y: float) -> list[Loft]:
    """Another golfer in other clothes, who stands at address (x, y) cm from the one filmed."""
    motion = perform(Golfer(171.0, look=Appearance(shirt=(70, 96, 150), trousers=(60, 58, 56))), SwingPlan())
    there = np.array([x, y, 0.0])
    skeleton = motion.pose(np.zeros(1))
    moved = replace(skeleton, joints={name: xyz + there for name, xyz in skeleton.joints.items()})
    pose = Pose.at(moved, 0, lag(motion, np.zeros(1)))
    return body(motion.golfer, pose) + arms_and_club(motion.golfer, pose)


def _rolled(first: Loft, second: Loft, camera: Camera) -> Loft:
    """Rings of a loft, each at the time its row is read."""
    moved = first
    for _ in range(2):
        pixels, _ = camera.project(moved.centres)
        moved = first.moved(second, np.clip(pixels[:, 1] / (camera.height - 1), 0, 1))
    return moved


def pictures(shoot: Shoot) -> Iterator[Picture]:
    """The frames of a clip, (H, W, 3) RGB each."""
    reel = _Reel(shoot)
    return (reel.frame(index) for index in range(len(shoot.times_s)))


class _Reel:
    """Frames by their number; what stands still is drawn once."""

    def __init__(self, shoot: Shoot) -> None:
        self.stage, self.grain, self.focus_px = _Stage(shoot), _Grain(shoot), shoot.focus_px
        self.moments, self.same = _moments(shoot), _still(shoot)
        self.kept: dict[int, Picture] = {}

    def frame(self, index: int) -> Picture:
        first = self.same[index]
        clean = self.kept.get(first)
        if clean is None:
            clean = self.stage.picture(self.moments[first])
            if self.focus_px:
                clean = np.asarray(cv2.GaussianBlur(clean, (0, 0), self.focus_px), dtype=np.uint8)
            if self.same.count(first) > 1:
                self.kept[first] = clean
        return self.grain.over(clean, index)


_reel: _Reel | None = None


def _open_reel(shoot: Shoot) -> None:
    global _reel  # noqa: PLW0603 - a worker process draws one clip
    _reel = _Reel(shoot)


def _draw_frame(index: int) -> Picture:
    assert _reel is not None
    return _reel.frame(index)


def _all_pictures(shoot: Shoot) -> Iterator[Picture]:
    """All frames in order, drawn by as many processes as there are cores.

    Threads are of no use: they wait for each other's memory and make it slower.
    """
    count, cores = len(shoot.times_s), os.cpu_count() or 1
    if cores == 1 or count < WORTH_SHARING:
        yield from pictures(shoot)
        return
    shoot.motion.checkpoints_s  # noqa: B018 - found once here, not in every worker
    spawn = multiprocessing.get_context("spawn")
    with safe_children(), ProcessPoolExecutor(cores, spawn, _open_reel, (shoot,)) as pool:
        ahead: list[Future[Picture]] = []
        try:
            for index in range(count + 4 * cores):
                if index < count:
                    ahead.append(pool.submit(_draw_frame, index))
                if index >= 4 * cores:
                    yield ahead.pop(0).result()
        finally:
            for waiting in ahead:
                waiting.cancel()


def _still(shoot: Shoot) -> list[int]:
    """For each frame an earlier one that shows the very same, or itself."""
    times, knots, plan = shoot.times_s, shoot.plan.knots_s, shoot.plan
    settle = shoot.camera.readout_s + shoot.camera.exposure_s + LAG_S
    out = list(range(len(times)))
    if shoot.camera.held is not None or plan.routine is not None:
        return out
    for held in (
        np.flatnonzero(times > knots[-1] + settle),
        np.flatnonzero(times < knots[0] - settle) if not plan.waggle else np.array([], int),
    ):
        for index in held.tolist():
            out[index] = int(held[0])
    return out


def _moments(shoot: Shoot) -> list[FloatArray]:
    """For each frame the moments its exposure is made of."""
    times, exposure = shoot.times_s, shoot.camera.exposure_s
    if not exposure:
        return [times[k : k + 1] for k in range(len(times))]
    ends = [shoot.motion.pose(times + s * exposure / 2).joints["clubhead"] for s in (-1, 1)]
    before, after = (shoot.camera.at(float(times[0])).project(xyz)[0] for xyz in ends)
    moved = np.linalg.norm(after - before, axis=1)
    counts = np.clip(np.ceil(moved / BLUR_STEP_PX), 1, MOST_BLURRED).astype(int)
    return [
        time + exposure * ((np.arange(n) + 0.5) / n - 0.5)
        for time, n in zip(times.tolist(), counts, strict=True)
    ]


class _Grain:
    """Sensor noise, another piece of one large sheet in every frame."""

    def __init__(self, shoot: Shoot) -> None:
        shape = self.shape = (shoot.camera.height, shoot.camera.width)
        self.seed = shoot.seed
        rng = np.random.default_rng(shoot.seed)
        sheet = rng.normal(0, 1, (shape[0] + 64, shape[1] + 64, 1)) * shoot.noise
        self.sheet = np.repeat(sheet.round().astype(np.int16), 3, axis=2)

    def over(self, clean: Picture, index: int) -> Picture:
        dy, dx = np.random.default_rng([self.seed, index]).integers(0, 64, 2)
        noise = self.sheet[dy : dy + self.shape[0], dx : dx + self.shape[1]]
        return np.asarray(cv2.add(clean, noise, dtype=cv2.CV_8U), dtype=np.uint8)


def film(
    shoot: Shoot,
    path: str | Path,
    truth_path: str | Path | None = None,
    progress: Callable[[int, int], None] = lambda done, total: None,
    plate_path: str | Path | None = None,
    *,
    alone: bool = False,
) -> Truth:
    """Write the clip as MP4; its truth as JSON and the plate's trace as CSV where asked.

    ``alone`` draws it in this process, else as many processes do as there are cores.

    Raises ``FootageError`` or ``OSError`` where a file cannot be written, ``UsageError`` where the body
    cannot do a fault.
    """
    truth = shoot.truth()
    total = len(shoot.times_s)

    def counted() -> Iterator[Picture]:
        for number, picture in enumerate(pictures(shoot) if alone else _all_pictures(shoot), 1):
            yield picture
            progress(number, total)

    stored = shoot.stored_rate or shoot.rate
    slow = shoot.rate / stored
    strike = (truth.checkpoints_s["impact"] - shoot.start_s) * slow
    sound = swing_sound(total / stored, strike, shoot.seed)
    size = (shoot.camera.width, shoot.camera.height)
    write_clip(
        path,
        counted(),
        rate=stored,
        size=size,
        sound=(sound, RATE),
        quality=shoot.quality,
        comment=SIMULATED,
    )
    if truth_path is not None:
        content = truth_json(truth, shoot.motion, shoot.camera, shoot.rate)
        content |= {"rate_stored": stored, "start_s": shoot.start_s, "tape": _tape(shoot)}
        write_text(Path(truth_path), json.dumps(content), lasting=False)
    if plate_path is not None:
        write_plate(plate_path, truth.pressure)
    return truth


def tape_pixels(shoot: Shoot) -> dict[str, FloatArray]:
    """Where the middle of each piece of tape is in every frame, (T, 2), by lead/trail joint."""
    motion, times = shoot.motion, shoot.times_s
    skeleton, off = motion.pose(times), lag(motion, times)
    places = [tape_places(motion.golfer, Pose.at(skeleton, k, off)) for k in range(len(times))]
    return {name: shoot.camera.project_over(np.stack([p[name] for p in places]), times) for name in places[0]}


def _tape(shoot: Shoot) -> dict[str, Any] | None:
    if shoot.golfer.look.tape is None:
        return None
    return {name: np.round(xy, 3).tolist() for name, xy in tape_pixels(shoot).items()}
