"""Making the demo of the Saltmarsh Links academy: invented students, simulated clips, marks by hand.

``academy.toml`` says who they are and how each swung at each lesson. The
clips ship ready-made beside this module, so that the first start is quick;
``python -m kneel.demo`` makes them anew. The marks are the true joints with
the scatter of a careful hand, on the frames an instructor would mark.
"""

from __future__ import annotations

import sys
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

import msgspec
import numpy as np

from kneel.documents.swing_file import SUFFIX, save_swing
from kneel.footage.content import content_of
from kneel.model import Ball, ClipRef, Club, Hand, Mark, Stature, Swing, View
from kneel.model.take import MARK_SIGMA_PX
from kneel.sim.build import BUILDS, Physique
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance, FilmPlace, Light
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth

MARKED_AT = ("address", "half_back", "top", "half_down", "impact", "finish")
MARKED = (
    *(f"{side}_{joint}" for joint in ("hip", "knee", "ankle", "shoulder") for side in ("left", "right")),
    "grip",
    "head",
)

ROLES = {View.FACE_ON: "", View.DOWN_THE_LINE: "-line"}
"""What a clip's name ends with by its view."""

RATES = {View.FACE_ON: 120.0, View.DOWN_THE_LINE: 60.0}
STARTS_S = {View.FACE_ON: 0.0, View.DOWN_THE_LINE: 0.15}
"""The second camera is another one: it starts later and looks less often."""


class DemoLesson(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One coming of a student: the day, the club, the faults of the swing that was filmed, what was said."""

    date: str
    club: Club
    faults: dict[str, float]
    said: str
    struck: dict[View, str] = {}
    """What the ball of each clip did, where it was noted."""


class DemoStudent(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Who it is, what hurts, what the ball does, and every lesson so far."""

    name: str
    born: int
    hand: Hand
    stature_cm: float
    girth: float
    school: str
    complaint: str
    ball_flight: str
    look: Appearance
    lesson: list[DemoLesson]
    goals: str = ""
    flags: tuple[str, ...] = ()
    build: Physique = Physique.MAN
    tempo: float = 1.0
    place: FilmPlace = FilmPlace.RANGE
    light: Light = Light.SUN

    @property
    def key(self) -> str:
        return self.name.lower().replace(" ", "-")


@dataclass(frozen=True)
class DemoTake:
    """One clip of the demo: whose, on which day, and how it is filmed."""

    student: DemoStudent
    day: str
    file: str
    shoot: Shoot
    struck: str = ""


def students() -> list[DemoStudent]:
    """The students of the academy."""
    raw = tomllib.loads((files("kneel.demo") / "academy.toml").read_text(encoding="utf-8"))
    return msgspec.convert(raw["student"], list[DemoStudent])


def takes() -> Iterator[DemoTake]:
    """Every clip of every lesson."""
    for number, student in enumerate(students()):
        for lesson in student.lesson:
            golfer = Golfer(
                student.stature_cm,
                student.hand,
                lesson.club,
                student.girth,
                look=student.look,
                build=BUILDS[student.build].drawn(np.random.default_rng(number)),
            )
            seed = 100 * number + int(lesson.date[5:7])
            plan = SwingPlan(lesson.faults, student.school, student.tempo, variation=0.5, seed=seed)
            for view, ending in ROLES.items():
                camera = Camera(
                    view,
                    student.hand,
                    distance_cm=430.0 if view is View.DOWN_THE_LINE else 420.0,
                    yaw_deg=(number % 4 - 1.5) if view is View.FACE_ON else 0.5,
                    exposure_s=0.0015,
                )
                shoot = Shoot(
                    golfer,
                    plan,
                    camera,
                    RATES[view],
                    seed,
                    student.place,
                    student.light,
                    quality=23,
                    start_s=STARTS_S[view],
                )
                file = f"{student.key}-{lesson.club}{ending}"
                yield DemoTake(student, lesson.date, file, shoot, lesson.struck.get(view, ""))


def build(folder: Path) -> None:
    """Film all lessons anew into ``folder``, a folder a day, with their documents."""
    for take in takes():
        day = folder / take.day
        day.mkdir(parents=True, exist_ok=True)
        clip = day / f"{take.file}.mp4"
        truth = film(take.shoot, clip)
        save_swing(day / f"{take.file}{SUFFIX}", _document(take, clip, truth))
        print(f"filmed {take.day}/{clip.name}, {clip.stat().st_size // 1024} kB", file=sys.stderr)


def filmed_ref(clip: Path, shoot: Shoot) -> ClipRef:
    """What a document says of a clip that was filmed."""
    camera = shoot.camera
    frames, size = len(shoot.times_s), clip.stat().st_size
    return ClipRef(str(clip), frames, camera.width, camera.height, shoot.rate, size, content_of(clip))


def marked(truth: Truth, shoot: Shoot) -> tuple[Mark, ...]:
    """The marks of a careful hand on the frames that an instructor would mark."""
    rng = np.random.default_rng(shoot.seed)
    marks = []
    for name in MARKED_AT:
        frame = round((truth.checkpoints_s[name] - shoot.start_s) * shoot.rate)
        for point in MARKED:
            x, y = truth.pixels[point][frame] + rng.normal(0, MARK_SIGMA_PX, 2)
            if 0 <= x < shoot.camera.width and 0 <= y < shoot.camera.height:
                marks.append(Mark(point, frame, round(float(x), 2), round(float(y), 2)))
    return tuple(sorted(marks, key=lambda m: (m.point, m.frame)))


def _document(take: DemoTake, clip: Path, truth: Truth) -> Swing:
    shoot = take.shoot
    return Swing().given(
        id=f"{take.day}-{take.file}",
        clip=filmed_ref(clip, shoot),
        golfer=take.student.name,
        view=shoot.camera.view,
        hand=shoot.golfer.hand,
        club=shoot.golfer.club,
        school=take.student.school,
        scale=Stature(shoot.golfer.stature_cm),
        marks=marked(truth, shoot),
        guessed=("view",),
        complaint=take.student.complaint,
        flight=take.student.ball_flight,
        ball=Ball(strike=take.struck) if take.struck else None,
    )
