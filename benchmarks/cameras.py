"""A swing by two cameras on the Bench: from a mark under the hand to the painted numbers of both views."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import TYPE_CHECKING

from benchmarks.measure import Row, median_ms, percentile
from benchmarks.window import own_home, run_until, shown_window
from kneel.demo.place import demo_lesson
from kneel.documents.swing_file import load_swing, save_swing
from kneel.model.two_takes import with_second
from kneel.motion.space.linked import followed

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from kneel.desk.shell.window import Window
    from kneel.desk.stage.stage import Stage

DRAGS, REST_S, SETTLED_S = 40, 0.02, 8.0
TURN = ("pelvis_turn_3d", "top")


def rows() -> Iterator[Row]:
    """All rows about two cameras."""
    with own_home() as home:
        first = demo_lesson()
        document, line = (first.parent / f"maren-tolhurst-iron{tail}.swing.json" for tail in ("", "-line"))
        save_swing(document, with_second(load_swing(document), load_swing(line).take))
        application, window = shown_window(home)
        began = time.perf_counter()
        window.open_path(document)
        run_until(application, lambda: window.takes.linked is not None)
        window.grab()
        opened = 1000 * (time.perf_counter() - began)
        settled = time.monotonic() + SETTLED_S
        # The other swings of the rack are read meanwhile, beside the desk.
        run_until(application, lambda: time.monotonic() > settled and not window.jobs.running, rest_s=0.01)
        figures = window.on_desk.numbers.settled
        told = median_ms(lambda: followed(figures.linked, figures.analysis, figures.second))
        yield Row("opening a swing by two cameras to its verdict", opened, "the body alone", told, "")
        for name, stage in (("the first", window.bench.stage), ("the other", window.bench.cameras.other)):
            took = _dragged(application, window, stage)
            for share, of in ((0.5, "median"), (0.95, "p95")):
                what = f"a mark under the hand on {name} picture to both views' painted numbers, {of}"
                yield Row(what, percentile(took, share), "the body alone", told, "< 80 ms")
        window.close()


def _dragged(application: QApplication, window: Window, stage: Stage) -> list[float]:
    """Moving a hip about at the top: from the mouse to the painted turn in space."""
    from PyQt6.QtCore import QPoint, Qt
    from PyQt6.QtTest import QTest

    from kneel.desk.stage.space import SpaceView

    window.on_desk.go_to("top")
    run_until(application, lambda: not window.on_desk.numbers.busy)
    swing = window.on_desk if stage is window.bench.stage else window.takes.second
    x, y = swing.analysis.tracks["right_hip"].xy[swing.cursor.frame].tolist()
    at = stage.view.to_widget(x, y).toPoint()
    painted: list[float] = []
    plain = SpaceView.paintEvent

    def told(view: SpaceView, event: object) -> None:
        plain(view, event)
        painted.append(view.linked.numbers[TURN].value)

    SpaceView.paintEvent = told
    QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
    took = []
    for k in range(DRAGS):
        before = window.takes.linked.numbers[TURN].value
        painted.clear()
        began = time.perf_counter()
        QTest.mouseMove(stage, at + QPoint(2 * (k % 7) - 6, k % 5 - 2))
        # As the window's own loop does, which sleeps while a worker computes.
        run_until(application, lambda b=before: bool(painted) and painted[-1] != b, rest_s=0.0005)
        took.append(1000 * (time.perf_counter() - began))
        end = time.monotonic() + REST_S
        run_until(application, lambda until=end: time.monotonic() > until)
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=at)
    SpaceView.paintEvent = plain
    swings = window.on_desk, window.takes.second
    run_until(application, lambda: not any(one.numbers.busy or one.gathering.busy for one in swings))
    return took


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
