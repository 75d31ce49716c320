"""The frame store and the flow on the demo clip, against plain decoding and one whole-image flow pass."""

from __future__ import annotations

import itertools
import threading
import time
from importlib.resources import as_file, files
from pathlib import Path

import av
import cv2
import numpy as np

from benchmarks.measure import Row, median_ms, percentile
from kneel.footage import Clip, FrameStore, luma_of, picture_of
from kneel.model import Mark
from kneel.vision import follow, legs

DISPLAY = (812, 456)


def rows() -> list[Row]:
    """All rows about footage."""
    with as_file(files("kneel.demo") / "data" / "maren-tolhurst-iron.mp4") as path:
        return [_ingest(path), *_steps(path), _opening(path), _flow(path)]


def _decode(path: Path) -> None:
    with av.open(str(path)) as container:
        container.streams.video[0].thread_type = "AUTO"
        for _ in container.decode(video=0):
            pass


def _filled(path: Path) -> FrameStore:
    full = threading.Event()
    store = FrameStore(path, on_progress=lambda done, wanted: full.set() if done >= wanted else None)
    store.start()
    full.wait(60)
    return store


def _ingest(path: Path) -> Row:
    ours = median_ms(lambda: _filled(path).close(), repeats=5)
    plain = median_ms(lambda: _decode(path), repeats=5)
    return Row("whole clip ingested, 720p", ours, "plain sequential decode", plain, "≤ 1.4 ×")


def _steps(path: Path) -> list[Row]:
    store = _filled(path)
    made = []
    one = median_ms(lambda: _decode(path), repeats=3) / store.info.frames
    for name, order in (("forward", range(1, 200)), ("back", range(200, 1, -1))):
        times = []
        for number in order:
            start = time.perf_counter()
            frame = store.get(number)
            assert frame is not None
            picture_of(frame, 0, size=DISPLAY, form="bgra")
            times.append(1000 * (time.perf_counter() - start))
        made.append(
            Row(f"warm step {name}, p95", percentile(times, 0.95), "decode of one frame", one, "under 16 ms")
        )
    store.close()
    return made


def _opening(path: Path) -> Row:
    def ours() -> None:
        with Clip(path) as clip:
            picture_of(clip.frame(0), 0, size=DISPLAY)

    def plain() -> None:
        with av.open(str(path)) as container:
            next(container.decode(video=0)).to_ndarray(format="rgb24")

    return Row(
        "open to first picture", median_ms(ours), "open + decode of one frame", median_ms(plain), "≤ 1.3 ×"
    )


def _flow(path: Path) -> Row:
    with Clip(path) as clip:
        frames = [luma_of(frame, 0) for _, frame in clip.frames()]
        times = clip.info.times_s
    names = ("left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle", "head")
    marks = [Mark(name, 0, 600.0 + 12 * k, 300.0 + 40 * k) for k, name in enumerate(names)]
    asked = legs(marks, len(frames))
    ours = median_ms(lambda: follow(asked, lambda n: frames[n], times, metre=300.0), repeats=2)
    start = np.array([[[m.x, m.y]] for m in marks], np.float32)

    def whole() -> None:
        for here, there in itertools.pairwise(frames):
            on, _, _ = cv2.calcOpticalFlowPyrLK(here, there, start, None)
            cv2.calcOpticalFlowPyrLK(there, here, on, None)

    reference = median_ms(whole, repeats=2) + median_ms(lambda: _decode(path), repeats=2)
    return Row(
        "follow 7 points (17 spots each) one way through 300 frames",
        ours,
        "decode + whole-image forward–backward flow of 7 spots",
        reference,
        "≤ 1 ×",
    )
