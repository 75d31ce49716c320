"""``make space`` with ``judged``: verdicts by two cameras through pictures, clean pairs and planted turns.

    python -m benchmarks.space_judged [SWINGS]

Bodies, clothes, places and lights are drawn (:mod:`benchmarks.cast`), each filmed from both sides by cameras
that somebody set up by eye, started apart and at rates of their own: once with nothing wrong, once with one
fault that a turn tells, planted at one and a half margins. What is true is told by the simulator's truth.
"""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import platformdirs

from benchmarks.accuracy import analysis_of
from benchmarks.cast import Cast, cast, filmed
from benchmarks.planted import SCHOOLS, amounts_for, plan_of, true_size
from benchmarks.swings import Case, any_camera
from kneel.compare.views import judge_views
from kneel.demo.lesson import MARKED, MARKED_AT
from kneel.judge import Reading, School, known
from kneel.model import Mark, Swing, UsageError, View
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.measures.in_space import TOLD_BY_TWO
from kneel.motion.space.linked import link, told_by_two
from kneel.motion.study import Study

SEED, COUNT = 3100, 12
PLANTED_M = 1.5
KINDS: dict[str, tuple[str, ...]] = {"no mark": (), "six frames marked in both": MARKED_AT}


@dataclass(frozen=True)
class Told:
    """One fault asked of one pair: its true size in margins, and the verdict by both and by one camera."""

    pair: str
    planted: str
    marks: str
    fault: str
    size: float
    both: str
    alone: str


def turn_like() -> list[str]:
    """The faults that a turn tells."""
    turns = set(TOLD_BY_TWO.values())
    return [key for key, f in known().faults.items() if turns & {check.measure for check in f.check}]


def pairs(seed: int, count: int) -> Iterator[tuple[str, School, Cast, Cast]]:
    """Both clips of each swing: what is planted, empty for a clean one, the school, the clips."""
    faults, number = turn_like(), 0
    for one in cast(seed, 3 * count):
        if number == count:
            return
        rng = np.random.default_rng([seed, number, 31])
        golfer, hand = one.shoot.golfer, one.shoot.golfer.hand
        school = known().school(SCHOOLS[number % len(SCHOOLS)])
        planted = dict.fromkeys(("",))
        for key in (*faults[number % len(faults) :], *faults):
            try:
                amounts = amounts_for(rng, key, PLANTED_M, school, golfer, View.FACE_ON, number)
            except UsageError:
                continue
            if amounts:
                planted[key] = amounts
                break
        tall = 0.6 * 720 / (1.08 * golfer.stature_cm)
        cameras = [any_camera(rng, view, hand) for view in (View.FACE_ON, View.DOWN_THE_LINE)]
        rates, late = rng.choice([60.0, 120.0], 2), float(rng.uniform(-0.4, 0.4))
        for key, amounts in planted.items():
            plan = plan_of(school, number, amounts or {})
            made = [
                Cast(
                    f"{seed}-{number}-{key or 'clean'}-{k}",
                    one.style,
                    replace(
                        one.shoot,
                        plan=plan,
                        camera=replace(camera, focal_px=tall * camera.distance_cm),
                        rate=float(rate),
                        start_s=max(k * late, 0.0) if late > 0 else max((1 - k) * -late, 0.0),
                    ),
                )
                for k, (camera, rate) in enumerate(zip(cameras, rates, strict=True))
            ]
            yield key, school, made[0], made[1]
        number += 1


def told(seed: int, count: int, folder: Path) -> Iterator[Told]:
    """Every fault that is asked of every pair."""
    wanted = list(pairs(seed, count))
    paths = {one.name: (one, path) for one, path in filmed(folder, [c for p in wanted for c in p[2:]])}
    for key, school, *casts in wanted:
        for label, moments in KINDS.items():
            studies = [_study(*paths[one.name], moments) for one in casts]
            golfer = casts[0].shoot.golfer
            swing = Swing(hand=golfer.hand, club=golfer.club)
            try:
                linked = link(*studies)
            except UsageError as error:
                print(f"{casts[0].name}, {label}: {error}", file=sys.stderr)
                continue
            by_two = [told_by_two(study, linked) for study in studies]
            both = judge_views(by_two, school, swing)
            alone = judge_views(studies[:1], school, swing)
            sizes = _sizes(both, by_two, [paths[one.name][0] for one in casts])
            for fault, size in sizes.items():
                yield Told(
                    casts[0].name,
                    key,
                    label,
                    fault,
                    size,
                    both.of(fault).verdict.value,
                    alone.of(fault).verdict.value,
                )


def _study(one: Cast, path: Path, moments: Sequence[str]) -> Study:
    rng, truth = np.random.default_rng(one.shoot.seed), one.truth
    marks = []
    for name in moments:
        frame = round((truth.checkpoints_s[name] - one.shoot.start_s) * one.shoot.rate)
        for point in MARKED:
            if 0 <= frame < len(truth.times_s):
                x, y = truth.pixels[point][frame] + rng.normal(0, MARK_SIGMA_PX, 2)
                marks.append(Mark(point, frame, float(x), float(y)))
    return analysis_of(path, one.swing, tuple(marks))


def _sizes(reading: Reading, studies: Sequence[Study], casts: Sequence[Cast]) -> dict[str, float]:
    """The true size of every fault that is asked, by the clip whose numbers decide it."""
    cases = [Case(study, one.truth, one.shoot) for study, one in zip(studies, casts, strict=True)]
    found = {}
    for finding in reading.findings:
        sizes = [size for case in cases if (size := true_size(finding, case)) is not None]
        if sizes:
            found[finding.key] = sizes[0]
    return found


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else COUNT
    every = list(told(SEED, count, platformdirs.user_cache_path("kneel") / "accuracy"))
    turns = turn_like()
    print(
        "| marks | clean pairs with a false fault | by one | turns planted | firm | cleared | firm by one |"
    )
    print("|---|---|---|---|---|---|---|")
    for label in KINDS:
        ones = [one for one in every if one.marks == label]
        clean = {one.pair for one in ones if not one.planted}
        false = [one for one in ones if not one.planted and one.size <= 0]
        wrong = [
            len({one.pair for one in false if getattr(one, which) == "fault"}) for which in ("both", "alone")
        ]
        planted = [one for one in ones if one.fault == one.planted and one.size >= 0.9 * PLANTED_M]
        firm, cleared, single = (
            sum(getattr(one, which) == verdict for one in planted)
            for which, verdict in (("both", "fault"), ("both", "clear"), ("alone", "fault"))
        )
        cells = (label, f"{wrong[0]} of {len(clean)}", str(wrong[1]), str(len(planted)))
        print(f"| {' | '.join((*cells, str(firm), str(cleared), str(single)))} |")
        named = Counter(one.fault for one in false if one.both == "fault")
        also = [one for one in ones if one.planted and one.size <= 0 and one.both == "fault"]
        print(f"  false: {dict(named)}; beside what was planted: {dict(Counter(one.fault for one in also))}")
        print(f"  {Counter((one.fault in turns, one.both) for one in planted)}", flush=True)


if __name__ == "__main__":
    main()
