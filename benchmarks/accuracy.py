"""``make accuracy``: how good the numbers and their stated errors are, on drawn clips nothing was tuned to.

Clips are drawn by a seed (``cast``) into the user's cache and kept there; a
run looks at each, marks every joint at address, top and impact as a person
would, and compares with the truth from address to finish.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import platformdirs
from numpy.typing import NDArray

from benchmarks.cast import Cast, cast, filmed
from kneel.evidence import Evidence, Shelf, Stretch, analysed, gather
from kneel.footage import Clip
from kneel.footage.content import content_of
from kneel.model import ClipRef, Mark, Stature, Swing, View
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.analysis import Analysis
from kneel.sim.truth import Truth

FloatArray = NDArray[np.float64]

HELD_BACK, COUNT = 7100, 24
MARKED_AT = ("address", "top", "impact")
MARKED = ("head", "grip") + tuple(
    f"{side}_{joint}" for joint in ("shoulder", "hip", "knee", "ankle") for side in ("left", "right")
)
JOINTS = ("hip", "knee", "ankle", "shoulder", "head", "grip")
INSIDE_95 = 2.4477
"""The radius that holds 95 % of a circular normal error, in sigmas (table of chi square, 2 degrees)."""


@dataclass(frozen=True)
class Judged:
    """One joint of one clip: RMS radial error and median stated one, cm; shares and ratios."""

    rms_cm: float
    stated_cm: float
    inside: float
    worst_over_best: float
    factor: float


def main(arguments: list[str]) -> int:
    """Print the tables of docs/accuracy.md."""
    parser = argparse.ArgumentParser(prog="accuracy")
    parser.add_argument("--seed", type=int, default=HELD_BACK)
    parser.add_argument("--count", type=int, default=COUNT)
    parser.add_argument("--folder", type=Path, default=platformdirs.user_cache_path("kneel") / "accuracy")
    asked = parser.parse_args(arguments)
    joints: dict[tuple[str, str, str], list[Judged]] = defaultdict(list)
    shifts: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    times: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    for one, path in filmed(asked.folder, cast(asked.seed, asked.count)):
        view = one.shoot.camera.view
        truth = one.shoot.truth()
        for label, marks in (("no mark", ()), ("three marks", three_marks(one, truth))):
            analysis = analysis_of(one, path, marks)
            for joint, judged in judge(one, truth, analysis):
                joints[view.value, label, joint].append(judged)
            for name, point in analysis.checkpoints.items():
                off = point.time_s + one.shoot.start_s - truth.checkpoints_s[name]
                if label == "no mark":
                    times[view.value, name].append((1000 * off, 1000 * point.sigma_s))
                if view is View.FACE_ON and "pelvis_shift" in analysis.measures:
                    value, sigma = analysis.measures["pelvis_shift"].at(point)
                    shifts[label, name].append((value - truth.at("pelvis_shift", name), sigma))
        print(f"{one.name} done", file=sys.stderr, flush=True)
    print_joints(joints)
    print_values("pelvis shift face-on, cm", shifts)
    print_values("checkpoints without a mark, ms", times)
    return 0


def three_marks(one: Cast, truth: Truth) -> tuple[Mark, ...]:
    """Every joint marked at address, top and impact, a pixel or two off."""
    rng = np.random.default_rng(one.shoot.seed)
    out = []
    for name in MARKED_AT:
        frame = (truth.checkpoints_s[name] - one.shoot.start_s) * one.shoot.rate
        frame = int(np.ceil(frame - 1e-6)) if name == "impact" else round(frame)
        for point in MARKED:
            x, y = truth.pixels[point][frame] + rng.normal(0, MARK_SIGMA_PX, 2)
            out.append(Mark(point, frame, float(x), float(y)))
    return tuple(out)


def analysis_of(one: Cast, path: Path, marks: tuple[Mark, ...]) -> Analysis:
    """The clip as the desk takes it: dropped, then marked."""
    with Clip(path) as clip:
        info = clip.info
    golfer = one.shoot.golfer
    content = content_of(path)
    swing = Swing(hand=golfer.hand, club=golfer.club).given(
        clip=ClipRef(str(path), info.frames, info.width, info.height, info.rate_stored),
        view=one.shoot.camera.view,
        scale=Stature(golfer.stature_cm),
        looked=True,
        marks=marks,
    )
    stretch = Stretch.of(swing, info, content)
    seen: Evidence = gather(swing, stretch, shelf=Shelf())
    return analysed(swing, stretch, seen)


def judge(one: Cast, truth: Truth, analysis: Analysis) -> Iterable[tuple[str, Judged]]:
    """Every joint of the clip against its truth, from address to finish."""
    start, rate = one.shoot.start_s, one.shoot.rate
    first, last = (round((truth.checkpoints_s[n] - start) * rate) for n in ("address", "finish"))
    for name, track in analysis.tracks.items():
        joint = name.rsplit("_", 1)[-1]
        if joint not in JOINTS or name not in truth.pixels:
            continue
        count = min(len(track.xy), len(truth.pixels[name]))
        part = slice(first, min(last + 1, count))
        error = track.xy[part] - truth.pixels[name][part]
        away, sigma = np.linalg.norm(error, axis=1), track.sigma[part]
        ordered, tenth = np.sort(sigma), max(1, len(sigma) // 10)
        yield (
            joint,
            Judged(
                float(np.sqrt((away**2).mean())) * truth.cm_per_px,
                float(np.median(sigma)) * truth.cm_per_px,
                float((away < INSIDE_95 * sigma).mean()),
                float(ordered[-tenth:].mean() / ordered[:tenth].mean()),
                float(np.sqrt(((error / sigma[:, None]) ** 2).mean())),
            ),
        )


def print_joints(found: dict[tuple[str, str, str], list[Judged]]) -> None:
    """RMS and stated errors, shares inside, by view, marks and joint."""
    heads = "view marks joint n RMS_cm worst stated_cm inside_95_% least worst/best factor".replace(
        " ", " | "
    )
    print(f"| {heads.replace('_', ' ')} |\n{'|---' * 11}|")
    for (view, label, joint), many in sorted(found.items()):
        rms = np.array([m.rms_cm for m in many])
        inside = np.array([m.inside for m in many])
        print(
            f"| {view} | {label} | {joint} | {len(many)} | {np.sqrt((rms**2).mean()):.2f} | {rms.max():.1f} "
            f"| {np.median([m.stated_cm for m in many]):.2f} | {inside.mean():.2f} | {inside.min():.2f} "
            f"| {np.median([m.worst_over_best for m in many]):.1f} "
            f"| {np.sqrt(np.mean([m.factor**2 for m in many])):.2f} |"
        )


def print_values(title: str, found: dict[tuple[str, str], list[tuple[float, float]]]) -> None:
    """Errors of values against their stated ones."""
    print(f"\n{title}\n\n| | | n | mean error | RMS | worst | stated | factor |\n{'|---' * 8}|")
    for (label, name), many in sorted(found.items()):
        off, sigma = np.array(many).T
        print(
            f"| {label} | {name} | {len(off)} | {off.mean():+.1f} | {np.sqrt((off**2).mean()):.2f} "
            f"| {np.abs(off).max():.1f} | {np.median(sigma):.2f} "
            f"| {np.sqrt(((off / np.maximum(sigma, 1e-9)) ** 2).mean()):.2f} |"
        )


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
