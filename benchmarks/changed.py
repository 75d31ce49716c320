"""Did it change? Three swings a side of one simulated student: false claims, and changes that are called.

    python -m benchmarks.changed [PAIRS]

The student's swings vary as people's do; each lesson has its own camera, and its own joints marked a little
off alike in all its swings; each swing has its own noise. Half of the pairs are of one lesson. A change of
three times 1.96 stated standard errors is then planted by the simulator's dial and asked of the number that a
plan would prescribe.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from benchmarks.planted import scene
from benchmarks.swings import any_camera, study_of
from kneel.judge.change import Between, Change, Changed, compare, judged_alone
from kneel.judge.compared import Asked, compare_all
from kneel.judge.numbers import OfSwing
from kneel.model import Stature, UsageError, View
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan

SWINGS = 3
PRESCRIBED = {
    View.FACE_ON: (Asked("pelvis_shift", "top", 2.5), "sway"),
    View.DOWN_THE_LINE: (Asked("pelvis_thrust", "impact", 3.0), "early_extension"),
}
START = 2.0
"""The dial's amount before the change, cm of a body of 1.75 m."""

LASTING_PX = 1.5
"""How far a person's marks of one joint lie off, alike in all swings of a lesson."""


@dataclass(frozen=True)
class Pair:
    """What came of one pair: claims where nothing changed, and how far off the means lay and were said to."""

    view: View
    lessons: bool
    stood: bool
    false_alone: bool
    false_others: int
    off: float
    sigma: float
    called: bool | None
    detectable: float


def side(
    golfer: Golfer, camera: Camera, rate: float, amounts: dict[str, float], seed: int, count: int = SWINGS
) -> list[OfSwing]:
    """Some swings of one lesson."""
    numbers = []
    for k in range(count):
        rng, lesson = np.random.default_rng([seed, k, 7]), np.random.default_rng([seed, 8])
        plan = SwingPlan(dict(amounts), variation=1.0, seed=seed * 101 + k)
        shoot = Shoot(golfer, plan, camera, rate)
        truth = shoot.truth()
        noise = float(rng.uniform(1, 2))
        xy = {
            n: p + rng.normal(0, noise, p.shape) + lesson.normal(0, LASTING_PX, 2)
            for n, p in sorted(truth.pixels.items())
        }
        stated = float(np.hypot(noise, LASTING_PX))
        numbers.append(OfSwing(study_of(shoot, xy, stated, Stature(golfer.stature_cm)), golfer.club))
    return numbers


def pair(seed: int) -> Pair | None:
    """One pair of sides by its number; None where this body cannot swing so."""
    rng = np.random.default_rng([seed, 16])
    view = (View.FACE_ON, View.DOWN_THE_LINE)[seed % 2]
    lessons = seed % 4 < 2
    stood = not lessons and seed % 8 < 6
    school, golfer, camera, rate = scene(rng, view)
    asked, dial = PRESCRIBED[view]
    other = camera if stood else any_camera(rng, view, golfer.hand)
    between = Between(lessons=lessons, stood=stood)
    try:
        before = side(golfer, camera, rate, {dial: START}, 10 * seed)
        after = side(golfer, other, rate, {dial: START}, 10 * seed + 1)
        found = compare_all(before, after, school, between, prescribed=asked)
        change = found.prescribed
        if not isinstance(change, Change):
            return None
        called = _called(golfer, other, rate, before, asked, dial, change, between, seed)
    except UsageError:
        return None
    return Pair(
        view,
        lessons,
        stood,
        change.verdict is Changed.CHANGED,
        sum(one.verdict is Changed.CHANGED for one in found.others),
        change.difference,
        change.sigma,
        called,
        change.detectable,
    )


def _called(
    golfer: Golfer,
    camera: Camera,
    rate: float,
    before: Sequence[OfSwing],
    asked: Asked,
    dial: str,
    null: Change,
    between: Between,
    seed: int,
) -> bool:
    """Whether a change of three times 1.96 sigma, planted by the dial, is called."""
    size = golfer.stature_cm / 175
    wanted = 3 * 1.96 * null.sigma / size
    after = side(golfer, camera, rate, {dial: START + wanted}, 10 * seed + 2)
    change = compare(before, after, asked.measure, asked.at, between)
    return isinstance(change, Change) and judged_alone(change, asked.worth).verdict is Changed.CHANGED


def main() -> None:
    pairs = int(sys.argv[1]) if len(sys.argv) > 1 else 400
    with ProcessPoolExecutor() as pool:
        found = [one for one in pool.map(pair, range(1000, 1000 + pairs), chunksize=4) if one is not None]
    print(page(found))


def page(found: Sequence[Pair]) -> str:
    """The figures, one line a group."""
    groups = {
        "all": found,
        "one lesson, camera stood": [p for p in found if p.stood],
        "one lesson, camera moved": [p for p in found if not p.lessons and not p.stood],
        "two lessons": [p for p in found if p.lessons],
        **{str(v.value): [p for p in found if p.view is v] for v in PRESCRIBED},
    }
    lines = [
        "| pairs | n | any claim | prescribed | others | off / stated | called at 3 × 1.96 σ | detectable |",
        "|" + "---|" * 8,
    ]
    for name, few in groups.items():
        if few:
            ratio = float(np.sqrt(np.mean([(p.off / p.sigma) ** 2 for p in few])))
            lines.append(
                f"| {name} | {len(few)} | {_share([p.false_alone or p.false_others > 0 for p in few])} "
                f"| {_share([p.false_alone for p in few])} | {_share([p.false_others > 0 for p in few])} "
                f"| {ratio:.2f} | {_share([bool(p.called) for p in few])} "
                f"| {np.median([p.detectable for p in few]):.1f} cm |"
            )
    return "\n".join(lines)


def _share(flags: Sequence[bool]) -> str:
    return f"{100 * float(np.mean(flags)):.1f} %"


if __name__ == "__main__":
    main()
