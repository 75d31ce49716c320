"""Two swings against each other: how often nothing is called real, and something is called.

    python -m benchmarks.compared [PAIRS]

One simulated student swings twice alike; each swing has its own noise, and joints marked a little off alike
in all swings of a lesson. Half of the pairs are of one lesson by one camera that stood, half of two by
two cameras. Then a difference of 1.4 times the table's limit is planted by the simulator's dial. How far out
of step the two are is told by the simulator's own plan.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from benchmarks.changed import POWER, PRESCRIBED, START, marked
from benchmarks.planted import scene
from benchmarks.swings import any_camera
from kneel.compare.difference import Difference
from kneel.compare.family import asked_by
from kneel.compare.pair import Alike, Pair, paired
from kneel.judge.numbers import OfSwing
from kneel.model import UsageError, View
from kneel.motion.study import Study
from kneel.sim.film import Shoot
from kneel.sim.swing import SwingPlan

MARKS_PX = 1.5
RATES = (60.0, 120.0, 240.0)


@dataclass(frozen=True)
class Came:
    """What came of one pair: of how many numbers how many were called real though nothing differs, whether
    what was asked alone was, whether the planted one was found, and how far out of step they are, ms.
    """

    view: View
    one_camera: bool
    asked: int
    false: int
    false_alone: bool
    called: bool
    off_ms: np.ndarray


def pair(seed: int) -> Came | None:
    """One pair by its number; None where this body cannot swing so."""
    rng = np.random.default_rng([seed, 21])
    view = (View.FACE_ON, View.DOWN_THE_LINE)[seed % 2]
    one_camera = seed % 4 < 2
    school, golfer, camera, rate = scene(rng, view)
    prescribed, dial = PRESCRIBED[view]
    other = camera if one_camera else any_camera(rng, view, golfer.hand)
    tempos = (1.0, 1.0) if one_camera else tuple(rng.uniform(0.85, 1.2, 2))
    slower = rate if one_camera else float(rng.choice(RATES))
    alike = Alike(lesson=one_camera, camera=one_camera, golfer=True)
    lessons = 10 * seed, 10 * seed + (not one_camera)

    def against(amount: float, k: int) -> tuple[Pair, Study, SwingPlan, SwingPlan]:
        plans = [SwingPlan({dial: a}, tempo=t) for a, t in zip((START, amount), tempos, strict=True)]
        shoots = Shoot(golfer, plans[0], camera, rate), Shoot(golfer, plans[1], other, slower)
        a, b = (
            marked(shoot, MARKS_PX, np.random.default_rng([n, 7]), np.random.default_rng([lesson, 8]))
            for shoot, n, lesson in zip(shoots, (10 * seed, 10 * seed + k), lessons, strict=True)
        )
        sides = OfSwing(a, golfer.club), OfSwing(b, golfer.club)
        return paired((a, b), sides, asked_by(school, sides[0]), alike, prescribed=prescribed), a, *plans

    try:
        clean, a, one, two = against(START, 1)
        alone = clean.compared.prescribed
        if not isinstance(alone, Difference):
            return None
        limit = max(
            alone.detectable_alone, *(row.detectable for row in clean.rows if row.measure == alone.measure)
        )
        planted, *_ = against(START + POWER * limit / (golfer.stature_cm / 175), 2)
    except UsageError:
        return None
    knots = one.knots_s, two.knots_s
    times = a.times_s[(a.times_s > knots[0][0]) & (a.times_s < knots[0][-1])]
    found = planted.compared.prescribed
    return Came(
        view,
        one_camera,
        clean.asked,
        sum(row.claimed for row in clean.compared.others),
        alone.claimed,
        isinstance(found, Difference) and found.claimed,
        1000 * np.abs(clean.step.to_b(times) - np.interp(times, *knots)),
    )


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 400
    with ProcessPoolExecutor() as pool:
        found = [one for one in pool.map(pair, range(5000, 5000 + count), chunksize=4) if one is not None]
    print(page(found))


def page(found: Sequence[Came]) -> str:
    """The table, as it stands in docs/accuracy.md."""
    lines = [
        "| pairs | asked | alone, false | any other, false | found at 1.4 limits | out of step, p95 |",
        "|---|---|---|---|---|---|",
    ]
    for view in (View.FACE_ON, View.DOWN_THE_LINE):
        for one_camera in (True, False):
            some = [one for one in found if (one.view, one.one_camera) == (view, one_camera)]
            if some:
                what = "one lesson and camera" if one_camera else "two lessons, cameras, tempos"
                lines.append(f"| {view.value}, {what}: {len(some)} | {_row(some)} |")
    lines.append(f"| all: {len(found)} | {_row(found)} |")
    return "\n".join(lines)


def _row(some: Sequence[Came]) -> str:
    count = len(some)
    cells = [
        f"{np.median([one.asked for one in some]):.0f}",
        f"{100 * sum(one.false_alone for one in some) / count:.1f} %",
        f"{100 * sum(one.false > 0 for one in some) / count:.1f} %",
        f"{100 * sum(one.called for one in some) / count:.0f} %",
        f"{np.percentile(np.concatenate([one.off_ms for one in some]), 95):.0f} ms",
    ]
    return " | ".join(cells)


if __name__ == "__main__":
    main()
