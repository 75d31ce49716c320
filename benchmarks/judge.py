"""``make judged``: how the judge does on swings kept back; the part of docs/accuracy.md on verdicts.

600 clean swings of the four schools and as many with one fault planted at each size, seen as points
(:mod:`benchmarks.planted`), with the stated errors as they are, halved and doubled.
"""

from __future__ import annotations

import sys
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from benchmarks import judged_clips
from benchmarks.planted import Judged, off, swing
from kneel.judge import Verdict, known
from kneel.judge.verdict import normal
from kneel.motion.quantity import Single
from kneel.sim.dials import dials

PAGE = Path(__file__).parent.parent / "docs" / "accuracy.md"
MARK = "<!-- judged -->"
SWINGS, FIRST = 600, 300_000
SIZES = (1.1, 1.5, 2.5)
READINGS = ("as stated", "halved", "doubled")


HEAD = """
`make judged`: {} clean swings of the four schools, their truths drawn evenly over the windows, and {} with
one fault planted, on seeds not used in development; points with 1 to 2 px of noise, cameras to 5° off square,
60 to 240 frames/s. A fault is true where a deciding measure's simulated truth lies past its window as used,
whatever dial was turned; sizes are margins m past that limit.
"""


@dataclass(frozen=True)
class One:
    """What became of one fault in one swing. ``size`` is true, ``wide`` whether its error is over 0.6 m."""

    fault: str
    view: str
    size: float
    wide: bool
    verdicts: tuple[str, str, str]
    why: str


@dataclass(frozen=True)
class Row:
    """One swing: what was planted, what became of every fault, and in which order faults stand."""

    seed: int
    planted: str
    wanted: float
    ones: tuple[One, ...]
    order: tuple[str, ...]
    priority: tuple[str, ...]
    odds: tuple[tuple[float, bool], ...]


def row(job: tuple[int, str, float]) -> Row | None:
    """One swing made and judged."""
    seed, fault, size = job
    made = swing(seed, fault, size)
    if made is None:
        return None
    readings = (made.reading, made.halved, made.doubled)
    view = made.case.study.setup.view.value
    ones = []
    for finding in made.reading.findings:
        if finding.key in made.sizes:
            verdicts = tuple(r.of(finding.key).verdict.value for r in readings)
            wide = finding.decided.wide if finding.decided else True
            ones.append(
                One(finding.key, view, made.sizes[finding.key], wide, verdicts, finding.why.value)  # type: ignore[arg-type]
            )
    order = tuple(f.key for f in made.reading.found(Verdict.FAULT))
    return Row(seed, fault, size, tuple(ones), order, made.reading.priority, tuple(_odds(made, seed)))


def _odds(made: Judged, seed: int) -> Iterable[tuple[float, bool]]:
    """Stated chances against what is so, with limits drawn evenly within four sigma of the truth."""
    rng = np.random.default_rng([seed, 15])
    for finding in made.reading.findings:
        told = finding.told
        if not isinstance(told, Single) or finding.checkpoint is None or finding.measure is None:
            continue
        true = made.case.true(
            finding.measure, "address" if finding.checkpoint == "once" else finding.checkpoint
        )
        if true is None:
            continue
        error = off(finding.measure, told.value, true)
        # The truth is 0 here, the value lies at ``error``.
        limit = float(rng.uniform(-4, 4)) * told.sigma
        yield normal((error - limit) / max(told.sigma, 1e-9)), limit < 0


def rows(swings: int, first: int = FIRST) -> tuple[list[Row], list[Row]]:
    """Clean swings, and those with one fault planted."""
    plantable = [key for key in known().faults if key in dials()]
    jobs = [(first + k, "", 0.0) for k in range(swings)]
    for n, size in enumerate(SIZES):
        jobs += [(first + 10_000 * (n + 1) + k, plantable[k % len(plantable)], size) for k in range(swings)]
    with ProcessPoolExecutor() as pool:
        made = list(pool.map(row, jobs, chunksize=4))
    return [r for r in made[:swings] if r], [r for r in made[swings:] if r]


def page(clean: Sequence[Row], planted: Sequence[Row]) -> str:
    """The part of the page."""
    return "\n".join(
        [
            f"{MARK}\n## Verdicts\n",
            HEAD.format(len(clean), len(planted)),
            _clean(clean),
            _found(planted),
            _unknown(planted),
            _chains(planted),
            _confusions(planted),
            _chances([*clean, *planted]),
        ]
    )


def _clean(clean: Sequence[Row]) -> str:
    lines = [
        "### Clean swings\n",
        "| stated errors | swings with a false fault | false watches a swing |",
        "| --- | --- | --- |",
    ]
    for k, name in enumerate(READINGS):
        false = [[o for o in r.ones if o.size <= 0 and o.verdicts[k] == "fault"] for r in clean]
        watched = [sum(o.size <= 0 and o.verdicts[k] == "watch" for o in r.ones) for r in clean]
        lines.append(f"| {name} | {100 * np.mean([bool(f) for f in false]):.1f} % | {np.mean(watched):.2f} |")
    first = Counter(o.fault for r in clean for o in r.ones if o.size <= 0 and o.verdicts[0] == "fault")
    if first:
        lines.append(f"\nFalse faults as stated: {', '.join(f'{k} {n}' for k, n in first.most_common())}.")
    return "\n".join(lines) + "\n"


def _planted(rows_: Iterable[Row], size: float) -> list[One]:
    return [
        o
        for r in rows_
        for o in r.ones
        if o.fault == r.planted and r.wanted == size and abs(o.size - size) < 0.25
    ]


def _found(planted: Sequence[Row]) -> str:
    lines = [
        "### Planted faults\n",
        "Narrow: σ ≤ 0.6 m, as three marks give it; wide: more, as turn from one view.\n",
        "| size | stated errors | n narrow | fault or watch | fault | clear | n wide | clear |",
        "| --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    for size in SIZES:
        ones = _planted(planted, size)
        for k, name in enumerate(READINGS):
            narrow = [o.verdicts[k] for o in ones if not o.wide]
            wide = [o.verdicts[k] for o in ones if o.wide]
            found = [_share(narrow, *wanted) for wanted in (("fault", "watch"), ("fault",), ("clear",))]
            cells = (f"{size} m", name, str(len(narrow)), *found, str(len(wide)), _share(wide, "clear"))
            lines.append(f"| {' | '.join(cells)} |")
    return "\n".join(lines) + "\n"


def _share(verdicts: Sequence[str], *wanted: str) -> str:
    if not verdicts:
        return "–"
    return f"{100 * sum(v in wanted for v in verdicts) / len(verdicts):.0f} %"


def _unknown(planted: Sequence[Row]) -> str:
    by: dict[tuple[str, str], list[One]] = defaultdict(list)
    for one in _planted(planted, 1.5):
        by[one.fault, one.view].append(one)
    lines = [
        "### Each fault at 1.5 m\n",
        "| fault | view | n | fault | watch | unknown | clear | narrow |",
        "| --- | --- | --- | --- | --- | --- | --- | --- |",
    ]
    for (fault, view), ones in sorted(by.items()):
        verdicts = [o.verdicts[0] for o in ones]
        shares = " | ".join(_share(verdicts, v) for v in ("fault", "watch", "unknown", "clear"))
        narrow = 100 * np.mean([not o.wide for o in ones])
        lines.append(f"| {fault} | {view} | {len(ones)} | {shares} | {narrow:.0f} % |")
    missing = sorted(set(known().faults) - {fault for fault, _ in by})
    lines.append(f"\nNot planted here: {', '.join(missing)}.")
    return "\n".join(lines) + "\n"


def _chains(planted: Sequence[Row]) -> str:
    knowledge = known()
    both = first = ahead = 0
    for r in planted:
        faults = set(r.order)
        for cause in faults:
            if knowledge.faults[cause].consequence:
                continue
            for effect in faults & set(knowledge.faults[cause].explains):
                both += 1
                ahead += r.order.index(cause) < r.order.index(effect)
                first += effect not in r.priority
    return (
        f"### Chains\n\nOf {both} pairs of a cause and what it leads to, both found in one swing, the cause\n"
        f"stands before the other in {100 * ahead / max(both, 1):.1f} %, and the other is not given to work\n"
        f"on in {100 * first / max(both, 1):.1f} %.\n"
    )


def _confusions(planted: Sequence[Row]) -> str:
    named: dict[str, Counter[str]] = defaultdict(Counter)
    count: Counter[str] = Counter()
    false: dict[str, Counter[str]] = defaultdict(Counter)
    for r in planted:
        if r.wanted < 1.5:
            continue
        count[r.planted] += 1
        for o in r.ones:
            if o.fault != r.planted and o.verdicts[0] in ("fault", "watch"):
                (named if o.size > 0 else false)[r.planted][o.fault] += 1
    lines = [
        "### Confusions\n",
        "Of swings with a fault planted at 1.5 m or more: what else is said (fault or watch), truly there as",
        "well (the dial moves it along) or not there at all.\n",
        "| planted | n | said too, and there | said, and not there |",
        "| --- | --- | --- | --- |",
    ]
    for key in sorted(count):
        words = [
            ", ".join(f"{other} {100 * n / count[key]:.0f} %" for other, n in table[key].most_common(limit))
            or "–"
            for table, limit in ((named, 3), (false, 2))
        ]
        lines.append(f"| {key} | {count[key]} | {words[0]} | {words[1]} |")
    return "\n".join(lines) + "\n"


def _chances(every: Sequence[Row]) -> str:
    p, past = np.array([pair for r in every for pair in r.odds]).T
    lines = ["### Chances\n", "| said | n | past |", "| --- | --- | --- |"]
    for low, high in ((0.5, 0.6), (0.6, 0.7), (0.7, 0.8), (0.8, 0.9), (0.9, 1.0)):
        inside = (p >= low) & (p < high)
        lines.append(
            f"| {100 * low:.0f} to {100 * high:.0f} % | {inside.sum()} | {100 * past[inside].mean():.0f} % |"
        )
    return "\n".join(lines) + "\n"


def main() -> None:
    swings = int(sys.argv[1]) if len(sys.argv) > 1 else SWINGS
    text = page(*rows(swings, int(sys.argv[2]) if len(sys.argv) > 2 else FIRST))
    text += "\n" + judged_clips.page() if len(sys.argv) == 1 else ""
    if len(sys.argv) > 1:
        print(text)
        return
    before = PAGE.read_text(encoding="utf-8").split(MARK)[0].rstrip("\n")
    PAGE.write_text(f"{before}\n\n{text}", encoding="utf-8")


if __name__ == "__main__":
    main()
