"""``make measures``: docs/measures.md from the registry, with errors from a thousand simulated swings.

Bodies, hands, cameras up to 5° off square and swings of many kinds, seen as
points with 1 to 2 px of noise at 60 to 240 frames/s (:mod:`benchmarks.swings`).
"""

from __future__ import annotations

import sys
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from benchmarks.swings import case, off
from kneel.model import View
from kneel.motion.measures import REGISTRY, Domain, Measure

SWINGS, FIRST = 1000, 20_000
PAGE = Path(__file__).parent.parent / "docs" / "measures.md"

Rows = dict[tuple[str, bool], list[tuple[float, float]]]

HEAD = """
Made from the registry by `make measures`; do not edit. Lengths are in cm here; without a scale they are
told in stance widths. Figures are those of {swings} simulated swings (bodies of five builds of 1.50 to 1.98
m, both hands, faults, cameras 3.3 to 5.6 m off and up to 5° off square, points with 1 to 2 px of noise that
they state, 60 to 240 frames/s) over all checkpoints but the finish: RMS and mean of what is off, the median
stated error, and how often the truth lies within 2 sigma. Truth is the body's own in space; that of limbs'
angles, and of what the simulator does not know, is that in the plane a square camera sees, as angles are
told in the picture's plane. Of a measure marked ~ the error comes from draws, since it bends or picks; all
others' come from slopes (docs/architecture.md).
"""


def errors(seed: int) -> list[tuple[str, bool, str, float, float]]:
    """Of one swing: measure, whether down the line, checkpoint, how far off, stated error; times in ms."""
    one = case(seed)
    along = one.study.setup.view is View.DOWN_THE_LINE
    rows = [(k, along, at, off(k, told.value, true), told.sigma) for k, at, told, true in one.told()]
    for name, found in one.study.checkpoints.items():
        late = 1000 * (found.time_s - one.truth.checkpoints_s[name])
        rows.append((f"time of {name}", along, name, late, 1000 * found.sigma_s))
    return rows


def gathered(swings: int) -> Rows:
    """Errors of many swings, by measure and view."""
    found: Rows = defaultdict(list)
    with ProcessPoolExecutor() as pool:
        for rows in pool.map(errors, range(FIRST, FIRST + swings), chunksize=5):
            for key, along, _, error, sigma in rows:
                found[key, along].append((error, sigma))
    return found


def page(found: Rows, swings: int) -> str:
    """The whole page."""
    parts = [
        "# Every measure\n",
        HEAD.format(swings=swings),
        "\n## When the checkpoints are\n\n",
        _times(found),
    ]
    for domain in Domain:
        parts.append(f"\n## Told of {domain.value}\n")
        parts += [_entry(entry, found) for entry in REGISTRY.values() if entry.domain is domain]
    return "".join(parts)


def _times(found: Rows) -> str:
    rows = []
    for (key, along), errors_ in found.items():
        if key.startswith("time of "):
            e, s = np.array(errors_).T
            within = 100 * (abs(e) <= 2 * s).mean()
            numbers = (
                f"{e.mean():.1f}",
                f"{np.quantile(abs(e), 0.9):.1f}",
                f"{np.median(s):.1f}",
                f"{within:.0f} %",
            )
            rows.append((key.removeprefix("time of "), _view(along), str(len(e)), *numbers))
    head = ("checkpoint", "view", "n", "bias, ms", "nine of ten within, ms", "stated, ms", "in 2 sigma")
    return _table(head, rows)


def _entry(entry: Measure, found: Rows) -> str:
    unit = {"length": "cm", "deg": "°", "ratio": ""}.get(entry.unit.value, entry.unit.value)
    views = " and ".join(view.value for view in View if view in entry.views)
    says = [f"{entry.says} {unit or 'A ratio'}, + {entry.positive}.", entry.estimate]
    facts = [f"Seen {views}.", _source(entry), f"Check: {entry.check or 'simulated truth'}."]
    words = "\n".join(" ".join(part for part in parts if part) for parts in (says, facts))
    return f"\n### `{entry.key}`: {entry.title}\n\n{words}\n\n{_figures(entry.key, found, unit)}"


def _source(entry: Measure) -> str:
    """What it rests on and how it is drawn."""
    if entry.course is not None:
        between = f"Between {_named(entry.course.at)}"
        return f"{between}, from {_named(entry.course.series)}. ~" if entry.course.series else f"{between}. ~"
    if not entry.looks:
        return "Recorded, not seen."
    look = entry.looks[0]
    then = f"; at address {_named(look.then)}" if look.then else ""
    bends = " ~" if any(one.bends for one in entry.looks) else ""
    drawn = f"Figure: {entry.figure.shape.value} at {_named(entry.figure.points)}.{bends}"
    return f"Points: {_named(look.needs)}{then}. {drawn}"


def _figures(key: str, found: Rows, unit: str) -> str:
    rows = []
    for along in (False, True):
        known = np.array(found.get((key, along), []))
        if len(known):
            e, s = known.T
            numbers = [f"{np.sqrt((e**2).mean()):.2f}", f"{e.mean():+.2f}", f"{np.median(s):.2f}"]
            within = 100 * (abs(e) <= 2 * s).mean()
            rows.append((_view(along), str(len(e)), *numbers, f"{within:.0f} %"))
    if not rows:
        return "Not measured here: no simulated swing shows it.\n"
    return _table(("view", "n", f"RMS{', ' + unit if unit else ''}", "bias", "stated", "in 2 sigma"), rows)


def _table(head: tuple[str, ...], rows: list[tuple[str, ...]]) -> str:
    lines = [head, tuple("---" for _ in head), *rows]
    return "".join(f"| {' | '.join(line)} |\n" for line in lines).replace("-0", "−0")


def _view(along: bool) -> str:
    return "down the line" if along else "face-on, from behind"


def _named(names: tuple[str, ...]) -> str:
    return ", ".join(name.replace("_", " ") for name in names)


def main() -> None:
    swings = int(sys.argv[1]) if len(sys.argv) > 1 else SWINGS
    PAGE.write_text(page(gathered(swings), swings), encoding="utf-8")


if __name__ == "__main__":
    main()
