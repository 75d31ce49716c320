"""Clips filmed faster than they are stored: tags, edits, the stream's own timing, sound, spread frames."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.footage import Clip, picture_of
from kneel.footage.edits import read_edits
from kneel.footage.probe import probe
from kneel.footage.sound import RATE, read_sound
from kneel.motion.clock import pace_of, real_times
from tests.clips import SIZE, make, number_of, numbered

FILMED = [round(k * 1000 / 240) for k in range(240)]


def with_edits(path: Path, edits: list[tuple[float, float, float]], track: int = 0) -> Path:
    """Rewrite the edit list of one track of an MP4 file: shown seconds, start in the track, rate."""
    data = bytearray(path.read_bytes())
    at = [i for i in range(len(data)) if data.startswith(b"trak", i)][track] - 4
    scale_at = data.find(b"mdhd", at) + 16
    (scale,) = struct.unpack(">I", data[scale_at : scale_at + 4])
    (shown,) = struct.unpack(">I", data[(m := data.find(b"mvhd") + 16) : m + 4])
    body = b"".join(
        struct.pack(">IiI", round(d * shown), round(s * scale), round(r * 65536)) for d, s, r in edits
    )
    new = struct.pack(">I4sII", 16 + len(body), b"elst", 0, len(edits)) + body
    spot = data.find(b"elst", at) - 4
    (old,) = struct.unpack(">I", data[spot : spot + 4])
    for box in (data.find(b"moov") - 4, at, data.find(b"edts", at) - 4):
        (size,) = struct.unpack(">I", data[box : box + 4])
        data[box : box + 4] = struct.pack(">I", size + len(new) - old)
    data[spot : spot + old] = new
    path.write_bytes(bytes(data))
    return path


def numbers(clip: Clip) -> list[int]:
    return [number_of(picture_of(frame, clip.upright)) for _, frame in clip.frames()]


def test_an_edit_that_slows_a_part_down_neither_doubles_frames_nor_bends_time(tmp_path):
    """Played at 1/8 in its middle, every frame is there once, at the time it was filmed at."""
    path = make(tmp_path / "slow.mp4", FILMED, bf="0")
    with_edits(path, [(0.25, 0.0, 1.0), (4.0, 0.25, 0.125), (0.25, 0.75, 1.0)])
    assert [e.rate for e in read_edits(path).video] == [1.0, 0.125, 1.0]
    with Clip(path) as clip:
        assert clip.info.frames == 240 and numbers(clip) == list(range(240))
        np.testing.assert_allclose(clip.info.times_s, np.array(FILMED) / 1000, atol=1e-3)
        (note,) = clip.info.warnings
        assert "8 times slower" in note
        assert clip.info.rate_captured is None


def test_an_edit_that_trims_shows_what_is_left_and_calls_nothing_broken(tmp_path):
    path = with_edits(make(tmp_path / "trim.mp4", FILMED, bf="2"), [(0.5, 0.27, 1.0)])
    with Clip(path) as clip:
        seen = numbers(clip)
        assert seen == list(range(seen[0], seen[0] + clip.info.frames))
        assert abs(clip.info.frames - 120) <= 2 and seen[0] >= 60
        assert [number_of(picture_of(clip.frame(n), clip.upright)) for n in (90, 3, 50)] == [
            seen[0] + n for n in (90, 3, 50)
        ]
        assert not clip.info.warnings


def test_sound_stays_with_the_pictures_when_edits_are_passed_over(tmp_path):
    """The lead-in that the sound's own edit skips is skipped here too."""
    path = tmp_path / "sound.mp4"
    flash = 0.5
    with av.open(str(path), "w") as container:
        video = container.add_stream("libx264", rate=240)
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        sound = container.add_stream("aac", rate=RATE, layout="mono")
        for k in range(240):
            container.mux(video.encode(av.VideoFrame.from_ndarray(numbered(k % 256), format="rgb24")))
        container.mux(video.encode(None))
        samples = np.zeros((1, RATE), np.float32)
        samples[0, round(flash * RATE) :] = np.sin(np.arange(RATE - round(flash * RATE)) * 0.5) * 0.5
        frame = av.AudioFrame.from_ndarray(samples, "fltp", "mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
        container.mux(sound.encode(frame))
        container.mux(sound.encode(None))

    def heard() -> float:
        with Clip(path) as clip:
            found = read_sound(path, clip.start_s)
        return found.start_s + np.flatnonzero(np.abs(found.samples) > 0.2)[0] / found.rate

    assert heard() == pytest.approx(flash, abs=0.002)
    first = read_edits(path).video[0]
    with_edits(path, [(0.5, first.start_s, 1.0), (4.0, first.start_s + 0.5, 0.125)])
    assert read_edits(path).changes_pace
    assert heard() == pytest.approx(flash, abs=0.002)


def slowed(path: Path, source: Path, times: int, *, tag: bool = False, sound_s: float = 0.0) -> Path:
    """The same stream stored several times slower."""
    flags = {"movflags": "use_metadata_tags"} if tag else {}
    with av.open(str(source)) as whole, av.open(str(path), "w", options=flags) as out:
        if tag:
            out.metadata["com.example.capture.fps"] = "240.0"
        stream = out.add_stream_from_template(whole.streams.video[0])
        track = out.add_stream("aac", rate=RATE, layout="mono") if sound_s else None
        for packet in whole.demux(whole.streams.video[0]):
            if packet.dts is None:
                continue
            packet.pts, packet.dts, packet.duration = (
                times * packet.pts,
                times * packet.dts,
                times * packet.duration,
            )
            packet.stream = stream
            out.mux(packet)
        if track:
            frame = av.AudioFrame.from_ndarray(
                np.zeros((1, round(sound_s * RATE)), np.float32), "fltp", "mono"
            )
            frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
            out.mux(track.encode(frame))
            out.mux(track.encode(None))
    return path


def filmed_at(path: Path, rate: int, codec: str = "libx264", **options: str) -> Path:
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate)
        stream.width, stream.height, stream.pix_fmt, stream.options = *SIZE, "yuv420p", options
        for k in range(rate):
            container.mux(stream.encode(av.VideoFrame.from_ndarray(numbered(k), format="rgb24")))
        container.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("how", ["tag", "h264", "hevc", "sound"])
def test_a_slowed_file_gives_its_rate_away(tmp_path, how):
    """Filmed at 240, stored at 30: told by a tag, by the timing in the stream or by a shorter sound track."""
    kinds = {
        "h264": ("libx264", {}),
        "hevc": ("libx265", {"x265-params": "log-level=none", "preset": "ultrafast"}),
    }
    codec, options = kinds.get(how, ("mpeg4", {}))
    source = filmed_at(tmp_path / "filmed.mp4", 240, codec, **options)
    with Clip(source) as clip:
        assert clip.info.filmed is None
    path = slowed(tmp_path / "slow.mp4", source, 8, tag=how == "tag", sound_s=1.0 if how == "sound" else 0.0)
    found = probe(path)
    assert found.info.rate_stored == pytest.approx(30, rel=1e-3)
    assert found.rate_captured == pytest.approx(240, rel=1e-3)
    assert any("8 times slower" in note for note in found.warnings)


def test_a_tag_that_outlived_its_clip_is_not_believed(tmp_path):
    """Written anew at 30 frames a second of life: by the tag all would last an eighth of a second."""
    source = filmed_at(tmp_path / "filmed.mp4", 30)
    with Clip(slowed(tmp_path / "kept.mp4", source, 1, tag=True)) as clip:
        assert clip.info.filmed is None


@given(
    parts=st.lists(st.integers(40, 120), min_size=2, max_size=4),
    times=st.sampled_from([4.0, 8.0]),
    lost=st.lists(st.integers(1, 70), max_size=3),
    slow_first=st.booleans(),
)
def test_a_clip_slowed_in_part_is_even_again(parts, times, lost, slow_first):
    """Frames 1/240 s apart in life, some parts spread 4 or 8 times: real times come back, losses and all."""
    pace = np.concatenate(
        [np.full(n, times if (k % 2 == 0) == slow_first else 1.0) for k, n in enumerate(parts)]
    )
    real = np.ones(len(pace))
    real[[k for k in lost if k < len(pace)]] = 2
    stored = np.concatenate([[0.0], np.cumsum(real * pace)]) / 240
    told = pace_of(stored)
    assert told is not None
    expected = np.concatenate([[0.0], np.cumsum(real)]) / 240
    # Where two parts meet beside a lost frame, one step may be told wrong.
    np.testing.assert_allclose(real_times(stored, 240.0, told), expected, atol=8.1 / 240)
    if not lost:
        np.testing.assert_allclose(real_times(stored, 240.0, told), expected, atol=1e-9)


@given(st.integers(0, 10_000))
def test_poor_light_and_lost_frames_are_no_slow_motion(seed):
    """A phone that drops to half its rate in the dark, or loses frames, films in real time."""
    rng = np.random.default_rng(seed)
    steps = np.where(np.arange(300) < rng.integers(40, 260), 1 / 60, 1 / 24) * rng.uniform(0.95, 1.05, 300)
    steps[rng.integers(0, 300, 20)] *= 3
    assert pace_of(np.concatenate([[0.0], np.cumsum(steps)])) is None
