"""Opening, ingesting, stepping and following, each against the bare library in the same run."""

from __future__ import annotations

import resource
import tempfile
import threading
import time
from collections.abc import Iterator
from importlib.resources import as_file, files
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np

from benchmarks.measure import Row, median_ms, percentile
from kneel.footage import Clip, FrameStore, luma_of, picture_of
from kneel.model import Mark
from kneel.vision import follow, legs

DISPLAY = (812, 456)
GOP = 240
NOISES = 12
SORTS = {
    "720p": {"width": 1280, "height": 720, "count": 300, "rate": 120, "megabits": 25},
    "1080p": {"width": 1920, "height": 1080, "count": 240, "rate": 240, "megabits": 60},
}


def rows() -> Iterator[Row]:
    """All rows about footage."""
    with tempfile.TemporaryDirectory() as folder:
        for name, sort in SORTS.items():
            path = _noisy(Path(folder) / f"{name}.mp4", **sort)
            yield _opening(path, name)
            yield _ingest(path, name)
            yield from _steps(path, name)
            yield _backward_cold(path, name)
            yield _jump(path, name)
            yield _packed(path, name)
            yield _memory(path, name)
    with as_file(files("kneel.demo") / "data" / "2026-11-03" / "maren-tolhurst-iron.mp4") as path:
        yield _flow(path)


def _noisy(path: Path, width: int, height: int, count: int, *, rate: int, megabits: int) -> Path:
    """A clip as a phone writes it: long groups, one slice a picture, much noise, 25 to 60 Mb/s."""
    rng = np.random.default_rng(0)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    base = np.stack(
        [x / width * 160 + 40, y / height * 120 + 60, (x + y) / (width + height) * 140 + 40], axis=2
    )
    noise = [rng.normal(0, 6, (height, width, 1)).astype(np.float32) for _ in range(NOISES)]
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.bit_rate, stream.thread_type = megabits * 1_000_000, "FRAME"
        stream.options = {"preset": "veryfast", "g": str(GOP), "x264-params": "scenecut=0"}
        for k in range(count):
            picture = base + noise[k % NOISES]
            picture[height // 3 : height // 2, (7 * k) % width : (7 * k) % width + 60] = 220
            frame = av.VideoFrame.from_ndarray(np.clip(picture, 0, 255).astype(np.uint8), format="rgb24")
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def _decode(path: Path, count: int | None = None) -> None:
    with av.open(str(path)) as container:
        for number, _ in enumerate(container.decode(video=0), 1):
            if number == count:
                return


def _filled(path: Path, **more: int) -> FrameStore:
    full = threading.Event()
    store = FrameStore(path, on_progress=lambda done, wanted: full.set() if done >= wanted else None, **more)
    store.start()
    full.wait(120)
    return store


def _opening(path: Path, name: str) -> Row:
    def ours() -> None:
        with Clip(path) as clip:
            picture_of(clip.first, clip.upright, size=DISPLAY)

    def plain() -> None:
        with av.open(str(path)) as container:
            next(container.decode(video=0)).to_ndarray(format="rgb24")

    reference = "open + decode of one frame to RGB"
    return Row(f"{name}: open to first picture", median_ms(ours), reference, median_ms(plain), "≤ 1.3 ×")


def _ingest(path: Path, name: str) -> Row:
    ours = median_ms(lambda: _filled(path).close(), repeats=3)
    plain = median_ms(lambda: _decode(path), repeats=3)
    return Row(f"{name}: whole clip ingested", ours, "plain sequential decode", plain, "≤ 1.4 ×")


def _show(store: FrameStore, number: int) -> float:
    start = time.perf_counter()
    frame = store.get(number)
    while frame is None:
        store.request(number)
        time.sleep(0.001)
        frame = store.get(number)
    picture_of(frame, store.info.upright, size=DISPLAY, form="bgra")
    return 1000 * (time.perf_counter() - start)


def _steps(path: Path, name: str) -> Iterator[Row]:
    """Steps on a warm store, and forward steps while it still fills."""
    with Clip(path) as clip:
        count = clip.info.frames
    seek = _opencv_seek_ms(path, count)
    store = _filled(path)
    for way, order in (("forward", range(1, 200)), ("back", range(200, 1, -1))):
        times = [_show(store, n) for n in order]
        yield Row(
            f"{name}: warm step {way}, p95", percentile(times, 0.95), "OpenCV seek, p95", seek, "under 16 ms"
        )
    store.close()
    store = FrameStore(path)
    store.start()
    time.sleep(0.3)
    times = []
    for n in range(1, 20):
        times.append(_show(store, n))
        time.sleep(0.02)
    store.close()
    yield Row(
        f"{name}: step while ingesting, p95", percentile(times, 0.95), "OpenCV seek, p95", seek, "under 33 ms"
    )


def _opencv_seek_ms(path: Path, count: int) -> float:
    capture = cv2.VideoCapture(str(path))
    times = []
    for number in np.random.default_rng(1).integers(0, count, 12).tolist():
        start = time.perf_counter()
        capture.set(cv2.CAP_PROP_POS_FRAMES, number)
        capture.read()
        times.append(1000 * (time.perf_counter() - start))
    capture.release()
    return percentile(times, 0.95)


def _backward_cold(path: Path, name: str) -> Row:
    """One step back where nothing is stored, against decoding its group of pictures once."""
    with Clip(path) as clip:
        number = min(GOP, clip.info.frames) - 2
        clip.frame(number + 1)
        ours = median_ms(lambda: clip.frame(number), repeats=3)
    group = median_ms(lambda: _decode(path, number + 1), repeats=3)
    return Row(f"{name}: step back, not stored", ours, "decode of its group once", group, "≤ 1.2 ×")


def _jump(path: Path, name: str) -> Row:
    """Something to show after a random jump into what is not stored yet."""
    store = FrameStore(path)
    times = []
    for number in (170, 30, 120, 199, 77):
        start = time.perf_counter()
        frame = store.get(number) or store.nearest(number)
        assert frame is not None
        picture_of(frame, store.info.upright, size=DISPLAY, form="bgra")
        times.append(1000 * (time.perf_counter() - start))
    store.close()
    seek = _opencv_seek_ms(path, store.info.frames)
    return Row(f"{name}: some picture after a jump", max(times), "OpenCV seek, p95", seek, "under 50 ms")


def _packed(path: Path, name: str) -> Row:
    """Warm steps on a clip three times too large for its bound, kept as JPEG."""
    with Clip(path) as clip:
        whole = clip.info.frames * sum(plane.buffer_size for plane in clip.first.planes)
    bound = whole // 2
    store = _filled(path, bound_bytes=bound)
    times = []
    for number in range(40, 140):
        times.append(_show(store, number))
        time.sleep(0.012)
    assert store.bytes_held <= bound
    seek = _opencv_seek_ms(path, store.info.frames)
    store.close()
    return Row(
        f"{name}: warm step of a packed clip, p95",
        percentile(times, 0.95),
        "OpenCV seek, p95",
        seek,
        "under 16 ms",
    )


def _memory(path: Path, name: str) -> Row:
    """What the process still holds after a clip was opened whole and closed four times."""
    with Clip(path) as clip:
        whole = clip.info.frames * sum(plane.buffer_size for plane in clip.first.planes)
    _filled(path).close()
    before = _resident_bytes()
    for _ in range(4):
        _filled(path).close()
    left = max(_resident_bytes() - before, 0) / 2**20
    return Row(f"{name}: MB left after closing 4 times", left, "MB of its frames", whole / 2**20, "≤ 0.05 ×")


def _resident_bytes() -> int:
    return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize()


def _flow(path: Path) -> Row:
    with Clip(path) as clip:
        frames = [luma_of(frame, clip.upright) for _, frame in clip.frames()]
        times = clip.info.times_s
    names = ("left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle", "head")
    marks = [Mark(name, 0, 600.0 + 12 * k, 300.0 + 40 * k) for k, name in enumerate(names)]
    asked = legs(marks, len(frames))
    ours = median_ms(lambda: follow(asked, lambda n: frames[n], times, px_per_m=300.0), repeats=2)
    start = np.array([[[m.x, m.y]] for m in marks], np.float32)

    def whole() -> None:
        for here, there in pairwise(frames):
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
