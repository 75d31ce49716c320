"""``make space``: one swing by two cameras through pictures, held against the simulator's truth.

    python -m benchmarks.space [SWINGS]

The demo's swings, each filmed from both sides by cameras that started apart; nothing of the bundle was found
on them. Looked at as the desk does: bare, with three frames marked in the line clip, in both, and with six
frames in both. What one view tells of the same number stands beside.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from importlib.resources import files
from itertools import islice
from pathlib import Path

import numpy as np

from benchmarks.accuracy import analysis_of
from kneel.demo.lesson import MARKED, MARKED_AT, ROLES, DemoTake, takes
from kneel.model import Mark, Stature, Swing, UsageError, View, anatomical
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.quantity import Single
from kneel.motion.space.linked import Linked, link
from kneel.motion.space.quantities import QUANTITIES, Joints
from kneel.motion.study import Study
from kneel.sim.truth import Truth

THREE = ("address", "top", "impact")
KINDS = {
    "no mark": ((), ()),
    "three marks in the line clip": ((), THREE),
    "three marks in both": (THREE, THREE),
    "six marks in both": (MARKED_AT, MARKED_AT),
}
MOMENTS = ("half_back", "top", "half_down", "impact", "follow", "finish")
ALONE = {
    "pelvis_turn_3d": ("pelvis_turn", 0),
    "chest_turn_3d": ("shoulder_turn", 0),
    "pelvis_shift_3d": ("pelvis_shift", 0),
    "pelvis_thrust_3d": ("pelvis_thrust", 1),
    "pelvis_lift_3d": ("pelvis_lift", 0),
    "lead_knee_flex_3d": ("lead_knee_flex", 1),
    "trail_knee_flex_3d": ("trail_knee_flex", 1),
}
BIASED = ("pelvis_turn_3d", "pelvis_shift_3d")
"""Numbers whose errors are told by checkpoint too: they go one way more than they scatter."""

BODY = tuple(
    f"{side}_{joint}" for side in ("lead", "trail") for joint in ("hip", "knee", "ankle", "shoulder")
)


@dataclass(frozen=True)
class Told:
    """One number of one swing at a checkpoint: how far off, with its error; ``alone`` as one view told it."""

    key: str
    checkpoint: str
    error: float
    sigma: float
    alone: bool


def pairs() -> Iterator[tuple[DemoTake, DemoTake]]:
    """Both clips of every swing of the demo."""
    every = {(take.day, take.file): take for take in takes()}
    for (day, file), take in every.items():
        if not file.endswith(ROLES[View.DOWN_THE_LINE]):
            yield take, every[day, file + ROLES[View.DOWN_THE_LINE]]


def study_of(take: DemoTake, truth: Truth, marked_at: Sequence[str]) -> Study:
    """A clip as the desk takes it, with some frames marked."""
    shoot, rng = take.shoot, np.random.default_rng(take.shoot.seed)
    marks = []
    for name in marked_at:
        frame = round((truth.checkpoints_s[name] - shoot.start_s) * shoot.rate)
        for point in MARKED:
            x, y = truth.pixels[point][frame] + rng.normal(0, MARK_SIGMA_PX, 2)
            marks.append(Mark(point, frame, float(x), float(y)))
    golfer = shoot.golfer
    swing = Swing(hand=golfer.hand, club=golfer.club)
    swing = swing.given(view=shoot.camera.view, scale=Stature(golfer.stature_cm))
    path = Path(str(files("kneel.demo") / "data" / take.day / f"{take.file}.mp4"))
    return analysis_of(path, swing, tuple(marks))


def joints(truth: Truth, hand: object, name: str) -> Joints:
    """Where the joints are at a checkpoint: x to the target, y up, z to the ball."""
    at, found = truth.checkpoints_s[name], {}
    for point in BODY:
        xyz = truth.space[anatomical(point, hand)].T  # type: ignore[arg-type]
        x, z, y = (float(np.interp(at, truth.times_s, axis)) for axis in xyz)
        found[point] = np.array([x, y, z])
    return found


def told(linked: Linked, studies: tuple[Study, Study], truth: Truth, hand: object) -> Iterator[Told]:
    """Every number of a swing by two cameras, and by one where one tells it."""
    then = joints(truth, hand, "address")
    for key, one in QUANTITIES.items():
        for name in MOMENTS:
            true = one.compute(joints(truth, hand, name), then)
            found = linked.numbers.get((key, name))
            if found is not None:
                yield Told(key, name, _off(one.unit, found.value - true), found.sigma, alone=False)
            measure, which = ALONE.get(key, ("", 0))
            study = studies[which]
            single = study.at(measure, name) if measure and name in study.checkpoints else None
            if isinstance(single, Single):
                yield Told(key, name, _off(one.unit, single.value - true), single.sigma, alone=True)


def _off(unit: str, error: float) -> float:
    return (error + 180) % 360 - 180 if unit == "deg" else error


def page(kind: str, found: Sequence[Told], clocks: np.ndarray) -> list[str]:
    """The lines of one kind of marking."""
    rms = float(np.sqrt(np.mean(clocks[:, 0] ** 2))) * 1000
    factor = float(np.sqrt(np.mean((clocks[:, 0] / clocks[:, 1]) ** 2)))
    lines = [f"| {kind} | clock, ms | {len(clocks)} | {rms:.1f} | {factor:.2f} | | |"]
    for key in QUANTITIES:
        both, alone = (
            np.array([(t.error, t.sigma) for t in found if t.key == key and t.alone is one])
            for one in (False, True)
        )
        if not len(both):
            continue
        cells = [kind, QUANTITIES[key].title, str(len(both)), *_figures(both), *_figures(alone)]
        lines.append(f"| {' | '.join(cells)} |")
    return lines


def by_checkpoint(kind: str, found: Sequence[Told], key: str) -> str:
    """One line: how far off a number is at each checkpoint, mean and spread, told by two cameras."""
    cells = [kind]
    for name in MOMENTS:
        errors = [t.error for t in found if t.key == key and t.checkpoint == name and not t.alone]
        cells.append(f"{np.mean(errors):.1f} ± {np.std(errors, ddof=1):.1f}" if len(errors) > 1 else "")
    return f"| {' | '.join(cells)} |"


def _figures(of: np.ndarray) -> tuple[str, str]:
    if not len(of):
        return "", ""
    errors, sigmas = of.T
    return f"{np.sqrt(np.mean(errors**2)):.1f}", f"{np.sqrt(np.mean((errors / sigmas) ** 2)):.2f}"


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else None
    print("| marks | number | n | RMS, two cameras | factor | RMS, one | factor |")
    print("|---|---|---|---|---|---|---|")
    ways: dict[str, list[str]] = {key: [] for key in BIASED}
    for kind, marks in KINDS.items():
        found: list[Told] = []
        clocks = []
        for both in islice(pairs(), count):
            truths = [take.shoot.truth() for take in both]
            studies = tuple(study_of(t, truth, m) for t, truth, m in zip(both, truths, marks, strict=True))
            try:
                linked = link(studies[0], studies[1])
            except UsageError as error:
                print(f"{both[0].day} {both[0].file}: {error}", file=sys.stderr)
                continue
            late = both[1].shoot.start_s - both[0].shoot.start_s
            clocks.append((linked.clock.offset_s + late, linked.clock.sigma_s))
            found += told(linked, (studies[0], studies[1]), truths[0], both[0].shoot.golfer.hand)
        for line in page(kind, found, np.array(clocks)):
            print(line, flush=True)
        for key, lines in ways.items():
            lines.append(by_checkpoint(kind, found, key))
    for key, lines in ways.items():
        print(f"\n| {QUANTITIES[key].title} | {' | '.join(MOMENTS)} |\n|{'---|' * (len(MOMENTS) + 1)}")
        print("\n".join(lines))


if __name__ == "__main__":
    main()
