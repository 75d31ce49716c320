"""All measures of one swing, a move of a drag, and the command line as a whole process."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from scipy.linalg import solveh_banded

from benchmarks.measure import Row, median_ms
from kneel.documents.points_csv import write_points
from kneel.model import Links, Mark, PointRows, Stature, View
from kneel.motion.analysis import analyse
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.study import Study
from kneel.motion.track import PointData
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth

FRAMES, LANES = 600, ("pelvis_shift", "trail_hip_cross", "side_tilt", "lead_knee_flex")


def rows() -> list[Row]:
    """The study's rows."""
    truth = truth_of_bench(rate=240.0)
    bands = np.vstack([np.full(FRAMES, 9.0), np.full(FRAMES, -3.0), np.full(FRAMES, 0.5)])
    right = np.random.default_rng(0).normal(0, 1, (40, FRAMES))

    def loop() -> None:
        for row in right:
            solveh_banded(bands, row, lower=True)

    loop_ms = median_ms(loop)
    whole = _pointed(truth)
    drag = _marked(truth)
    count = len(truth.times_s)
    with tempfile.TemporaryDirectory() as folder:
        path = _written(truth, Path(folder) / "points.csv")
        kneel = [sys.executable, "-m", "kneel", "analyze", str(path), "--stature", "176", "--json", "-"]
        plain = [sys.executable, "-c", "import numpy, scipy.linalg"]
        ours, theirs = (median_ms(lambda c=command: _run(c), 5) for command in (kneel, plain))
    reference = "a loop of 40 `solveh_banded`"
    return [
        Row(
            f"a study, {count} frames: all {len(REGISTRY)} measures", median_ms(whole), reference, loop_ms, ""
        ),
        Row(
            "one move of a drag: track, four lanes, a value",
            median_ms(drag, 25),
            reference,
            loop_ms,
            "< 10 ms",
        ),
        Row("`kneel analyze` on it, JSON", ours, "`import numpy, scipy.linalg`", theirs, "≤ 1.8 ×"),
    ]


def truth_of_bench(*, rate: float) -> Truth:
    """A usual golfer who sways by 4 cm."""
    return Shoot(Golfer(), SwingPlan({"sway": 4.0}), rate=rate).truth()


def _run(command: list[str]) -> None:
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)


def _noisy(truth: Truth) -> dict[str, np.ndarray]:
    rng = np.random.default_rng(1)
    return {name: xy + rng.normal(0, 1.2, xy.shape) for name, xy in truth.pixels.items()}


def _written(truth: Truth, path: Path) -> Path:
    rows = [
        (frame, float(time), name, float(xy[frame, 0]), float(xy[frame, 1]), 1.2)
        for name, xy in _noisy(truth).items()
        for frame, time in enumerate(truth.times_s)
        if np.isfinite(xy[frame, 0])
    ]
    write_points(path, rows)
    return path


def _pointed(truth: Truth) -> Callable[[], None]:
    """Solve, and tell every measure at every frame, at every checkpoint, and of the whole swing."""
    xy, count = _noisy(truth), len(truth.times_s)
    sigma = {name: np.full(count, 1.2) for name in xy}
    points = from_rows(PointRows(np.arange(count), truth.times_s, xy, sigma))

    def whole() -> None:
        study = analyse(truth.times_s, points, Setup(View.FACE_ON, scale=Stature(176.0)))
        for key, entry in REGISTRY.items():
            if entry.domain is Domain.ONCE:
                study.once(key)
            else:
                study.measure(key)
                for name in study.checkpoints:
                    study.at(key, name)

    return whole


def marked_points(truth: Truth) -> tuple[list[Mark], Callable[[Sequence[Mark]], dict[str, PointData]]]:
    """Marks every 60 frames, and what the solver takes of some marks with what was followed between."""
    rng, count = np.random.default_rng(2), len(truth.times_s)
    marks = [
        Mark(name, frame, *(xy[frame] + rng.normal(0, 1, 2)).tolist())
        for name, xy in truth.pixels.items()
        for frame in range(0, count, 60 if count > 400 else 30)
        if np.isfinite(xy[frame, 0])
    ]
    links = {
        name: (Links(np.diff(xy, axis=0) + rng.normal(0, 0.3, (count - 1, 2)), np.full(count - 1, 0.4)),)
        for name, xy in truth.pixels.items()
    }
    return marks, lambda some: from_marks(some, count, links, height_px=720)


def _marked(truth: Truth) -> Callable[[], None]:
    """A hip under the hand, in a swing with a mark every 60 frames."""
    marks, points = marked_points(truth)
    study: Study = analyse(truth.times_s, points(marks), Setup(View.FACE_ON, scale=Stature(176.0)))
    old = next(m for m in marks if m.point == "left_hip" and m.frame == 300)
    step = [0.0]

    def move() -> None:
        step[0] += 0.1
        moved = study.dragged(Mark("left_hip", 300, old.x + step[0] % 5, old.y), old)
        assert moved is not None
        for key in LANES:
            moved.measure(key)
        moved.at("pelvis_shift", "top")

    return move


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
