"""Swings of many kinds, and all numbers of each: what ``tests/data/numbers.json`` records.

``python -m tests.numbers`` writes the record anew. Do so only after looking at what changed and why.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from kneel.model import (
    CameraPath,
    Hand,
    KnownLength,
    Links,
    Mark,
    NoScale,
    PointRows,
    Sighting,
    Stature,
    TypedScale,
    View,
)
from kneel.motion.advice import next_mark
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints import Moment
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.scale import Scale
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.study import Study
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan
from kneel.vision import closed, legs

RECORD = Path(__file__).parent / "data" / "numbers.json"
SIZE = {"width_px": 1280.0, "height_px": 720.0}


def rows_of(seed=0, *, noise=1.0, sigma=None, rate=120.0, view=View.FACE_ON, hand=Hand.RIGHT, **plan):
    """Points of a simulated swing as a camera sees them, with noise."""
    shoot = Shoot(Golfer(171.0, hand), SwingPlan(**plan), Camera(view, hand, yaw_deg=2.0), rate)
    truth, rng = shoot.truth(), np.random.default_rng(seed)
    xy = {n: p + rng.normal(0, noise, p.shape) for n, p in truth.pixels.items()}
    error = {n: np.full(len(shoot.times_s), np.nan if sigma is None else sigma) for n in xy}
    return PointRows(np.arange(len(shoot.times_s)), shoot.times_s, xy, error), truth


def without(rows, *gone, start=0, end=None):
    part = slice(start, end)
    keep = [n for n in rows.xy if n not in gone]
    return PointRows(
        rows.frames[part],
        rows.times_s[part],
        {n: rows.xy[n][part].copy() for n in keep},
        {n: rows.sigma[n][part].copy() for n in keep},
    )


def of_rows(rows, **setup) -> Study:
    return analyse(rows.times_s, from_rows(rows), Setup(**({"scale": Stature(171.0)} | SIZE | setup)))


def looked(seed=5, *, marked=(), camera=None, lost=(), lone=None) -> Study:
    """Sightings that lie off, wander with the pose and scatter; flow there and back, some wrong; marks.

    With ``lone``, a point that is marked at half down, hips and shoulders are seen by one look.
    """
    rows, truth = rows_of(noise=0.0, rate=60.0, faults={"sway": 6.0})
    rng, count = np.random.default_rng(seed), len(rows)
    clock = np.cumsum(0.02 + 0.3 * np.exp(-((rows.times_s - 1.3) ** 2) / 0.05))
    marks, seen, followed = [], {}, {}
    for name, path in truth.pixels.items():
        if name == "ball":
            seen[name] = (Sighting(path.copy(), np.full(count, 1.0)),)
            continue
        off = rng.normal(0, 6, 2) + 3 * np.sin(clock + rng.uniform(0, 6))[:, None]
        xy = path + off + rng.normal(0, 1.5, path.shape)
        if name in lost:
            xy[30:70] = np.nan
        sigma = np.where(np.arange(count) % 40 < 6, 5.0, 1.5)
        look = Sighting(xy, sigma, offset=8.0, wander=4.0, wander_s=1.0, clock=clock)
        if lone is not None and name.endswith(("hip", "shoulder")):
            worse = 1 + 3 * np.exp(-((rows.times_s - 1.5) ** 2) / 0.05)
            look = replace(look, doubt=worse, doubt_together=np.sqrt(worse))
        seen[name] = (look,)
        for checkpoint in marked:
            frame = round(truth.checkpoints_s[checkpoint] * 60)
            marks.append(Mark(name, frame, *(path[frame] + rng.normal(0, 1.5, 2)).tolist()))
    if lone is not None:
        frame = round(truth.checkpoints_s["half_down"] * 60)
        marks.append(Mark(lone, frame, *truth.pixels[lone][frame].tolist()))
    for leg in legs(marks, count):
        step = np.diff(truth.pixels[leg.point], axis=0)
        step = step + rng.normal(0, 0.4, step.shape) + (0.8 if leg.point == "left_hip" else 0.0)
        inside = np.zeros(count - 1, dtype=bool)
        inside[min(leg.first, leg.last) : max(leg.first, leg.last)] = True
        inside &= rng.random(count - 1) > 0.05
        followed[leg] = Links(np.where(inside[:, None], step, np.nan), np.where(inside, 0.5, np.nan))
    points = from_marks(marks, count, closed(followed, marks), height_px=720, sightings=seen)
    setup = Setup(scale=Stature(171.0, 4.0), strikes=(Moment(1.62, 0.001),), **SIZE)
    return analyse(rows.times_s, points, setup, camera)


def a_moving_camera(count=150) -> CameraPath:
    turn, t = 0.004 * np.sin(np.arange(count) / 20), np.arange(count)
    maps = np.zeros((count, 2, 3))
    maps[:, 0, 0] = maps[:, 1, 1] = np.cos(turn)
    maps[:, 0, 1], maps[:, 1, 0] = -np.sin(turn), np.sin(turn)
    maps[:, 0, 2], maps[:, 1, 2] = 6 * np.sin(t / 30), 2 * np.cos(t / 25) - 2
    return CameraPath(maps, 0.5 + 0.01 * t)


def slowed():
    rows, _ = rows_of(rate=240.0)
    return PointRows(rows.frames, rows.times_s * 8, rows.xy, rows.sigma)


def crossed_legs():
    """A knee taken for the other one for a while: limbs that are too long."""
    rows, _ = rows_of(noise=0.5, sigma=1.0)
    xy = {n: v.copy() for n, v in rows.xy.items()}
    xy["left_knee"][100:115, 0] += 120.0
    sigma = {n: v.copy() for n, v in rows.sigma.items()}
    sigma["left_knee"][100:115] = 9.0
    return PointRows(rows.frames, rows.times_s, xy, sigma)


CASES: dict[str, Callable[[], Study]] = {
    "plain": lambda: of_rows(rows_of(1)[0]),
    "stated, noisy": lambda: of_rows(rows_of(2, noise=2.5, sigma=4.0, faults={"sway": 8.0})[0]),
    "left-handed, quick": lambda: of_rows(rows_of(3, hand=Hand.LEFT, tempo=0.85)[0], hand=Hand.LEFT),
    "from the rear": lambda: of_rows(rows_of(4, view=View.REAR)[0], view=View.REAR),
    "down the line": lambda: of_rows(
        rows_of(5, view=View.DOWN_THE_LINE, rate=60.0)[0], view=View.DOWN_THE_LINE, scale=NoScale()
    ),
    "mirrored, stance": lambda: of_rows(rows_of(6)[0], mirrored=True, scale=NoScale()),
    "no ball, no club": lambda: of_rows(without(rows_of(7)[0], "ball", "clubhead")),
    "no ball": lambda: of_rows(without(rows_of(8)[0], "ball"), scale=TypedScale(0.4, 0.01)),
    "wrists alone": lambda: of_rows(without(rows_of(9)[0], "grip", "ball", "clubhead", "left_wrist")),
    "strike heard": lambda: of_rows(
        without(rows_of(10)[0], "ball", "clubhead"), strikes=(Moment(1.498, 0.001), Moment(0.3, 0.001))
    ),
    "cut at the end": lambda: of_rows(without(rows_of(11)[0], end=210)),
    "starts late": lambda: of_rows(without(rows_of(12)[0], start=70)),
    "a waggle": lambda: of_rows(rows_of(13, waggle=True, still_before_s=1.2)[0]),
    "pinned": lambda: of_rows(rows_of(14)[0], pinned={"top": 146.0, "address": 50.5, "takeaway": 84.0}),
    "against the pin": lambda: of_rows(rows_of(15)[0], pinned={"half_down": 120.0}),
    "slowed": lambda: of_rows(slowed(), supposed=("capture_rate",)),
    "a known length": lambda: of_rows(
        rows_of(16, rate=30.0)[0], scale=KnownLength(3, 100.0, 600.0, 340.0, 610.0, 90.0, sigma_px=1.5)
    ),
    "crossed legs": lambda: of_rows(crossed_legs()),
    "hands hidden": lambda: of_rows(without(rows_of(17)[0], "grip", "left_wrist", "right_wrist")),
    "hips alone": lambda: of_rows(
        without(rows_of(18)[0], *(f"{s}_{j}" for s in ("left", "right") for j in ("knee", "ankle")))
    ),
    "looked at": looked,
    "looked at, lost": lambda: looked(6, lost=("left_hip", "grip", "right_knee")),
    "looked at, one mark": lambda: looked(7, marked=("address",)),
    "looked at, three marks": lambda: looked(8, marked=("address", "top", "impact")),
    "looked at by pairs": lambda: looked(10, marked=("address", "top"), lone="left_hip"),
    "looked at, a moving camera": lambda: looked(9, marked=("top",), camera=a_moving_camera()),
}


def numbers(analysis: Study) -> dict:
    """All that an analysis tells, rounded to seven digits."""
    scale, at = analysis.scale, analysis.checkpoints
    told = {
        "checkpoints": {n: [c.frame, c.time_s, c.sigma_s, c.source, c.shown] for n, c in at.items()},
        "scale": [scale.unit, scale.per_px, scale.relative, scale.cm_per_unit, scale.cm_relative]
        if isinstance(scale, Scale)
        else scale.reason,
        "px_per_m": analysis.px_per_m,
        "picture": [analysis.direction, analysis.mirrored],
        "measures": {
            key: {n: [*told.pair, told.low, told.high] for n in at if (told := analysis.at(key, n))}
            for key in REGISTRY
            if REGISTRY[key].domain is not Domain.ONCE
        },
        "once": {
            key: [*told.pair, told.low, told.high]
            for key, entry in REGISTRY.items()
            if entry.domain is Domain.ONCE and (told := analysis.once(key))
        },
        "missing": {key: reason for key in REGISTRY if (reason := analysis.missing(key))},
        "stand": [analysis.stand.yaw_deg, analysis.stand.yaw_sigma, analysis.stand.roll_deg],
        "quality": {
            n: [q.grade.value, q.usual_px, q.worst_px, q.worst_frame, *q.spoilt]
            for n, q in analysis.quality.items()
        },
        "notes": [*analysis.warnings, *analysis.spoilt()],
        "slowed": [analysis.slowed.times, *analysis.slowed.rates] if analysis.slowed else None,
        "tracks": {
            n: [*t.xy[len(t.xy) // 2], *t.sigma[:: max(len(t.sigma) // 4, 1)], *t.covariance_with(3)[[0, 20]]]
            for n, t in analysis.tracks.items()
        },
    }
    if analysis.at("pelvis_shift", "top"):
        advice = next_mark(analysis, "pelvis_shift", "top")
        told["advice"] = (
            None if advice is None else [*advice.points, *advice.frames, advice.before, advice.after]
        )
    return json.loads(json.dumps(told, default=float), parse_float=lambda text: float(f"{float(text):.7g}"))


if __name__ == "__main__":
    content = {name: numbers(case()) for name, case in CASES.items()}
    RECORD.write_text(json.dumps(content, indent=None, separators=(",", ":")) + "\n", encoding="utf-8")
