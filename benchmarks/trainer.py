"""The Trainer under the hand: a round begun, the next swing, the stick, the answer argued."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from benchmarks.desk import _memory_mb
from benchmarks.measure import Row, median_ms
from benchmarks.window import own_home, run_until, shown_window
from kneel.footage import Clip

ROUNDS, DRAGS = 12, 120
SPEED = 40.0
"""Swings run by so much faster than in life: nobody waits for a benchmark."""


def rows() -> Iterator[Row]:
    """All rows about both places."""
    with own_home() as home:
        yield from _trained(home)


def _trained(home) -> Iterator[Row]:  # type: ignore[no-untyped-def]
    application, window = shown_window(home)
    from kneel.desk.places.trainer.running import Phase
    from kneel.desk.places.trainer.stocking import Stocking
    from kneel.trainer.records import Sure

    Stocking._start = lambda self: None  # type: ignore[method-assign]
    place = window.trainer
    stage, round_ = place.stage, place.round
    type(stage)._speed = property(lambda self: SPEED)  # type: ignore[assignment]
    window.go_to(place)
    run_until(application, lambda: len(place.stock.swings) >= 24)
    clip = place.stock.swings[0].clip

    def decoded() -> None:
        with Clip(clip) as again:
            for _ in again.frames():
                pass

    plain = median_ms(decoded)
    reference = "plain decode of a clip of the stock"

    def until(ready: Callable[[], bool]) -> float:
        began = time.perf_counter()
        run_until(application, ready)
        window.grab()
        return 1000 * (time.perf_counter() - began)

    def on_show() -> bool:
        return round_.phase is Phase.SHOWING and stage.exact

    def begun() -> float:
        QTest.keyClick(place, Qt.Key.Key_Return)
        return until(on_show)

    first = begun()
    memory, opened, argued, blocks = [_memory_mb()], [], [], []
    for _ in range(ROUNDS):
        run_until(application, lambda: round_.phase is Phase.ANSWERING)
        round_.name(round_.faults[0].key)
        round_.say_sure(Sure.RATHER)
        began = time.perf_counter()
        QTest.keyClick(stage, Qt.Key.Key_Return)
        blocks.append(1000 * (time.perf_counter() - began))
        run_until(application, lambda: stage.exact)
        window.grab()
        argued.append(1000 * (time.perf_counter() - began))
        began = time.perf_counter()
        QTest.keyClick(stage, Qt.Key.Key_Return)
        run_until(application, on_show)
        window.grab()
        opened.append(1000 * (time.perf_counter() - began))
        memory.append(_memory_mb())
    yield Row("a round of the Trainer: Enter to its first picture", first, reference, plain, "< 1000")
    yield Row("the next swing: Enter to its picture", float(np.median(opened)), reference, plain, "< 1000")
    yield Row("an answer argued: Enter to the painted lines", float(np.median(argued)), reference, plain, "")
    yield Row("the longest that Enter holds the window", max(blocks), reference, plain, "< 50")
    run_until(application, lambda: round_.phase is Phase.ANSWERING)
    yield _stick(application, window, reference, plain)
    growth = max(memory) - memory[1]
    yield Row(f"MB more after {ROUNDS} swings", growth, "MB with one", memory[1], "")
    window.close()


def _stick(application, window, reference: str, plain: float) -> Row:  # type: ignore[no-untyped-def]
    """The size under the hand, from the move to the painted window."""
    stage, round_ = window.trainer.stage, window.trainer.round
    round_.name(next(one.key for one in round_.faults if one.shape == "across"))
    at = stage.view.to_widget(*stage.view.to_picture(QPointF(300, 300))).toPoint()
    QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
    took = []
    for step in range(DRAGS):
        began = time.perf_counter()
        QTest.mouseMove(stage, at + QPoint(step % 60, 0))
        window.trainer.grab()
        took.append(1000 * (time.perf_counter() - began))
        application.processEvents()
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=at)
    return Row(
        "the stick under the hand to the painted place, p95",
        float(np.quantile(took, 0.95)),
        reference,
        plain,
        "< 25",
    )


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
