"""Verdicts through pictures: drawn clips looked at as the desk does, bare and with three frames marked.

Clips are those of ``make accuracy`` by another seed, with no fault, one or two, of any size; and as many of
the same bodies, clothes and cameras with one fault planted. What is true is told by the simulator's truth
(:mod:`benchmarks.planted`).
"""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import platformdirs

from benchmarks.accuracy import MARKS, analysis_of, three_marks
from benchmarks.cast import Cast, cast, filmed
from benchmarks.planted import SCHOOLS, amounts_for, judged, plan_of, view_of
from benchmarks.swings import Case
from kneel.judge import known
from kneel.model import UsageError, View
from kneel.sim.dials import dials

SEED, COUNT = 9300, 24
PLANTED_M = 2.0
"""So many margins large a fault is planted."""
WORTH = 1.5
"""Faults of so many margins are looked for."""


@dataclass(frozen=True)
class Told:
    """One fault asked of one clip: its true size in margins, the verdict, whether its error is wide."""

    clip: str
    marks: str
    fault: str
    size: float
    verdict: str
    wide: bool


def planted(seed: int, count: int) -> Iterator[Cast]:
    """The same clips, one fault in each; those from behind are left out."""
    faults = known().faults
    for number, one in enumerate(cast(seed, count)):
        view, golfer = one.shoot.camera.view, one.shoot.golfer
        school = known().school(SCHOOLS[number % len(SCHOOLS)])
        rng = np.random.default_rng([seed, number, 2])
        shown = [key for key in dials() if key in faults and view_of(faults[key]) in (view, None)]
        for key in rng.permutation(shown).tolist() if view is not View.REAR else []:
            try:
                amounts = amounts_for(rng, key, PLANTED_M, school, golfer, view, number)
            except UsageError:
                continue
            if amounts:
                shoot = replace(one.shoot, plan=plan_of(school, number, amounts))
                yield Cast(f"{one.name}-{key}", one.style, shoot)
                break


def told(seed: int, count: int, folder: Path) -> Iterator[Told]:
    """Every fault that is asked of every clip."""
    for one, path in filmed(folder, [*cast(seed, count), *planted(seed, count)]):
        golfer, truth = one.shoot.golfer, one.truth
        pattern = one.shoot.plan.pattern
        school = known().school(pattern if pattern in known().schools else "centred")
        for label in MARKS:
            marks = three_marks(one, truth) if label != MARKS[0] else ()
            case = Case(analysis_of(path, one.swing, marks), truth, one.shoot)
            made = judged(case, school, golfer.club, "", 0.0)
            for finding in made.reading.findings:
                if finding.key in made.sizes:
                    wide = finding.decided.wide if finding.decided else True
                    yield Told(
                        one.name, label, finding.key, made.sizes[finding.key], finding.verdict.value, wide
                    )


def page(seed: int = SEED, count: int = COUNT, folder: Path | None = None) -> str:
    """The part of docs/accuracy.md on clips."""
    every = list(told(seed, count, folder or platformdirs.user_cache_path("kneel") / "accuracy"))
    clips = len({one.clip for one in every})
    lines = [
        "### Through pictures\n",
        f"{clips} drawn clips (`benchmarks.cast`, seed {seed}): {count} with no fault,",
        f"one or two of any size, the others with one planted at {PLANTED_M:.0f} m, looked at as the desk",
        "does; every fault of which the truth is known.\n",
        "| marks | clips with a false fault | false watches a clip | faults of 1.5 m and more "
        "| fault or watch | unknown | clear | of those with σ ≤ 0.6 m | fault or watch | clear |",
        "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    for label in MARKS:
        ones = [one for one in every if one.marks == label]
        clips = {one.clip for one in ones}
        false = [one for one in ones if one.size <= 0]
        wrong = {one.clip for one in false if one.verdict == "fault"}
        watched = sum(one.verdict == "watch" for one in false) / max(len(clips), 1)
        large = [one for one in ones if one.size >= WORTH]
        narrow = [one for one in large if not one.wide]
        cells = (
            label,
            f"{len(wrong)} of {len(clips)}",
            f"{watched:.2f}",
            str(len(large)),
            _share(large, "fault", "watch"),
            _share(large, "unknown"),
            _share(large, "clear"),
            str(len(narrow)),
            _share(narrow, "fault", "watch"),
            _share(narrow, "clear"),
        )
        lines.append(f"| {' | '.join(cells)} |")
    for label in MARKS:
        missed = Counter(
            f"{one.fault} ({one.verdict})"
            for one in every
            if one.marks == label
            and ((one.size <= 0 and one.verdict == "fault") or (one.size >= WORTH and one.verdict == "clear"))
        )
        words = ", ".join(f"{name} {n}" for name, n in missed.most_common()) or "none"
        lines.append(f"\nWrong with {label}: {words}.")
    return "\n".join(lines) + "\n"


def _share(ones: list[Told], *wanted: str) -> str:
    return f"{100 * sum(o.verdict in wanted for o in ones) / len(ones):.0f} %" if ones else "–"


if __name__ == "__main__":
    print(page(*(int(text) for text in sys.argv[1:3])))
