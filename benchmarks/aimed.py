"""The corrected ghost under the hand: from a move of its slider to the painted window."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.measure import Row, median_ms, percentile
from benchmarks.window import own_home, run_until, shown_window
from kneel.demo.place import demo_lesson
from kneel.judge.aiming import ghost_of

MOVES, SETTLED_S = 60, 6.0


def rows() -> Iterator[Row]:
    """All rows about the ghost."""
    with own_home() as home:
        document = demo_lesson().parent / "maren-tolhurst-iron.swing.json"
        application, window = shown_window(home)
        window.open_path(document)
        desk = window.on_desk
        run_until(application, lambda: desk.numbers.reading is not None)
        settled = time.monotonic() + SETTLED_S
        run_until(application, lambda: time.monotonic() > settled and not window.jobs.running, rest_s=0.01)
        desk.selection.choose("sway")
        figures = desk.numbers.settled
        made = median_ms(
            lambda: ghost_of(
                figures.analysis, figures.reading.school, desk.selection.measure, figures.swing.club
            )
        )
        desk.aim.toggle()
        stage, slider = window.bench.stage, window.bench.aim_bar.slider
        painted: list[float] = []
        plain = type(stage).paintEvent

        def told(view: object, event: object) -> None:
            plain(view, event)
            painted.append(desk.aim.share)

        type(stage).paintEvent = told
        took = []
        for k in range(MOVES):
            share = (17 * k + 5) % 100
            painted.clear()
            began = time.perf_counter()
            slider.setValue(share)
            run_until(application, lambda s=share: bool(painted) and painted[-1] == s / 100)
            took.append(1000 * (time.perf_counter() - began))
        type(stage).paintEvent = plain
        for share, of in ((0.5, "median"), (0.95, "p95")):
            what = f"the ghost's slider moved to the painted window, {of}"
            yield Row(what, percentile(took, share), "the ghost of every frame made anew", made, "< 25 ms")
        window.close()


if __name__ == "__main__":
    for row in rows():
        print(row.text())
