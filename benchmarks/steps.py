"""Steps and drags in the real window: from the key to the end of the last paint it caused.

Every frame of the clip carries its own number in black and white bars, so
that what is painted can be read back from the screen.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from benchmarks.measure import Row, median_ms, percentile
from benchmarks.window import PATIENCE_S, own_home, run_until, shown_window
from kneel.book.swing_file import load_swing, save_swing
from kneel.demo.place import demo_lesson
from kneel.footage import Clip, picture_of, write_clip
from kneel.footage.content import content_of
from kneel.model import ClipRef, Mark

FRAMES, RATE = 600, 240.0
BITS, BAR = 10, 24
STEPS, DRAGS = 120, 40


def rows() -> Iterator[Row]:
    """All rows about steps and drags."""
    with own_home() as home:
        yield from _Desk(numbered(demo_lesson(), home)).rows()


def numbered(clip: Path, folder: Path, frames: int = FRAMES) -> Path:
    """A document of ``frames`` frames with marks, its clip telling each frame's number in bars."""
    swing = load_swing(clip.with_name(clip.name.replace(".mp4", ".swing.json")))
    with Clip(clip) as source:
        times = max(frames // source.info.frames, 1)
        pictures = {n: picture_of(f, source.upright) for n, f in source.frames()}
    last = max(pictures)
    target = folder / "numbered.mp4"

    def stamped() -> Iterator[np.ndarray]:
        for number in range(frames):
            yield with_bars(pictures[min(number // times, last)].copy(), number)

    height, width = pictures[0].shape[:2]
    write_clip(target, stamped(), rate=RATE, size=(width, height))
    ref = ClipRef(str(target), frames, width, height, RATE, target.stat().st_size, content_of(target))
    marks = tuple(Mark(m.point, m.frame * times, m.x, m.y, m.sigma) for m in swing.marks)
    document = folder / "numbered.swing.json"
    save_swing(document, swing.given(clip=ref, marks=marks, pinned={}, span=None, looked=False))
    return document


def with_bars(picture: np.ndarray, number: int) -> np.ndarray:
    """The picture with its number in bars along its lower left edge, after a white and a black one."""
    for k, on in enumerate((1, 0, *((number >> bit) & 1 for bit in range(BITS)))):
        picture[-BAR:, k * BAR : (k + 1) * BAR] = 255 * on
    return picture


class _Desk:
    """The window with the numbered swing open."""

    def __init__(self, document: Path) -> None:
        self.application, self.window = shown_window(document.parent)
        on_desk = self.on_desk = self.window.on_desk
        self.window.open_path(document)
        self.until(lambda: on_desk.store is not None and on_desk.store.held >= FRAMES)
        self.until(lambda: not on_desk.gathering.busy)

    def until(self, ready: Callable[[], bool]) -> None:
        # A loop that never rests would keep the workers from their turn.
        run_until(self.application, ready, rest_s=0.0005)

    def shown(self) -> int | None:
        """The number read from the screen; None where the bars cannot be read."""
        from PyQt6.QtCore import QPointF

        window, view = self.window, self.window.bench.stage._view
        screen = window.screen()
        assert screen is not None
        image = screen.grabWindow(window.winId()).toImage()
        info = self.on_desk.store.info
        origin = window.bench.stage.mapTo(window, window.rect().topLeft())
        ratio = image.width() / window.width()
        bits = []
        for k in range(BITS + 2):
            at = view.to_widget((k + 0.5) * BAR, info.height - BAR / 2)
            place = (at + QPointF(origin)) * ratio
            bits.append(image.pixelColor(place.toPoint()).lightness() > 127)
        if bits[:2] != [True, False]:
            return None
        return sum(1 << k for k, on in enumerate(bits[2:]) if on)

    def timed(self, act: Callable[[], None], frame: int) -> float:
        """Milliseconds from an act until the screen shows a frame."""
        began = time.perf_counter()
        act()
        end = time.monotonic() + PATIENCE_S
        while True:
            self.application.processEvents()
            took = 1000 * (time.perf_counter() - began)
            if self.shown() == frame:
                return took
            if time.monotonic() > end:
                raise TimeoutError(f"frame {frame} is not painted")

    def rows(self) -> Iterator[Row]:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        window, cursor = self.window, self.on_desk.cursor
        cursor.go(100)
        self.until(lambda: self.shown() == 100)
        took = []
        for _ in range(STEPS):
            number = cursor.frame + 1
            took.append(self.timed(lambda: QTest.keyClick(window, Qt.Key.Key_Right), number))
        store = self.on_desk.store
        size = (1000, 562)

        def plain() -> None:
            frame = store.get(cursor.frame)
            assert frame is not None
            picture_of(frame, store.info.upright, size=size, form="bgra")

        plain_ms = median_ms(plain, 31)
        reference = "one picture converted to the stage's size"
        for what, value, aim in (
            ("a step, key to painted window, p95", percentile(took, 0.95), "< 25 ms"),
            ("the ribbon's part of a step", self._ribbon_ms(), "< 2 ms"),
            *self._drags(),
            ("the longest block of the window while a clip opens", self._block_ms(), "< 100 ms"),
        ):
            yield Row(what, value, reference, plain_ms, aim)
        window.close()

    def _ribbon_ms(self) -> float:
        """Painting the ribbon after each of many steps."""
        from kneel.desk.bench.ribbon import Ribbon

        took, paint = [], Ribbon.paintEvent

        def timed(ribbon: Ribbon, event: object) -> None:
            began = time.perf_counter()
            paint(ribbon, event)
            took.append(1000 * (time.perf_counter() - began))

        Ribbon.paintEvent = timed
        for _ in range(STEPS):
            self.on_desk.cursor.step(1)
            self.application.processEvents()
        Ribbon.paintEvent = paint
        return percentile(took, 0.95)

    def _drags(self) -> list[tuple[str, float, str]]:
        """Moving one hip about: from the mouse to the painted point, and to the painted numbers."""
        from PyQt6.QtCore import QPoint, Qt
        from PyQt6.QtTest import QTest

        stage, on_desk = self.window.bench.stage, self.on_desk
        on_desk.go_to("top")
        self.application.processEvents()
        x, y = on_desk.analysis.tracks["right_hip"].xy[on_desk.cursor.frame].tolist()
        at = stage._view.to_widget(x, y).toPoint()
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
        point, numbers = [], []
        for k in range(DRAGS):
            before, began = on_desk.analysis, time.perf_counter()
            QTest.mouseMove(stage, at + QPoint(k % 7 - 3, k % 5 - 2))
            self.application.processEvents()
            point.append(1000 * (time.perf_counter() - began))
            self.until(lambda before=before: on_desk.analysis is not before)
            self.application.processEvents()
            numbers.append(1000 * (time.perf_counter() - began))
        QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=at)
        return [
            ("a drag, to the painted point, p95", percentile(point, 0.95), "< 100 ms"),
            ("a drag, to the painted numbers, p95", percentile(numbers, 0.95), ""),
        ]

    def _block_ms(self) -> float:
        """The longest time between two turns of the event loop while clips are opened one after another."""
        store, longest = self.on_desk.store, 0.0
        clips = sorted(demo_lesson().parent.glob("*.mp4"))
        for clip in clips[:6]:
            self.window.open_path(clip)
            last = time.perf_counter()
            end = last + PATIENCE_S
            while self.on_desk.store is None or self.on_desk.store.held < self.on_desk.store.wanted:
                self.application.processEvents()
                now = time.perf_counter()
                longest, last = max(longest, 1000 * (now - last)), now
                time.sleep(0.0005)
                if now > end:
                    raise TimeoutError("the clip does not open")
            self.until(lambda clip=clip: self.on_desk.store.info.path == clip)
        assert self.on_desk.store is not store
        return longest


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
