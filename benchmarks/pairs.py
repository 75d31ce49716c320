"""Two real clips of one golfer through the tracker: how far told differences are from the true ones.

    python -m benchmarks.pairs [GOLFERS]

Golfers of ``benchmarks.cast``, three clips each: two swings of one lesson (one camera that stood, the same
clothes) and one of another (another camera, other clothes); and those of the demo, who are filmed alike in
each of their lessons. All are looked at as the desk does, bare and with three frames marked. Every number
that the school asks is compared, and what is told is held against the simulator's truth.
"""

from __future__ import annotations

import shutil
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from importlib.resources import files
from itertools import combinations
from pathlib import Path

import numpy as np
import platformdirs
from scipy.special import stdtr

from benchmarks.accuracy import MARKS, analysis_of, three_marks
from benchmarks.cast import Cast, Style, cast, filmed, golfer_of
from benchmarks.swings import Case, any_camera, off
from kneel.compare.difference import Difference, difference, two_sides
from kneel.compare.family import asked_by, judged_together
from kneel.demo.lesson import takes
from kneel.judge import known
from kneel.judge.kinds import ONCE
from kneel.judge.numbers import OfSwing
from kneel.model import View

SEED, COUNT = 9700, 8
RATE = 60.0
PLANTED = 1.4
KINDS = {"shift": ("_shift", "_thrust"), "flex": ("knee_flex",), "turn": ("_turn", "separation")}


@dataclass(frozen=True)
class Held:
    """One number of one pair, held against the truth: how far off it is told, and what was said of that.

    ``false`` is whether it would have been claimed among all of its pair had nothing changed.
    """

    pair: str
    marks: str
    number: int
    found: Difference
    error: float
    false: bool

    @property
    def seen(self) -> bool:
        """Whether a difference of 1.4 times the table's limit is told from nothing with that error on it."""
        return abs(PLANTED * self.found.detectable + self.error) > self.found.detectable


def lessons(seed: int, count: int) -> Iterator[tuple[Cast, Cast, Cast]]:
    """Three clips each of some golfers: two of one lesson, one of the next."""
    for number, one in enumerate(cast(seed, count)):
        rng = np.random.default_rng([seed, number, 5])
        shoot = replace(one.shoot, rate=RATE)
        if shoot.camera.view is View.REAR:
            shoot = replace(shoot, camera=replace(shoot.camera, view=View.FACE_ON))
        plan = replace(shoot.plan, variation=1.0)
        faults, size = dict(plan.faults), shoot.golfer.stature_cm / 175
        key = "sway" if shoot.camera.view is View.FACE_ON else "early_extension"
        faults[key] = faults.get(key, 0.0) + size * float(rng.uniform(1, 3))
        other = any_camera(rng, shoot.camera.view, shoot.golfer.hand)
        moved = replace(
            shoot.camera,
            camera_height_cm=other.camera_height_cm,
            yaw_deg=other.yaw_deg,
            roll_deg=other.roll_deg,
        )
        style = list(Style)[int(rng.integers(len(Style) - 1))]
        dressed = golfer_of(rng, style, shoot.golfer.hand).look
        first = replace(shoot, plan=replace(plan, seed=number * 10 + 1))
        second = replace(shoot, plan=replace(plan, seed=number * 10 + 2, faults=faults), seed=shoot.seed + 1)
        later = replace(
            shoot,
            plan=replace(plan, seed=number * 10 + 3, faults=faults),
            seed=shoot.seed + 2,
            camera=moved,
            golfer=replace(shoot.golfer, look=dressed),
        )
        a, b, c = (
            Cast(f"{one.name}-{k}", one.style, s) for k, s in zip("abc", (first, second, later), strict=True)
        )
        yield a, b, c


def analysed(one: Cast, path: Path, marks: str) -> Case:
    """A clip as the desk takes it, with its truth."""
    placed = three_marks(one, one.truth) if marks != MARKS[0] else ()
    return Case(analysis_of(path, one.swing, placed), one.truth, one.shoot)


def pairs(count: int, folder: Path) -> Iterator[tuple[str, str, bool, Case, Case]]:
    """Name, marks, whether of two lessons, and both swings of every pair."""
    for trio in lessons(SEED, count):
        clips = list(filmed(folder, trio))
        for marks in MARKS:
            a, b, c = (analysed(one, path, marks) for one, path in clips)
            yield "one lesson", marks, False, a, b
            yield "two lessons", marks, True, a, c
            yield "two lessons", marks, True, b, c
    shown: dict[tuple[str, View], list[tuple[Cast, Path]]] = {}
    for take in takes():
        source = Path(str(files("kneel.demo") / "data" / take.day / f"{take.file}.mp4"))
        path = folder / f"{take.day}-{source.name}"
        if not path.exists():
            shutil.copy(source, path)
        key = take.student.name, take.shoot.camera.view
        shown.setdefault(key, []).append((Cast(take.file, Style.CLOSE, take.shoot), path))
    for clips in shown.values():
        for marks in MARKS:
            for a, b in combinations([analysed(one, path, marks) for one, path in clips], 2):
                yield "demo, as one lesson", marks, False, a, b


def held(count: int, folder: Path) -> Iterator[Held]:
    """Every number that the school asks of every pair."""
    school = known().school("centred")
    for number, (pair, marks, two, a, b) in enumerate(pairs(count, folder)):
        before, after = OfSwing(a.study), OfSwing(b.study)
        sides = two_sides([before], [after], lessons=two, stood=not two)
        told = []
        for one in asked_by(school, before):
            at = "address" if one.at == ONCE else one.at
            true = a.true(one.measure, at), b.true(one.measure, at)
            found = difference(*sides, one.measure, one.at)
            if isinstance(found, Difference) and true[0] is not None and true[1] is not None:
                told.append((found, off(one.measure, found.difference, true[1] - true[0])))
        nothing = [0.0] * len(told)
        judged = judged_together([found for found, _ in told], nothing)
        alone = judged_together([_of_error(found, error) for found, error in told], nothing)
        for one, false, (_, error) in zip(judged, alone, told, strict=True):
            yield Held(pair, marks, number, one, error, false.claimed)


def _of_error(found: Difference, error: float) -> Difference:
    """The difference as it would have been told had nothing changed."""
    p = 2 * float(stdtr(min(found.freedom, 1e9), -abs(error) / max(found.sigma, 1e-12)))
    return replace(found, before=0.0, after=error, p=p)


def page(found: Sequence[Held]) -> str:
    """The figures, one line a kind of pair."""
    limits = "past the table’s limit", "past their own limit", "any in a pair", f"found at {PLANTED} limits"
    head = ("pairs", "marks", "numbers", *limits, "factor", *KINDS)
    lines = [f"| {' | '.join(head)} |", "|" + " --- |" * len(head)]
    for pair in dict.fromkeys(one.pair for one in found):
        for marks in MARKS:
            few = [one for one in found if (one.pair, one.marks) == (pair, marks)]
            past = (sum(abs(one.error) > one.found.detectable for one in few) / len(few)) * 100
            alone = (sum(abs(one.error) > one.found.detectable_alone for one in few) / len(few)) * 100
            kinds = [
                [one for one in few if any(word in one.found.measure for word in words)]
                for words in KINDS.values()
            ]
            wrong = {one.number: any(o.false for o in few if o.number == one.number) for one in few}
            every = f"{sum(wrong.values())} of {len(wrong)}"
            seen = f"{100 * np.mean([one.seen for one in few]):.0f} %"
            cells = [pair, marks, str(len(few)), f"{past:.1f} %", f"{alone:.1f} %", every, seen, _factor(few)]
            lines.append(f"| {' | '.join([*cells, *map(_factor, kinds)])} |")
    return "\n".join(lines)


def _factor(few: Sequence[Held]) -> str:
    return f"{np.sqrt(np.mean([(one.error / one.found.sigma) ** 2 for one in few])):.2f}" if few else "–"


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else COUNT
    folder = platformdirs.user_cache_path("kneel") / "pairs"
    print(page(list(held(count, folder))))


if __name__ == "__main__":
    main()
