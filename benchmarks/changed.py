"""Did it change? Several swings a side of one simulated student, whose days differ: false claims, and power.

    python -m benchmarks.changed [PAIRS]

**Swings.** The student's swings vary as people's do; each lesson has its own camera, and its own joints
marked a little off alike in all its swings; each swing has its own noise. Half of the pairs are of one
lesson. Sides are of three swings, or of three and six. In another lesson the number that a plan would
prescribe lies elsewhere, by nothing, half or all of the swings' own spread. A change of 1.4 times the limit
is then planted by the simulator's dial.

**Days.** The same rule on drawn numbers, thousands of pairs: sides of unequal number and spread, a number
that is asked alone, and a family of forty of which neighbours go together.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from benchmarks.planted import scene
from benchmarks.swings import any_camera, study_of
from kneel.compare.difference import ChangeWord, Difference, difference, two_sides
from kneel.compare.errors import OneNumber
from kneel.compare.family import AskedNumber, asked_by, compare_all, judged_alone, judged_together
from kneel.judge.numbers import OfSwing
from kneel.model import Stature, UsageError, View
from kneel.motion.quantity import Single
from kneel.motion.study import Study
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan

COUNTS = ((3, 3), (3, 6))
PRESCRIBED = {
    View.FACE_ON: (AskedNumber("pelvis_shift", "top", 2.5), "sway"),
    View.DOWN_THE_LINE: (AskedNumber("pelvis_thrust", "impact", 3.0), "early_extension"),
}
START = 2.0
"""The dial's amount before the change, cm of a body of 1.75 m."""

LASTING_PX = 1.5
"""How far a person's marks of one joint lie off, alike in all swings of a lesson."""

SPREAD_CM = 0.35
"""From swing to swing the dialled numbers vary by about so much (as the simulator draws them)."""

DAYS = (0.0, 0.5, 1.0)
POWER = 1.4
"""A change of so many limits is planted."""


@dataclass(frozen=True)
class Pair:
    """What came of one pair: claims where nothing changed, and how far off the means lay and were said to."""

    view: View
    lessons: bool
    stood: bool
    days: float
    false_alone: bool
    false_others: int
    off: float
    sigma: float
    called: bool | None
    detectable: float


def side(
    golfer: Golfer, camera: Camera, rate: float, amounts: dict[str, float], seed: int, count: int, day: int
) -> list[OfSwing]:
    """Some swings of one lesson, whose marks lie off alike by the number of its ``day``."""
    numbers = []
    for k in range(count):
        rng, lesson = np.random.default_rng([seed, k, 7]), np.random.default_rng([day, 8])
        plan = SwingPlan(dict(amounts), variation=1.0, seed=seed * 101 + k)
        shoot = Shoot(golfer, plan, camera, rate)
        numbers.append(OfSwing(marked(shoot, float(rng.uniform(1, 2)), rng, lesson), golfer.club))
    return numbers


def marked(shoot: Shoot, noise: float, rng: np.random.Generator, lesson: np.random.Generator) -> Study:
    """A swing from points with white noise, and joints that lie off alike in all of its lesson."""
    xy = {
        name: p + rng.normal(0, noise, p.shape) + lesson.normal(0, LASTING_PX, 2)
        for name, p in sorted(shoot.truth().pixels.items())
    }
    stated = float(np.hypot(noise, LASTING_PX))
    return study_of(shoot, xy, stated, Stature(shoot.golfer.stature_cm))


def pair(seed: int) -> Pair | None:
    """One pair of sides by its number; None where this body cannot swing so."""
    rng = np.random.default_rng([seed, 16])
    view = (View.FACE_ON, View.DOWN_THE_LINE)[seed % 2]
    lessons = seed % 4 < 2
    stood = not lessons and seed % 8 < 6
    counts, days = COUNTS[seed % 3 // 2], DAYS[seed // 8 % 3] if lessons else 0.0
    school, golfer, camera, rate = scene(rng, view)
    asked, dial = PRESCRIBED[view]
    other = camera if stood else any_camera(rng, view, golfer.hand)
    size = golfer.stature_cm / 175
    first, second = START + np.abs(rng.normal(0, days * SPREAD_CM, 2))
    how = {"lessons": lessons, "stood": stood}
    today, later = 10 * seed, 10 * seed + (1 if lessons else 0)
    try:
        before = side(golfer, camera, rate, {dial: first}, 10 * seed, counts[0], today)
        after = side(golfer, other, rate, {dial: second}, 10 * seed + 1, counts[1], later)
        found = compare_all(*two_sides(before, after, **how), asked_by(school, before[0]), prescribed=asked)
        change = found.prescribed
        if not isinstance(change, Difference):
            return None
        wanted = second + POWER * change.detectable / size
        moved = side(golfer, other, rate, {dial: wanted}, 10 * seed + 2, counts[1], later)
        again = difference(*two_sides(before, moved, **how), asked.measure, asked.at)
    except UsageError:
        return None
    called = isinstance(again, Difference) and judged_alone(again, asked.worth).verdict is ChangeWord.CHANGED
    return Pair(
        view,
        lessons,
        stood,
        days,
        change.verdict is ChangeWord.CHANGED,
        sum(one.verdict is ChangeWord.CHANGED for one in found.others),
        change.difference,
        change.sigma,
        called,
        change.detectable,
    )


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 400
    with ProcessPoolExecutor() as pool:
        found = [one for one in pool.map(pair, range(1000, 1000 + count), chunksize=4) if one is not None]
    print(page(found))
    print()
    print(days_page())


def page(found: Sequence[Pair]) -> str:
    """The figures of swings, one line a group."""
    groups = {
        "all": found,
        "one lesson, camera stood": [p for p in found if p.stood],
        "one lesson, camera moved": [p for p in found if not p.lessons and not p.stood],
        **{f"two lessons, days {d:g} s": [p for p in found if p.lessons and p.days == d] for d in DAYS},
        **{str(v.value): [p for p in found if p.view is v] for v in PRESCRIBED},
    }
    lines = [
        "| pairs | n | any claim | prescribed | others | off / stated "
        f"| called at {POWER} limits | detectable |",
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


# Days alone.

SIDES = (((3, 3), (1.0, 1.0)), ((3, 12), (1.0, 1.0)), ((3, 12), (0.6, 1.5)), ((24, 3), (0.6, 1.5)))
TRIES, FAMILY_TRIES, ASKED, ALIKE = 3000, 400, 40, 0.5


def drawn(
    rng: np.random.Generator, counts: Sequence[int], spreads: Sequence[float], day: float, numbers: int
) -> list[list[list[float]]]:
    """Numbers of both sides, by number and swing: neighbours' days and swings go together."""
    chain = np.linalg.cholesky(ALIKE ** np.abs(np.subtract.outer(np.arange(numbers), np.arange(numbers))))
    out = []
    for count, spread in zip(counts, spreads, strict=True):
        lesson = chain @ rng.normal(0, day, numbers)
        out.append((lesson[:, None] + spread * chain @ rng.normal(0, 1, (numbers, count))).tolist())
    return out


def between(first: Sequence[float], second: Sequence[float]) -> Difference:
    """What lies between two sides of plain numbers of two lessons."""
    sides = (
        [OneNumber("top", Single.given("m", "cm", v, 0.0, {}), ("stature", 175.0)) for v in side]
        for side in (first, second)
    )
    found = difference(*two_sides(*sides), "m", "top")
    assert isinstance(found, Difference)
    return found


def days_page() -> str:
    """The figures of days, one line a kind of sides."""
    head = ("swings a side", "spreads", "days", "falsely alone", f"falsely of {ASKED}")
    power = (f"called at {POWER} limits alone", f"of {ASKED}")
    lines = [f"| {' | '.join((*head, *power))} |", "|" + "---|" * 7]
    for counts, spreads in SIDES:
        mean = float(np.sqrt(np.mean(np.square(spreads))))
        for share in DAYS:
            rng = np.random.default_rng([17, *counts, int(share * 2)])
            alone, called, family, found = [], [], [], []
            for _ in range(TRIES):
                first, second = (one[0] for one in drawn(rng, counts, spreads, share * mean, 1))
                one = between(first, second)
                alone.append(judged_alone(one, 0.0).verdict is ChangeWord.CHANGED)
                called.append(judged_alone(_moved(first, second, one), 0.0).verdict is ChangeWord.CHANGED)
            for _ in range(FAMILY_TRIES):
                both = list(zip(*drawn(rng, counts, spreads, share * mean, ASKED), strict=True))
                many = judged_together([between(*one) for one in both], [0.0] * ASKED)
                family.append(any(one.verdict is ChangeWord.CHANGED for one in many))
                # Of forty one is another: by so many of the limits that the table tells.
                again = judged_together([_moved(*both[0], many[0]), *many[1:]], [0.0] * ASKED)
                found.append(again[0].verdict is ChangeWord.CHANGED)
            cells = (f"{counts[0]} and {counts[1]}", f"{spreads[0]:g} and {spreads[1]:g}", f"{share:g} s")
            told = map(_share, (alone, family, called, found))
            lines.append(f"| {' | '.join((*cells, *told))} |")
    return "\n".join(lines)


def _moved(first: Sequence[float], second: Sequence[float], one: Difference) -> Difference:
    return between(first, [v + POWER * one.detectable for v in second])


def _share(flags: Sequence[bool]) -> str:
    return f"{100 * float(np.mean(flags)):.1f} %"


if __name__ == "__main__":
    main()
