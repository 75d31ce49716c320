"""Making the demo lesson of the Saltmarsh Links academy: invented students, simulated clips, marks by hand.

The clips ship ready-made beside this module, so that the first start is
quick; ``python -m kneel.demo`` makes them anew. The marks are the true
joints with the scatter of a careful hand, on the frames an instructor would
mark.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from kneel.book.swing_file import SUFFIX, save_swing
from kneel.demo.place import FIRST
from kneel.model import ClipRef, Club, Hand, Mark, Stature, Swing
from kneel.model.swing import MARK_SIGMA_PX
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.look import Look
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth

MARKED_AT = ("address", "half_back", "top", "half_down", "impact", "finish")
MARKED = (
    *(f"{side}_{joint}" for joint in ("hip", "knee", "ankle", "shoulder") for side in ("left", "right")),
    "grip",
    "head",
)


@dataclass(frozen=True)
class Student:
    """One clip of one student."""

    name: str
    file: str
    shoot: Shoot


def students() -> tuple[Student, ...]:
    """The students of the demo lesson."""
    maren = Golfer(168.0, Hand.RIGHT, Club.IRON)
    idris = Golfer(
        184.0,
        Hand.LEFT,
        Club.IRON,
        girth=1.12,
        look=Look(shirt=(176, 120, 96), trousers=(68, 74, 78), hair=(34, 30, 30), skin=(150, 108, 82)),
    )
    return (
        Student(
            "Maren Tolhurst",
            FIRST,
            Shoot(maren, SwingPlan({"sway": 7.0}), Camera(hand=Hand.RIGHT, yaw_deg=2.0), seed=11),
        ),
        Student(
            "Idris Vale",
            "idris-vale-iron",
            Shoot(idris, SwingPlan(tempo=1.05), Camera(hand=Hand.LEFT, yaw_deg=-1.0), seed=12),
        ),
    )


def build(folder: Path) -> None:
    """Film all students anew into ``folder``, with their documents."""
    folder.mkdir(parents=True, exist_ok=True)
    for student in students():
        clip = folder / f"{student.file}.mp4"
        truth = film(student.shoot, clip)
        save_swing(folder / f"{student.file}{SUFFIX}", _document(student, clip, truth))
        print(f"filmed {clip.name}, {clip.stat().st_size // 1024} kB", file=sys.stderr)


def _document(student: Student, clip: Path, truth: Truth) -> Swing:
    shoot = student.shoot
    rng = np.random.default_rng(shoot.seed)
    marks = []
    for name in MARKED_AT:
        frame = round(truth.checkpoints_s[name] * shoot.rate)
        for point in MARKED:
            x, y = truth.pixels[point][frame] + rng.normal(0, MARK_SIGMA_PX, 2)
            marks.append(Mark(point, frame, round(float(x), 2), round(float(y), 2)))
    reference = ClipRef(
        str(clip),
        len(shoot.times_s),
        shoot.camera.width,
        shoot.camera.height,
        shoot.rate,
        clip.stat().st_size,
    )
    return Swing(
        clip=reference,
        golfer=student.name,
        hand=shoot.golfer.hand,
        club=shoot.golfer.club,
        scale=Stature(shoot.golfer.stature_cm),
        marks=tuple(sorted(marks, key=lambda m: (m.point, m.frame))),
        guessed=("view",),
        frame=round(truth.checkpoints_s["top"] * shoot.rate),
    )
