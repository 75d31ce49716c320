"""Exact frames from files made here, and files that are not what they should be."""

from __future__ import annotations

import threading
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kneel.footage import Clip, FrameStore, picture_of, write_clip
from kneel.footage.clip import luma_of
from kneel.model import FootageError

SIZE = (160, 96)
BITS = 8


def numbered(number: int) -> np.ndarray:
    """A picture that carries its own number as a bar pattern."""
    picture = np.full((SIZE[1], SIZE[0], 3), 40, np.uint8)
    for bit in range(BITS):
        if number >> bit & 1:
            picture[20:76, 20 * bit : 20 * bit + 18] = 220
    return picture


def number_of(picture: np.ndarray) -> int:
    return sum(1 << bit for bit in range(BITS) if picture[48, 20 * bit + 9].mean() > 130)


def make(
    path: Path, stamps: list[int], *, codec: str = "libx264", rotation: int = 0, gop: int = 12, **options: str
) -> Path:
    """A clip whose frame k carries k, shown at ``stamps[k]`` milliseconds."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=30)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.time_base = Fraction(1, 1000)
        stream.codec_context.time_base = Fraction(1, 1000)
        stream.options = {"g": str(gop), **options}
        if rotation:
            stream.set_display_rotation(rotation)
        for number, stamp in enumerate(stamps):
            frame = VideoFrame.from_ndarray(numbered(number), format="rgb24")
            frame.pts, frame.time_base = stamp, Fraction(1, 1000)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


STEADY = [round(k * 1000 / 30) for k in range(60)]


@pytest.mark.parametrize(
    ("name", "codec", "options"),
    [
        ("h264.mp4", "libx264", {"bf": "3"}),
        ("h264.mov", "libx264", {}),
        ("h264.mkv", "libx264", {"bf": "2"}),
        ("vp9.webm", "libvpx-vp9", {"deadline": "realtime", "cpu-used": "8"}),
    ],
)
def test_every_frame_is_itself_in_any_order(tmp_path, name, codec, options):
    """Forward, backward and at random, frame n carries number n; B-frames included."""
    path = make(tmp_path / name, STEADY, codec=codec, **options)
    with Clip(path) as clip:
        assert clip.info.frames == len(STEADY)
        order = [*range(60), *range(59, -1, -7), *np.random.default_rng(1).integers(0, 60, 25).tolist()]
        for number in order:
            assert number_of(picture_of(clip.frame(number), 0)) == number
        assert [n for n, _ in clip.frames(20)] == list(range(20, 60))


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(seed=st.integers(0, 1000))
def test_variable_rate_keeps_its_times(tmp_path, seed):
    """Jitter, dropped frames and a slow-motion ramp: times are those written, frames those asked for."""
    rng = np.random.default_rng(seed)
    gaps = rng.integers(20, 80, 39)
    gaps[rng.integers(0, 39)] = 500
    stamps = [0, *np.cumsum(gaps).tolist()]
    with Clip(make(tmp_path / f"{seed}.mp4", stamps)) as clip:
        np.testing.assert_allclose(clip.info.times_s, np.array(stamps) / 1000, atol=2e-3)
        for number in rng.integers(0, 40, 12).tolist():
            assert number_of(picture_of(clip.frame(number), 0)) == number


@pytest.mark.parametrize("turned", [90, 180, 270])
def test_rotation_is_honoured(tmp_path, turned):
    """A clip whose metadata asks for a turn comes out upright, sizes swapped."""
    path = make(tmp_path / "turned.mp4", STEADY[:6], rotation=turned)
    with Clip(path) as clip:
        picture = picture_of(clip.frame(5), clip.info.rotation)
        assert picture.shape[:2] == (clip.info.height, clip.info.width)
        assert (clip.info.width > clip.info.height) == (turned == 180)
        back = np.rot90(picture, clip.info.rotation // 90)
        assert number_of(back) == 5
        bright = luma_of(clip.frame(5), clip.info.rotation)
        assert bright.shape == picture.shape[:2]
        counter_clockwise = {90: 1, 180: 2, 270: 3}[turned]
        assert clip.info.rotation == (360 - 90 * counter_clockwise) % 360


def test_colours_come_back(tmp_path):
    """Written and read by the clip's own matrix, plain colours keep within a few levels."""
    colours = np.array([(200, 60, 50), (60, 170, 80), (50, 80, 200), (235, 235, 235), (20, 20, 20)], np.uint8)
    picture = np.repeat(np.repeat(colours[None], 64, axis=0), 32, axis=1)
    path = tmp_path / "colours.mp4"
    write_clip(path, [picture] * 3, rate=30, size=(160, 64), quality=5)
    with Clip(path) as clip:
        back = picture_of(clip.frame(1), 0)
    for k, colour in enumerate(colours):
        patch = back[16:48, 32 * k + 8 : 32 * k + 24].reshape(-1, 3).mean(axis=0)
        assert np.abs(patch - colour).max() < 6


def test_store_gives_every_frame_within_its_bound(tmp_path):
    """A store too small for the clip still gives any frame, and never holds more than its bound."""
    path = make(tmp_path / "clip.mp4", STEADY)
    came: dict[int, threading.Event] = {n: threading.Event() for n in range(60)}
    bound = 20 * SIZE[0] * SIZE[1] * 3 // 2
    store = FrameStore(path, bound_bytes=bound, on_ready=lambda n: came[n].set())
    store.start()
    try:
        for number in (59, 0, 30, 58, 1):
            store.request(number)
            assert came[number].wait(10)
            frame = store.get(number)
            assert frame is not None
            assert number_of(picture_of(frame, 0)) == number
            assert store.held * SIZE[0] * SIZE[1] * 3 // 2 <= bound
    finally:
        store.close()


def written(path: Path, content: bytes) -> Path:
    path.write_bytes(content)
    return path


@pytest.mark.parametrize("kind", ["missing", "folder", "empty", "text", "cut off", "sound only", "noise"])
def test_bad_files_get_one_sentence(tmp_path, kind):
    path = tmp_path / "clip.mp4"
    if kind == "folder":
        path.mkdir()
    elif kind == "empty":
        path.touch()
    elif kind == "text":
        path.write_text("this is no film\n" * 50)
    elif kind == "noise":
        path.write_bytes(np.random.default_rng(0).bytes(5000))
    elif kind == "cut off":
        whole = make(tmp_path / "whole.mp4", STEADY).read_bytes()
        path.write_bytes(whole[: len(whole) // 2])
    elif kind == "sound only":
        with av.open(str(path), "w") as container:
            stream = container.add_stream("aac", rate=48000, layout="mono")
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 1024), np.float32), "fltp", "mono")
            frame.sample_rate, frame.pts = 48000, 0
            container.mux(stream.encode(frame))
            container.mux(stream.encode(None))
    with pytest.raises(FootageError) as caught:
        Clip(path)
    sentence = str(caught.value)
    assert "\n" not in sentence and sentence.endswith(".") and len(sentence) > 20


def test_what_is_left_of_a_broken_tail_is_shown(tmp_path):
    """With the table in front, the frames before the break are there and exact, and it is said."""
    whole = make(tmp_path / "whole.mp4", STEADY, movflags="faststart")
    with (
        av.open(str(whole)) as source,
        av.open(str(tmp_path / "fast.mp4"), "w", options={"movflags": "faststart"}) as out,
    ):
        stream = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(source.streams.video[0]):
            if packet.dts is not None:
                packet.stream = stream
                out.mux(packet)
    content = (tmp_path / "fast.mp4").read_bytes()
    broken = written(tmp_path / "broken.mp4", content[: len(content) * 2 // 3])
    with Clip(broken) as clip:
        assert 5 < clip.info.frames < 60
        assert "breaks off" in clip.info.warnings[0]
        assert number_of(picture_of(clip.frame(4), 0)) == 4
        with pytest.raises(FootageError):
            clip.frame(59)
