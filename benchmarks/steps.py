"""Steps, jumps and drags in the real window: from the event to the end of the last paint it caused.

1080p, 600 frames, four lanes, slow motion, at 100 and at 200 %. Every frame of the clip carries its own
number in black and white bars beside the golfer, so that what is painted can be read back from the screen.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import msgspec
import numpy as np

from benchmarks.measure import Row, median_ms, percentile
from benchmarks.window import PATIENCE_S, own_home, run_until, shown_window
from kneel.demo.place import demo_lesson
from kneel.documents.swing_file import load_swing, save_swing
from kneel.footage import Clip, picture_of, write_clip
from kneel.footage.content import content_of
from kneel.model import ClipRef, Mark

FRAMES, STORED, CAPTURED = 600, 30.0, 240.0
SIZE = (1920, 1080)
BITS, BAR = 10, 30
LEFT, TOP = 190, 300
"""Where the bars stand: a screen that is only thought of shows no more than its first quarter at 200 %."""
STEPS, JUMPS, DRAGS = 120, 24, 60
LANES = ("pelvis_shift", "trail_hip_cross", "side_tilt", "head_shift")
ASIDE = "benchmarks.steps"


def rows() -> Iterator[Row]:
    """All rows about steps, jumps and drags, at both scales."""
    with own_home() as home:
        document = numbered(demo_lesson(), home)
        for factor in (1, 2):
            yield from _at_scale(document, factor)


def _at_scale(document: Path, factor: int) -> Iterator[Row]:
    """The rows of a process of its own, since Qt takes its scale once."""
    environment = os.environ | {"QT_SCALE_FACTOR": str(factor), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-m", ASIDE, str(document), str(factor)],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise RuntimeError(done.stderr)
    for line in done.stdout.splitlines():
        if line.startswith("{"):
            yield msgspec.convert(json.loads(line), Row)


def numbered(clip: Path, folder: Path, frames: int = FRAMES) -> Path:
    """A document of ``frames`` frames with marks, its clip telling each frame's number in bars."""
    swing = load_swing(clip.with_name(clip.name.replace(".mp4", ".swing.json")))
    with Clip(clip) as source:
        times = max(frames // source.info.frames, 1)
        pictures = {n: picture_of(f, source.upright) for n, f in source.frames()}
    last, target = max(pictures), folder / "numbered.mp4"
    grown = SIZE[0] / pictures[0].shape[1]

    def stamped() -> Iterator[np.ndarray]:
        for number in range(frames):
            large = cv2.resize(pictures[min(number // times, last)], SIZE, interpolation=cv2.INTER_LINEAR)
            yield with_bars(large, number)

    write_clip(target, stamped(), rate=STORED, size=SIZE)
    ref = ClipRef(str(target), frames, *SIZE, STORED, target.stat().st_size, content_of(target))
    marks = tuple(Mark(m.point, m.frame * times, m.x * grown, m.y * grown, m.sigma) for m in swing.marks)
    document = folder / "numbered.swing.json"
    fresh = swing.given(clip=ref, marks=marks, pinned={}, span=None, looked=False, capture_rate=CAPTURED)
    save_swing(document, fresh)
    return document


def with_bars(picture: np.ndarray, number: int) -> np.ndarray:
    """The picture with its number in bars beside the golfer, after a white and a black one."""
    for k, on in enumerate((1, 0, *((number >> bit) & 1 for bit in range(BITS)))):
        picture[TOP : TOP + BAR, LEFT + k * BAR : LEFT + (k + 1) * BAR] = 255 * on
    return picture


class _Desk:
    """The window with the numbered swing open, four lanes on the ribbon."""

    def __init__(self, document: Path) -> None:
        self.application, self.window = shown_window(document.parent)
        on_desk = self.on_desk = self.window.on_desk
        self.window.open_path(document)
        self.until(lambda: on_desk.store is not None and on_desk.store.held >= FRAMES)
        self.until(lambda: not on_desk.gathering.busy)
        on_desk.look_at(lanes=LANES)
        assert len(self.window.bench.ribbon.choice.lanes) == len(LANES)
        self.rest(1.0)

    def until(self, ready: Callable[[], bool]) -> None:
        # A loop that never rests would keep the workers from their turn.
        run_until(self.application, ready, rest_s=0.0005)

    def rest(self, seconds: float) -> None:
        """Let all that goes on by itself come to rest."""
        end = time.monotonic() + seconds
        self.until(lambda: time.monotonic() > end)

    def shown(self) -> int | None:
        """The number read from the screen; None where the bars cannot be read."""
        from PyQt6.QtCore import QPointF

        window, stage = self.window, self.window.bench.stage
        screen = window.screen()
        assert screen is not None
        image = screen.grabWindow(window.winId()).toImage()
        origin = stage.mapTo(window, stage.rect().topLeft())
        ratio = image.devicePixelRatio()
        bits = []
        for k in range(BITS + 2):
            at = stage.view.to_widget(LEFT + (k + 0.5) * BAR, TOP + BAR / 2)
            place = (at + QPointF(origin)) * ratio
            bits.append(image.pixelColor(place.toPoint()).lightness() > 127)
        if bits[:2] != [True, False]:
            return None
        return sum(1 << k for k, on in enumerate(bits[2:]) if on)

    def timed(self, act: Callable[[], None], frame: int | None, before: int | None = None) -> float:
        """Milliseconds from an act until the screen shows a frame; None for any other than ``before``."""
        began = time.perf_counter()
        act()
        end = time.monotonic() + PATIENCE_S
        while True:
            self.application.processEvents()
            took = 1000 * (time.perf_counter() - began)
            seen = self.shown()
            if seen == frame or (frame is None and seen not in (None, before)):
                return took
            if time.monotonic() > end:
                raise TimeoutError(f"frame {frame} is not painted")

    def rows(self, factor: int) -> Iterator[Row]:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        stage, cursor = self.window.bench.stage, self.on_desk.cursor
        cursor.go(100)
        self.until(lambda: self.shown() == 100)
        steps = []
        for k in range(STEPS):
            key, number = (
                (Qt.Key.Key_Right, cursor.frame + 1) if k % 40 < 30 else (Qt.Key.Key_Left, cursor.frame - 1)
            )
            steps.append(self.timed(lambda key=key: QTest.keyClick(stage, key), number))
            # Nobody steps faster than keys repeat.
            self.rest(0.02)
        plain = median_ms(lambda: (self.window.repaint(), self.application.processEvents()), 31)
        jumps = self._jumps()
        reference = "a plain repaint of the window"
        limit = 16 if factor == 1 else 33
        at = f"{100 * factor} %"
        told = [
            (f"{at}: a step, key to painted window, p95", percentile(steps, 0.95), f"< {limit} ms"),
            (f"{at}: the same, median", percentile(steps, 0.5), ""),
            (f"{at}: a jump, to the exact picture, p95", percentile(jumps, 0.95), "< 100 ms"),
            (f"{at}: a drag, to the painted verdict, p95", percentile(self._drags(), 0.95), "< 50 ms"),
        ]
        for what, value, aim in told:
            yield Row(what, value, reference, plain, aim)
        self.window.close()

    def _jumps(self) -> list[float]:
        """Far jumps by a click on the ribbon."""
        from PyQt6.QtCore import QPoint, Qt
        from PyQt6.QtTest import QTest

        ribbon, took = self.window.bench.ribbon, []
        rng = np.random.default_rng(0)
        for frame in rng.integers(20, FRAMES - 20, JUMPS).tolist():
            x = round(ribbon.x_of(frame))
            number = round(ribbon.axis.frame_at(x))
            if number == self.on_desk.cursor.frame:
                continue
            click = QPoint(x, ribbon.height() - 40)
            took.append(
                self.timed(
                    lambda at=click: QTest.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=at), number
                )
            )
            self.rest(0.05)
        return took

    def _drags(self) -> list[float]:
        """Moving one hip about: from the mouse to the painted verdict of the chosen finding."""
        from PyQt6.QtCore import QPoint, Qt
        from PyQt6.QtTest import QTest

        stage, on_desk = self.window.bench.stage, self.on_desk
        on_desk.selection.choose("sway")
        self.rest(0.5)
        x, y = on_desk.analysis.tracks["right_hip"].xy[on_desk.cursor.frame].tolist()
        at = stage.view.to_widget(x, y).toPoint()
        QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
        took = []
        for k in range(DRAGS):
            before = on_desk.selection.finding.value
            painted = _Painted()
            began = time.perf_counter()
            QTest.mouseMove(stage, at + QPoint(2 * (k % 7) - 6, k % 5 - 2))
            self.until_painted(painted, before)
            took.append(1000 * (time.perf_counter() - began))
            painted.end()
            self.rest(0.016)
        QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=at)
        return took

    def until_painted(self, painted: _Painted, before: float) -> None:
        end = time.monotonic() + PATIENCE_S
        while True:
            self.application.processEvents()
            if self.on_desk.selection.finding.value != before and painted.values[-1:] == [
                self.on_desk.selection.finding.value
            ]:
                return
            if time.monotonic() > end:
                raise TimeoutError("the verdict of a drag is not painted")


class _Painted:
    """Listens to which value the chosen finding's knot paints."""

    def __init__(self) -> None:
        from kneel.desk.places.bench.reading.findings import Knot

        self.values: list[float] = []
        self._knot, self._plain = Knot, Knot.paintEvent

        def told(knot: Knot, event: object) -> None:
            self._plain(knot, event)
            hung = knot._hung
            if hung is not None and hung.finding.key == knot._open.selection.fault:
                self.values.append(hung.finding.value)

        Knot.paintEvent = told

    def end(self) -> None:
        self._knot.paintEvent = self._plain


def main(document: Path, factor: int) -> None:
    """One scale, in this process; each row as JSON."""
    for row in _Desk(document).rows(factor):
        print(msgspec.json.encode(msgspec.to_builtins(row)).decode(), flush=True)


if __name__ == "__main__":
    if len(sys.argv) > 2:
        main(Path(sys.argv[1]), int(sys.argv[2]))
    else:
        for row in rows():
            print(row.text(), flush=True)
