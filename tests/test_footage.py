"""Exact frames from files made here, and files that are not what they should be."""

from __future__ import annotations

import hashlib
import struct
import subprocess
import sys
import threading
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from av.video.frame import VideoFrame
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kneel.footage import Clip, FrameStore, Upright, luma_of, picture_of, write_clip
from kneel.footage.content import PART_BYTES, content_of
from kneel.footage.kinds import what_else
from kneel.footage.packing import Packer, Unpacker
from kneel.footage.turning import turned_copy
from kneel.footage.upright import _tone_table, placed
from kneel.model import FootageError
from tests.clips import STEADY, make, number_of
from tests.desk import PATIENCE_MS


def see(clip: Clip, number: int) -> int:
    """The number that frame ``number`` of a clip carries."""
    return number_of(picture_of(clip.frame(number), clip.upright))


KINDS = {
    "h264-b.mp4": ("libx264", {"bf": "3"}),
    "h264-open.mp4": ("libx264", {"bf": "2", "x264-params": "open-gop=1"}),
    "h264.mov": ("libx264", {}),
    "h264.mkv": ("libx264", {"bf": "2"}),
    "h264.avi": ("libx264", {"bf": "0"}),
    "hevc.mp4": ("libx265", {"x265-params": "log-level=none:open-gop=1:bframes=3", "preset": "ultrafast"}),
    "hevc.mkv": ("libx265", {"x265-params": "log-level=none", "preset": "ultrafast"}),
    "vp9.webm": ("libvpx-vp9", {"deadline": "realtime", "cpu-used": "8"}),
    "vp9.mp4": ("libvpx-vp9", {"deadline": "realtime", "cpu-used": "8"}),
    "av1.mp4": ("libsvtav1", {"preset": "12", "svtav1-params": "lp=1"}),
    "av1.mkv": ("libsvtav1", {"preset": "12", "svtav1-params": "lp=1"}),
    "mpeg4.avi": ("mpeg4", {"bf": "0"}),
    "mpeg4.mp4": ("mpeg4", {"bf": "2"}),
    "mjpeg.avi": ("mjpeg", {}),
    "mjpeg.mov": ("mjpeg", {}),
}


@pytest.mark.parametrize("name", KINDS)
def test_every_frame_is_itself_in_any_order(tmp_path, name):
    """Forward, backward and at random frame n carries number n, and is the plain decode's to the bit."""
    codec, options = KINDS[name]
    pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
    path = make(tmp_path / name, STEADY, codec=codec, pix_fmt=pix_fmt, **options)
    plain, keys = [], []
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            keys += [len(plain)] * frame.key_frame
            plain.append(hash(frame.to_ndarray().tobytes()))
    with Clip(path) as clip:
        assert clip.info.frames == len(STEADY) == len(plain)
        np.testing.assert_allclose(np.diff(clip.info.times_s), 1 / 30, atol=2e-3)
        order = [*range(60), *range(59, -1, -7), *np.random.default_rng(1).integers(0, 60, 25).tolist()]
        for number in order:
            frame = clip.frame(number)
            assert number_of(picture_of(frame, clip.upright)) == number
            assert hash(frame.to_ndarray().tobytes()) == plain[number]
        assert [n for n, _ in clip.frames(20)] == list(range(20, 60))
        before = max(key for key in keys if key <= 40)
        assert clip.nearby(40, 60) == clip.nearby(40, 40 - before) == before
        assert clip.nearby(40, 40 - before - 1) == 40


def test_ten_bits_odd_sizes_and_pixels_that_are_not_square(tmp_path):
    deep = make(
        tmp_path / "deep.mp4",
        STEADY[:20],
        codec="libx265",
        pix_fmt="yuv420p10le",
        **{"x265-params": "log-level=none", "preset": "ultrafast"},
    )
    with Clip(deep) as clip:
        assert [see(clip, n) for n in (3, 19, 7)] == [3, 19, 7]
        assert luma_of(clip.frame(3), clip.upright).dtype == np.uint8
    wide = make(tmp_path / "wide.mp4", STEADY[:8], aspect=Fraction(4, 3))
    with Clip(wide) as clip:
        assert (clip.info.width, clip.info.height) == (213, 96)
        assert picture_of(clip.frame(5), clip.upright).shape == (96, 213, 3)
        assert luma_of(clip.frame(5), clip.upright).shape == (96, 213)
    odd = tmp_path / "odd.mkv"
    with av.open(str(odd), "w") as container:
        stream = container.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt = 161, 97, "yuv444p"
        for k in range(4):
            picture = np.full((97, 161, 3), 50 * k, np.uint8)
            container.mux(stream.encode(VideoFrame.from_ndarray(picture, format="rgb24")))
        container.mux(stream.encode(None))
    with Clip(odd) as clip:
        assert picture_of(clip.frame(2), clip.upright).shape == (97, 161, 3)
        assert abs(int(picture_of(clip.frame(2), clip.upright).mean()) - 100) < 4


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
            assert see(clip, number) == number


@pytest.mark.parametrize("turned", [90, 180, 270])
def test_rotation_is_honoured(tmp_path, turned):
    """A clip whose metadata asks for a turn comes out upright, sizes swapped (as the decoder tells it)."""
    path = make(tmp_path / "turned.mp4", STEADY[:6], rotation=turned)
    with Clip(path) as clip:
        told = clip.frame(5).rotation
        picture = picture_of(clip.frame(5), clip.upright)
        assert picture.shape[:2] == (clip.info.height, clip.info.width)
        assert (clip.info.width > clip.info.height) == (turned == 180)
        assert number_of(np.rot90(picture, -told // 90)) == 5
        assert luma_of(clip.frame(5), clip.upright).shape == picture.shape[:2]


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    ways=st.lists(st.integers(-3, 7), min_size=1, max_size=3),
    kind=st.sampled_from(["h264-b.mp4", "h264.mov"]),
)
def test_a_turned_copy_shows_the_same_pictures_turned(tmp_path, ways, kind):
    """Whatever turns there were before, and the film coded as it was; the source stays to the byte."""
    source = tmp_path / kind
    if not source.exists():
        make(source, STEADY[:4])
    before = source.read_bytes()
    with Clip(source) as clip:
        plain = picture_of(clip.frame(2), clip.upright)
    last, total = source, 0
    for number, quarters in enumerate(ways):
        target = tmp_path / f"{number}-{kind}"
        told: list[tuple[int, int]] = []
        assert turned_copy(last, target, quarters, progress=lambda *now, told=told: told.append(now))
        assert told[-1] == (len(before), len(before)) and target.stat().st_size == len(before)
        last, total = target, total + quarters
    with Clip(last) as clip:
        np.testing.assert_array_equal(picture_of(clip.frame(2), clip.upright), np.rot90(plain, -total))
        assert (clip.info.height, clip.info.width) == np.rot90(plain, -total).shape[:2]
    changed = sum(a != b for a, b in zip(last.read_bytes(), before, strict=True))
    assert changed <= 36 and source.read_bytes() == before


@pytest.mark.parametrize("odd", ["avi", "cut off", "no pictures", "far off", "stopped", "gone"])
def test_what_cannot_be_turned_leaves_nothing_behind(tmp_path, odd):
    source, target = tmp_path / "a.mp4", tmp_path / "b.mp4"
    if odd == "avi":
        source = make(tmp_path / "a.avi", STEADY[:4], codec="mpeg4", bf="0")
    elif odd != "gone":
        make(source, STEADY[:4])
        content = source.read_bytes()
        at = content.index(b"hdlr") + 12 if odd == "no pictures" else content.index(b"tkhd")
        if odd == "cut off":
            source.write_bytes(content[: at + 20])
        elif odd == "no pictures":
            source.write_bytes(content[:at] + b"soun" + content[at + 4 :])
        elif odd == "far off":
            source.write_bytes(content[: at + 44] + 36 * b"\x7f" + content[at + 80 :])
    there = sorted(tmp_path.iterdir())
    if odd == "stopped":
        assert not turned_copy(source, target, 1, stopped=lambda: True)
    else:
        with pytest.raises((FootageError, OSError), match=r"untouched|a\.mp4"):
            turned_copy(source, target, 1)
    assert sorted(tmp_path.iterdir()) == there


@pytest.mark.parametrize(
    ("matrix", "expected"),
    [
        ((1, 0, 0, 1), lambda p: p),
        ((-1, 0, 0, 1), lambda p: p[:, ::-1]),
        ((1, 0, 0, -1), lambda p: p[::-1]),
        ((-1, 0, 0, -1), lambda p: p[::-1, ::-1]),
        ((0, 1, -1, 0), lambda p: np.rot90(p, -1)),
        ((0, -1, 1, 0), np.rot90),
        ((0, 1, 1, 0), lambda p: p.transpose(1, 0, 2)),
        ((0, -1, -1, 0), lambda p: np.rot90(p, 2).transpose(1, 0, 2)),
    ],
)
def test_display_matrices(matrix, expected):
    """All eight of ISO/IEC 14496-12: (x, y) of the stored picture goes to (a x + c y, b x + d y)."""
    a, b, c, d = (int(v) << 16 for v in matrix)
    raw = struct.pack("<9i", a, b, 0, c, d, 0, 0, 0, 1 << 30)
    turn, mirrored = placed(raw)
    picture = np.arange(24, dtype=np.uint8).reshape(4, 2, 3)
    assert (Upright(turn, mirrored, 0, 0).turned(picture) == expected(picture)).all()


def test_colours_come_back(tmp_path):
    """Written and read by the clip's own matrix, plain colours keep within a few levels."""
    colours = np.array([(200, 60, 50), (60, 170, 80), (50, 80, 200), (235, 235, 235), (20, 20, 20)], np.uint8)
    picture = np.repeat(np.repeat(colours[None], 64, axis=0), 32, axis=1)
    path = tmp_path / "colours.mp4"
    write_clip(path, [picture] * 3, rate=30, size=(160, 64), quality=5)
    with Clip(path) as clip:
        back = picture_of(clip.frame(1), clip.upright)
    for k, colour in enumerate(colours):
        patch = back[16:48, 32 * k + 8 : 32 * k + 24].reshape(-1, 3).mean(axis=0)
        assert np.abs(patch - colour).max() < 6


@pytest.mark.parametrize("form", ["yuv420p", "yuv444p"])
@pytest.mark.parametrize("turn", [0, 90])
def test_a_part_of_a_picture_is_what_the_whole_shows_there(form, turn):
    """Cut before it is converted where that can be, after it where not: the same pixels."""
    rng = np.random.default_rng(0)
    blocks = np.kron(rng.integers(30, 220, (12, 20, 1)), np.ones((8, 8, 1))).repeat(3, axis=2)
    frame = VideoFrame.from_ndarray(blocks.astype(np.uint8), format="rgb24").reformat(format=form)
    wide, high = (96, 160) if turn else (160, 96)
    upright = Upright(turn, False, wide, high)
    whole = picture_of(frame, upright).astype(int)
    for left, top, across, down in ((0, 0, 32, 16), (24, 48, 48, 40), (wide - 16, high - 24, 16, 24)):
        part = picture_of(frame, upright, part=(left, top, across, down))
        assert np.abs(part - whole[top : top + down, left : left + across]).max() <= 3
        small = picture_of(frame, upright, part=(left, top, across, down), size=(across // 2, down // 2))
        assert small.shape == (down // 2, across // 2, 3)
        assert abs(small.mean() - part.mean()) < 2


def test_a_picture_of_wide_range_shows_white_as_white():
    """Code 0.5807 is 203 cd/m², the white of ITU-R BT.2408, 0.5081 is 100 (SMPTE ST 2084, from memory)."""
    levels = _tone_table().astype(int)
    coded = np.round(255 * np.array([0.5081, 0.5807])).astype(int)
    light = 100 / 203
    rolled = light * (1 + light / 16) / (1 + light) / (17 / 32)
    assert levels[coded[1]] >= 253 and levels[coded[0]] == pytest.approx(255 * rolled ** (1 / 2.2), abs=3)
    assert levels[0] == 0 and (np.diff(levels) >= 0).all() and levels[coded[1] + 1 :].min() == 255


@pytest.mark.parametrize("share", [2.0, 0.5, 0.12])
def test_store_gives_every_frame_within_its_bound(tmp_path, share):
    """Raw where the clip fits, packed where it does not: any frame comes, memory stays in its bound."""
    path = make(tmp_path / "clip.mp4", STEADY)
    came: dict[int, threading.Event] = {n: threading.Event() for n in range(60)}
    with Clip(path) as clip:
        frame_bytes = sum(plane.buffer_size for plane in clip.first.planes)
    bound = int(share * 60 * frame_bytes)
    store = FrameStore(path, bound_bytes=bound, on_ready=lambda n: came[n].set())
    assert store.packs == (share < 1)
    store.start()
    try:
        for number in (59, 0, 30, 58, 1, 31, 32, 29):
            # Reading ahead may have brought the frame and packed it away again since.
            frame = store.get(number)
            while frame is None:
                came[number].clear()
                store.request(number)
                assert came[number].wait(10)
                frame = store.get(number)
            assert number_of(picture_of(frame, store.info.upright)) == number
            assert store.bytes_held <= bound
    finally:
        store.close()
    assert store.held == 0


def test_store_keeps_a_whole_clip_packed_and_colours_right(tmp_path):
    """After packing and unpacking plain colours keep within a few levels, limited range and all."""
    colours = np.array([(200, 60, 50), (60, 170, 80), (50, 80, 200), (235, 235, 235), (20, 20, 20)], np.uint8)
    picture = np.repeat(np.repeat(colours[None], 64, axis=0), 32, axis=1)
    path = tmp_path / "colours.mp4"
    write_clip(path, [picture] * 40, rate=30, size=(160, 64), quality=5)
    with Clip(path) as clip:
        packed = Packer().pack(clip.frame(7))
        back = picture_of(Unpacker().unpack(packed), clip.upright)
    for k, colour in enumerate(colours):
        patch = back[16:48, 32 * k + 8 : 32 * k + 24].reshape(-1, 3).mean(axis=0)
        assert np.abs(patch - colour).max() < 7


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


@pytest.mark.parametrize(
    ("head", "words"),
    [
        (b"RIFF\0\0\0\0WAVEfmt ", "sound alone"),
        (b"RIFF\0\0\0\0WEBPVP8 ", "a picture (WebP)"),
        (b"RIFF\0\0\0\0AVI LIST", None),
        (b"XXXX\0\0\0\0WAVE\xff", None),
        (b"\0\0\0\1\x67\x42", "a bare stream"),
        (b"\0\0\1\xba\x44\0", None),
        (b"\xef\xbb\xbf\n#EXTM3U\nhttp", "a list that names other files"),
        (b"golfer\nline", "text"),
        (b"PK\3\4\x14", "a packed folder"),
        (b"\xff\xd8\xff\xe0", "a picture (JPEG)"),
    ],
)
def test_what_a_file_is_instead_is_said(tmp_path, head, words):
    said = what_else(written(tmp_path / "clip.mp4", head))
    assert said is None if words is None else said.startswith(words)


@pytest.mark.parametrize("size", [5, PART_BYTES, PART_BYTES + 9, 6 * PART_BYTES])
def test_a_content_keeps_its_name_and_has_another_where_a_byte_is_another(tmp_path, size):
    """Documents and caches of years hold that name: first, middle and last megabyte, and the size."""
    whole = np.random.default_rng(1).bytes(size)
    middle, last = max(size // 2 - PART_BYTES // 2, 0), max(size - PART_BYTES, 0)
    told = hashlib.sha256(str(size).encode())
    for start in sorted({0, middle, last}):
        told.update(whole[start : start + PART_BYTES])
    path = written(tmp_path / "a.mp4", whole)
    name = content_of(path)
    assert name == told.hexdigest()[:32]
    for at in (0, size // 2, size - 1):
        changed = bytearray(whole)
        changed[at] ^= 1
        assert content_of(written(path, bytes(changed))) != name


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
        assert see(clip, 4) == 4
        with pytest.raises(FootageError):
            clip.frame(59)


SHARED = """
import threading
import numpy as np
from av.video.frame import VideoFrame
from kneel.footage.upright import Upright, luma_of, picture_of
grey = np.random.default_rng(0).integers(0, 255, (480, 640, 3), dtype=np.uint8)
frame = VideoFrame.from_ndarray(grey, format="rgb24").reformat(format="yuvj444p")
def look(wide):
    for _ in range(100):
        picture_of(frame, Upright(0, False, 640, 480), size=(wide, 240), form="bgra")
        luma_of(frame, Upright(0, False, wide, 240))
threads = [threading.Thread(target=look, args=(320 + 16 * k,)) for k in range(4)]
for one in threads:
    one.start()
for one in threads:
    one.join()
print("lived")
"""


def test_threads_look_at_one_frame_without_harm():
    """The stage, the pictures made ahead and the following of points share the frames of the store."""
    words = [sys.executable, "-c", SHARED]
    done = subprocess.run(words, capture_output=True, text=True, timeout=PATIENCE_MS / 1000, check=False)
    assert (done.returncode, done.stdout.strip()) == (0, "lived"), done.stderr
