"""``make accuracy``: how good the numbers and their stated errors are, on clips nothing was tuned to.

Clips are drawn by a seed (``cast``) into the user's cache and kept there, film
of a person is fetched there by hash (``film``). Each is looked at as the desk
does, without a mark and with every joint marked at three frames as a person
would, and held against the truth from address to finish. Drawn and filmed are
told apart.
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

import numpy as np
import platformdirs

from benchmarks import judging as j
from benchmarks.cast import Cast, cast, filmed
from benchmarks.film import FRAMES, HELD_BACK, Filmed, film
from benchmarks.odd import dropped_in, odd_clips
from benchmarks.swings import Case
from benchmarks.swings import off as off_by
from kneel.evidence import Shelf, analysed, gather
from kneel.model import Mark, Swing
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.study import Study
from kneel.sim.truth import Truth

SEED, COUNT = 7400, 24
MARKED_AT = ("address", "top", "impact")
FILM_MARKED_AT = (5, 50, 90)
MARKED = ("head", "grip") + tuple(
    f"{side}_{joint}" for joint in ("shoulder", "hip", "knee", "ankle") for side in ("left", "right")
)
MARKS = ("no mark", "three marks")
PAIRS = ("hip", "knee", "ankle", "shoulder")
Pairs = list[tuple[float, float]]
LEAST_VALUES = 5


@dataclass
class Found:
    """Everything measured: judged points by what they are of, and values with their stated errors."""

    drawn: dict[tuple[str, str, str], list[j.Judged]] = field(default_factory=lambda: defaultdict(list))
    filmed: dict[tuple[str, str], list[j.Judged]] = field(default_factory=lambda: defaultdict(list))
    raw: dict[str, list[j.Judged]] = field(default_factory=lambda: defaultdict(list))
    views: dict[str, str] = field(default_factory=dict)
    styles: dict[str, str] = field(default_factory=dict)
    shifts: dict[tuple[str, str], Pairs] = field(default_factory=lambda: defaultdict(list))
    times: dict[tuple[str, str], Pairs] = field(default_factory=lambda: defaultdict(list))
    scales: dict[tuple[str, str], Pairs] = field(default_factory=lambda: defaultdict(list))
    measures: dict[tuple[str, str], Pairs] = field(default_factory=lambda: defaultdict(list))


def main(arguments: list[str]) -> int:
    """Print the tables of docs/accuracy.md."""
    asked = options("accuracy", arguments)
    found = measured(asked.folder, asked.seed, asked.count)
    print_raw(found)
    print_factors(found)
    print_clips(found)
    print_joints(found)
    print_values("pelvis shift face-on and from behind, cm", found.shifts)
    print_values("checkpoints without a mark, ms", found.times)
    print_values("scale by stature, % of itself", found.scales)
    print_measures(found.measures)
    for name, claimed in odd_clips(asked.folder, films(asked.folder)):
        print(f"{name}: {100 * claimed:.0f} % of the frames claimed")
    return 0


def options(prog: str, arguments: list[str]) -> argparse.Namespace:
    """Which clips, and where they are kept."""
    parser = argparse.ArgumentParser(prog=prog)
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--count", type=int, default=COUNT)
    parser.add_argument("--folder", type=Path, default=platformdirs.user_cache_path("kneel") / "accuracy")
    return parser.parse_args(arguments)


def measured(folder: Path, seed: int, count: int, *, quiet: bool = False, every: bool = True) -> Found:
    """Look at all clips and hold them against the truth; what was looked at before is kept.

    ``every`` is whether all measures are told, not only the pelvis' shift.
    """
    found = Found()
    for one, path in filmed(folder, _cast(seed, count)):
        _judge_drawn(found, one, path, every=every)
        if not quiet:
            print(f"{one.name} done", file=sys.stderr, flush=True)
    for reel in films(folder):
        for label in MARKS:
            marks = film_marks(reel) if label != MARKS[0] else ()
            dropped = Swing().given(guessed=("view",))
            analysis = analysis_of(reel.path, dropped, marks)
            scale = 1 / reel.reference.px_per_cm
            part = slice(0, FRAMES)
            if label == MARKS[0]:
                raw = j.sighted(analysis, reel.reference.pixels, scale, part)
                found.raw[f"camera {reel.camera}"] += raw
            found.filmed[str(reel.camera), label] += j.judged(analysis, reel.reference.pixels, scale, part)
    return found


@cache
def _cast(seed: int, count: int) -> tuple[Cast, ...]:
    return tuple(cast(seed, count))


@cache
def films(folder: Path) -> list[Filmed]:
    """The film of a person; none, and it is said, where it cannot be fetched."""
    try:
        return film(folder / "film")
    except OSError as error:
        print(f"Film of people is left out: {error}.", file=sys.stderr)
        return []


def _judge_drawn(found: Found, one: Cast, path: Path, *, every: bool) -> None:
    view, truth = one.shoot.camera.view, one.truth
    found.views[one.name], found.styles[one.name] = view.value, one.style.value
    start, rate = one.shoot.start_s, one.shoot.rate
    first, last = (round((truth.checkpoints_s[n] - start) * rate) for n in ("address", "finish"))
    for label in MARKS:
        marks = three_marks(one, truth) if label != MARKS[0] else ()
        analysis = analysis_of(path, one.swing, marks)
        part = slice(first, last + 1)
        found.drawn[one.name, label, view.value] += j.judged(analysis, truth.pixels, truth.cm_per_px, part)
        if label == MARKS[0]:
            found.raw[one.style.value] += j.sighted(analysis, truth.pixels, truth.cm_per_px, part)
        for key, _, told, true in Case(analysis, truth, one.shoot).told() if every else ():
            found.measures[key, label].append((off_by(key, told.value, true), told.sigma))
        for name, point in analysis.checkpoints.items():
            off = point.time_s + start - truth.checkpoints_s[name]
            if label == MARKS[0]:
                found.times[view.value, name].append((1000 * off, 1000 * point.sigma_s))
            shift = analysis.at("pelvis_shift", name)
            if isinstance(shift, Single):
                value, sigma = shift.pair
                found.shifts[label, name].append((value - truth.at("pelvis_shift", name), sigma))
        if isinstance(analysis.scale, Scale):
            off = 100 * (analysis.scale.per_px / truth.cm_per_px - 1)
            found.scales[label, view.value].append((off, 100 * analysis.scale.relative))


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


def film_marks(reel: Filmed) -> tuple[Mark, ...]:
    """The same for three frames of a film."""
    rng = np.random.default_rng(reel.camera)
    return tuple(
        Mark(point, frame, *(xy[frame] + rng.normal(0, MARK_SIGMA_PX, 2)).tolist())
        for frame in FILM_MARKED_AT
        for point, xy in reel.reference.pixels.items()
    )


def analysis_of(path: Path, swing: Swing, marks: tuple[Mark, ...]) -> Study:
    """The numbers of a clip as the desk takes it: dropped, then marked."""
    document, stretch = dropped_in(path, swing, marks)
    return analysed(document, stretch, gather(document, stretch, shelf=Shelf()))


def print_raw(found: Found) -> None:
    """The body model's own error by style and camera, hips moved to where the outline has them."""
    rows = [
        [name, *(f"{j.rms_cm(j.of_joint(many, joint)):.1f}" for joint in PAIRS)]
        for name, many in sorted(found.raw.items())
    ]
    print("\nThe body model's own RMS error, cm\n\n" + j.table(["", *PAIRS], rows))


def print_factors(found: Found) -> None:
    """What stated errors would have to be multiplied by, pooled, by style and by camera."""

    def row(name: str, many: list[j.Judged]) -> list[str]:
        parts = [j.of_joint(many, joint) for joint in PAIRS]
        return [
            name,
            *(f"{j.factor(p):.2f} (× {j.spread(p):.1f}), ± {j.stated_cm(p):.1f}" for p in parts if p),
        ]

    print(
        "\nFactor of the stated error (worst tenth of frames against the best), median stated error in cm\n"
    )
    rows = []
    for label in MARKS:
        every = {k: v for k, v in found.drawn.items() if k[1] == label}
        rows.append(row(f"drawn, {label}", [one for many in every.values() for one in many]))
        for style in sorted(set(found.styles.values())):
            own = [one for (name, *_), many in every.items() if found.styles[name] == style for one in many]
            rows.append(row(f"{style}, {label}", own))
        if found.filmed:
            mine = {k: v for k, v in found.filmed.items() if k[1] == label}
            rows.append(row(f"film, {label}", [one for many in mine.values() for one in many]))
            rows += [row(f"camera {camera}, {label}", many) for (camera, _), many in sorted(mine.items())]
            held = [one for (camera, _), many in mine.items() if int(camera) in HELD_BACK for one in many]
            rows.append(row(f"cameras 2 and 4, {label}", held))
    print(j.table(["", *PAIRS], rows))


def print_clips(found: Found) -> None:
    """What both hips, knees and ankles of each clip are off by throughout, without a mark."""

    def row(name: str, many: list[j.Judged]) -> list[str]:
        offs = [j.lasting_cm(j.of_joint(many, joint)) for joint in ("hip", "knee", "ankle")]
        return [name, *(f"{off[0]:+.1f}, {off[1]:+.1f}" for off in offs)]

    print("\nLasting error of both joints, cm right and down, no mark\n")
    rows = [row(f"{n} {v}", m) for (n, label, v), m in sorted(found.drawn.items()) if label == MARKS[0]]
    rows += [row(f"camera {c}", m) for (c, label), m in sorted(found.filmed.items()) if label == MARKS[0]]
    print(j.table(["clip", "hip", "knee", "ankle"], rows))


def print_joints(found: Found) -> None:
    """RMS and stated errors and shares inside, by view, marks and joint."""
    print()
    rows = []
    for view in sorted(set(found.views.values())):
        for label in MARKS:
            for joint in j.JOINTS:
                every = (m for (_, own, v), m in found.drawn.items() if (own, v) == (label, view))
                clips = [clip for m in every if (clip := j.of_joint(m, joint))]
                if clips:
                    rows.append([view, label, joint, *_joint_row(clips)])
    print(
        j.table(["view", "marks", "joint", "RMS cm (worst)", "stated cm", "in 95 % (least)", "factor"], rows)
    )


def _joint_row(clips: list[list[j.Judged]]) -> Iterator[str]:
    every = [one for clip in clips for one in clip]
    shares = [np.mean([j.inside(one) for one in clip]) for clip in clips]
    yield f"{j.rms_cm(every):.2f} ({max(j.rms_cm(clip) for clip in clips):.1f})"
    yield f"± {j.stated_cm(every):.2f}"
    yield f"{np.mean(shares):.2f} ({np.min(shares):.2f})"
    yield f"{j.factor(every):.2f}"


def print_measures(found: dict[tuple[str, str], Pairs]) -> None:
    """Every measure on drawn clips, as the body model and marks give it."""
    rows = []
    for key in dict.fromkeys(key for key, _ in sorted(found)):
        row = [key]
        for label in MARKS:
            known = np.array(found.get((key, label), []))
            if len(known) < LEAST_VALUES:
                row += ["", "", "", ""]
                continue
            off, sigma = known.T
            inside = 100 * (np.abs(off) <= 2 * sigma).mean()
            row += [
                str(len(off)),
                f"{np.sqrt((off**2).mean()):.2f}",
                f"{np.median(sigma):.2f}",
                f"{inside:.0f} %",
            ]
        rows.append(row)
    head = ["", "n", "RMS", "stated", "in 2 sigma", "n, marks", "RMS", "stated", "in 2 sigma"]
    print(
        "\nevery measure over all checkpoints but the finish, without and with three marks\n\n"
        + j.table(head, rows)
    )


def print_values(title: str, found: dict[tuple[str, str], Pairs]) -> None:
    """Errors of values against their stated ones."""
    rows: Iterable[list[str]] = (
        [
            label,
            name,
            str(len(off)),
            f"{off.mean():+.1f}",
            f"{np.sqrt((off**2).mean()):.2f}",
            f"{np.abs(off).max():.1f}",
            f"{np.median(sigma):.2f}",
            f"{np.sqrt(((off / np.maximum(sigma, 1e-9)) ** 2).mean()):.2f}",
        ]
        for (label, name), many in sorted(found.items())
        for off, sigma in [np.array(many).T]
    )
    print(f"\n{title}\n\n" + j.table(["", "", "n", "mean error", "RMS", "worst", "stated", "factor"], rows))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
