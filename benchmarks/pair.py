"""Two clips of 1080p side by side in the real window: opening one beside the other, and stepping both."""

from __future__ import annotations

import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

import numpy as np

from benchmarks.measure import Row, median_ms, percentile
from benchmarks.window import own_home, run_until, shown_window
from kneel.demo.followed import follow
from kneel.demo.lesson import marked
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.evidence import Shelf
from kneel.footage import Clip, picture_of
from kneel.footage.content import content_of
from kneel.model import ClipRef, Stature, Swing
from kneel.sim import film as making
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.swing import SwingPlan

WIDE, HIGH, RATE = 1920, 1080, 60.0
STEPS, OPENED = 200, 5


def filmed(folder: Path, seed: int, sway: float, tempo: float) -> Path:
    """A simulated swing of 1080p with its document."""
    camera = Camera(width=WIDE, height=HIGH, exposure_s=0.001)
    shoot = Shoot(
        plan=SwingPlan({"sway": sway}, tempo=tempo), camera=camera, rate=RATE, seed=seed, quality=20
    )
    clip = folder / f"swing-{seed}.mp4"
    # Each clip has a process of its own already.
    making.WORTH_SHARING = 1_000_000
    truth = making.film(shoot, clip)
    held = ClipRef(str(clip), len(shoot.times_s), WIDE, HIGH, RATE, clip.stat().st_size, content_of(clip))
    document = folder / f"swing-{seed}{SUFFIX}"
    stature = Stature(shoot.golfer.stature_cm)
    save_swing(document, Swing().given(clip=held, golfer="Bench", scale=stature, marks=marked(truth, shoot)))
    return document


def rows() -> Iterator[Row]:
    """All rows about two swings."""
    with own_home() as home:
        with ProcessPoolExecutor() as pool:
            here, there = pool.map(partial(filmed, home), (1, 2), (2.0, 4.0), (1.2, 1.4))
        for document in (here, there):
            swing = load_swing(document)
            follow(swing, Path(swing.clip.path), Shelf(folder=home / "shelf"))
        application, window = shown_window(home)
        place, on_desk = window.pair, window.on_desk
        window.open_path(here)
        run_until(application, lambda: on_desk.analysis is not None and not on_desk.gathering.busy)
        run_until(application, lambda: on_desk.store.held == on_desk.frames)
        window.go_to(place)
        took = []
        for _ in range(OPENED):
            began = time.perf_counter()
            place.hold_beside(there)
            run_until(application, lambda: place.comparing.pair is not None)
            run_until(application, lambda: all(one.exact for one in place.laying.pictures))
            window.grab()
            took.append(1000 * (time.perf_counter() - began))
            if len(took) < OPENED:
                place.comparing.close()
                place.comparing.pair = None
        decoded = median_ms(lambda: _two_pictures(here, there))
        reference = "a frame of each decoded and converted"
        yield Row(
            "a swing beside, evidence kept, to the table",
            float(np.median(took)),
            reference,
            decoded,
            "< 1500",
        )
        run_until(application, lambda: place.other.store.held == place.other.frames)
        rest(application, 1.5)
        for way in type(place.laying.both.way):
            place.show_way(way)
            stepped = _stepped(application, window)
            yield Row(
                f"a key to both painted, {way.value}, p95",
                percentile(stepped, 0.95),
                reference,
                decoded,
                "< 25",
            )
        window.close()


def _stepped(application: object, window: object) -> list[float]:
    """Milliseconds from a key press until both pictures, exact, and the traces have been painted for it."""
    from PyQt6.QtCore import QEvent, QObject, Qt
    from PyQt6.QtTest import QTest

    place, cursor = window.pair, window.on_desk.cursor
    painted: set[object] = set()

    class Watch(QObject):
        def eventFilter(self, watched: QObject, event: QEvent) -> bool:
            if event.type() is QEvent.Type.Paint:
                painted.add(watched)
            return False

    watch = Watch()
    pictures = [one for one in place.laying.pictures if one.isVisible()]
    parts = [*pictures, place.lanes]
    for part in parts:
        part.installEventFilter(watch)

    def shown() -> bool:
        return painted >= {*parts} and all(one.exact for one in pictures)

    cursor.go(10)
    run_until(application, shown, rest_s=0.0005)
    took, way = [], Qt.Key.Key_Right
    for _ in range(STEPS):
        if not 10 <= cursor.frame <= window.on_desk.frames - 10:
            way = Qt.Key.Key_Left if way is Qt.Key.Key_Right else Qt.Key.Key_Right
        painted.clear()
        began = time.perf_counter()
        QTest.keyClick(pictures[-1], way)
        run_until(application, shown)
        took.append(1000 * (time.perf_counter() - began))
        # Nobody steps faster than keys repeat.
        rest(application, 0.02)
    for part in parts:
        part.removeEventFilter(watch)
    return took


def rest(application: object, seconds: float) -> None:
    """Let all that goes on by itself have its turn."""
    end = time.monotonic() + seconds
    run_until(application, lambda: time.monotonic() > end, rest_s=0.0005)


def _two_pictures(*documents: Path) -> None:
    for document in documents:
        with Clip(Path(load_swing(document).clip.path)) as clip:
            picture_of(clip.frame(clip.info.frames // 2), clip.upright)


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
