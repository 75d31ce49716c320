"""The strike in the sound, swings in a long clip, and what probe, still and export give."""

from __future__ import annotations

import json
from fractions import Fraction

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from kneel.cli.main import main
from kneel.demo.lesson import takes
from kneel.demo.place import FIRST, TODAY
from kneel.evidence import Shelf
from kneel.evidence.swings import swings_in
from kneel.footage import Clip, picture_of
from kneel.footage.content import content_of
from kneel.footage.export import save_png, save_range
from kneel.footage.hearing import in_real_time
from kneel.footage.motion import find_swings, motion_energy
from kneel.footage.probe import probe
from kneel.footage.sound import RATE, Sound, read_sound
from kneel.footage.strike import Strike, find_strikes
from kneel.model import FootageError, UsageError
from kneel.motion.checkpoints import Moment
from tests.clips import ranged

LENGTH = 3 * RATE
CLOCK = np.arange(LENGTH) / RATE


def heard(samples: np.ndarray) -> list[Strike]:
    return find_strikes(Sound(samples, RATE, 0.0))


def air(seed: int, level: float = 0.01) -> np.ndarray:
    return np.random.default_rng(seed).normal(0, level, LENGTH)


def click(at: float, *, high: float = 0.7, dies_s: float = 0.006, seed: int = 1) -> np.ndarray:
    """A band of noise that begins at a known sample and dies away."""
    start = round(at * RATE)
    tail = np.arange(LENGTH - start) / RATE
    band = butter(2, (1800, 9000), "band", fs=RATE, output="sos")
    out = np.zeros(LENGTH)
    ring = sosfilt(band, np.random.default_rng(seed).normal(0, 1, len(tail)))
    out[start:] = high * ring * np.exp(-tail / dies_s)
    return out


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 2.6), st.integers(0, 50), st.floats(0.2, 1.0), st.floats(0.003, 0.02))
def test_a_strike_is_found_to_the_millisecond(at, seed, loud, dies):
    """Spliced into noise at a known sample: within three stated sigma of it, and nothing else is found."""
    found = heard(air(seed) + click(at, high=loud, dies_s=dies, seed=seed + 1))
    assert len(found) == 1
    assert abs(found[0].time_s - round(at * RATE) / RATE) < 3 * found[0].sigma_s
    assert found[0].sigma_s < 0.004


SOUNDS = {
    "air": lambda: air(1),
    "silence": lambda: np.zeros(LENGTH),
    "voice": lambda: (
        air(2)
        + 0.3
        * np.exp(-(((CLOCK - 1.5) / 0.2) ** 2))
        * sum(np.sin(2 * np.pi * 140 * k * CLOCK) / k for k in range(1, 30))
    ),
    "hiss of an s": lambda: (
        air(3) + ((CLOCK > 1.2) & (CLOCK < 1.5)) * np.clip((CLOCK - 1.2) / 0.03, 0, 1) * air(4, 0.2)
    ),
    "bag": lambda: (
        air(5) + (CLOCK > 1) * 0.8 * np.sin(2 * np.pi * 120 * CLOCK) * np.exp(-np.abs(CLOCK - 1) / 0.05)
    ),
    "mat": lambda: (
        air(6)
        + (CLOCK > 1)
        * sosfilt(butter(2, 450, fs=RATE, output="sos"), air(7, 2.0))
        * np.exp(-np.abs(CLOCK - 1) / 0.03)
    ),
    "swish": lambda: (
        air(8)
        + sosfilt(butter(2, (400, 3000), "band", fs=RATE, output="sos"), air(9, 0.5))
        * np.exp(-(((CLOCK - 1.4) / 0.06) ** 2))
    ),
}


@pytest.mark.parametrize("name", SOUNDS)
def test_what_is_no_strike_is_not_taken_for_one(name):
    assert heard(SOUNDS[name]()) == []


def test_echoes_count_once_and_neighbours_apart():
    echo = air(1) + click(1.0) + 0.4 * click(1.12, seed=4)
    assert len(heard(echo)) == 1
    two = air(1) + click(0.6) + click(2.2, seed=4)
    assert [round(s.time_s, 2) for s in heard(two)] == [0.6, 2.2]
    assert heard(np.zeros(100)) == []


def test_of_two_sounds_of_one_blow_the_far_louder_one_is_the_strike():
    """6 dB above what clicked before it; else the first was the ball and the second the net."""
    for louder, at in ((30.0, 1.15), (1.5, 1.0)):
        (one,) = heard(air(1, 0.002) + 0.03 * click(1.0) + 0.03 * louder * click(1.15, seed=4))
        assert one.time_s == pytest.approx(at, abs=0.002)


def burst(times: np.ndarray, moments: dict[float, float]) -> np.ndarray:
    """Motion as a swing makes it, a third of a second long, over a still picture's own."""
    noise = np.random.default_rng(5).uniform(3, 6, len(times))
    return noise + sum(size * np.exp(-(((times - at) / 0.15) ** 2)) for at, size in moments.items())


@given(
    rate=st.sampled_from([24.0, 30.0, 60.0, 120.0]),
    gaps=st.lists(st.floats(3.3, 9.0), min_size=2, max_size=5),
    missed=st.integers(0, 4),
)
def test_a_burst_is_a_swing_where_a_strike_is_heard_in_it(rate, gaps, missed):
    """Each lies about its own fastest moment, as long as one takes, and ends half way to the next at most."""
    moments = np.cumsum(gaps) + 1
    times = np.arange(0, moments[-1] + 4, 1 / rate)
    energy = burst(times, dict.fromkeys(moments.tolist(), 900.0))
    heard_s = [m + 0.1 for k, m in enumerate(moments) if k != missed]
    for said, there in ((heard_s, [m for k, m in enumerate(moments) if k != missed]), ([], moments.tolist())):
        found = find_swings(times, energy, said)
        assert [one.fastest_s for one in found] == pytest.approx(there, abs=0.02 + 1 / rate)
        for k, (one, at) in enumerate(zip(found, there, strict=True)):
            before = max(at - 2.2, (there[k - 1] + at) / 2 if k else 0.0, 0.0)
            after = min(at + 1.6, (there[k + 1] + at) / 2 if k + 1 < len(there) else np.inf)
            ends = times[one.first], times[one.last]
            assert ends == pytest.approx((before, after), abs=0.04 + 2 / rate)
    assert len(find_swings(times, energy, [0.2])) == len(moments), "a click of its own takes none away"
    small = burst(times, {m: 900.0 if k else 150.0 for k, m in enumerate(moments)})
    assert len(find_swings(times, small, [])) == len(moments) - 1, "somebody who only moves a little"


def test_what_is_heard_lies_on_the_clock_of_the_frames(demo):
    """Filmed at 240 and stored at 120, it took half as long, and its error; as stored, nothing changes."""
    with Clip(demo / "maren-tolhurst-iron.mp4") as clip:
        info = clip.info
    said = [Moment(0.5, 0.004), Moment(info.times_s[-1] + 0.2, 0.004)]
    assert in_real_time(said, info, None) == tuple(said)
    told = in_real_time(said, info, 240.0)
    assert [m.time_s for m in told] == pytest.approx([m.time_s / 2 for m in said])
    assert [m.sigma_s for m in told] == pytest.approx([0.002, 0.002])


@pytest.mark.parametrize("silent", [False, True])
def test_a_range_session_is_split_into_swings(tmp_path, monkeypatch, silent):
    """By what moves, where there is no body model."""
    monkeypatch.setattr("kneel.evidence.swings.installed", lambda: False)
    moments = [3.0, 7.0, 11.5]
    path = ranged(tmp_path, moments, silent=silent)
    found = probe(path)
    heard = [Moment(one.time_s, one.sigma_s) for one in found.strikes]
    seen, swings = swings_in(found.info, content_of(path), None, heard, Shelf())
    assert not seen
    assert len(swings) == 3
    for swing, moment in zip(swings, moments, strict=True):
        assert abs(swing.fastest_s - moment) < 0.3
        assert found.info.times_s[swing.first] < moment - 1 < moment + 1 < found.info.times_s[swing.last]
    ends = [n for s in swings for n in (s.first, s.last)]
    assert ends == sorted(ends)
    assert len(found.strikes) == (0 if silent else 3)


def test_motion_can_be_stopped_and_stillness_is_no_swing(tmp_path):
    path = ranged(tmp_path, [], length_s=10.0)
    with Clip(path) as clip:
        energy = motion_energy(clip, clip.info.times_s)
        assert find_swings(clip.info.times_s, energy, []) == []
        assert not motion_energy(clip, clip.info.times_s, stopped=lambda: True).any()


def test_probe_tells_the_demo_swing(demo, capsys):
    """One swing over the short clip, its strike at the simulated impact, times as stored."""
    assert main(["probe", str(demo / "maren-tolhurst-iron.mp4"), "--json", "-"]) == 0
    content = json.loads(capsys.readouterr().out)
    assert content["frames"] == len(content["times_s"]) == 300
    assert (content["width"], content["height"], content["rotation"]) == (1280, 720, 0)
    assert content["rate_stored"] == content["rate_captured"] == 120
    assert content["times_s"][12] == pytest.approx(0.1, abs=1e-5)
    (strike,) = content["strikes"]
    take = next(t for t in takes() if (t.day, t.file) == (TODAY, FIRST))
    impact = take.shoot.motion.checkpoints_s["impact"]
    assert strike["time_s"] == pytest.approx(impact, abs=3 * strike["sigma_s"])
    (swing,) = content["swings"]
    assert swing["first"] <= 48 and swing["last"] >= 250


def test_sound_keeps_the_clock_of_the_pictures(tmp_path):
    """Sound that begins later than the pictures is placed by its own presentation time."""
    path = tmp_path / "late.mkv"
    with av.open(str(path), "w") as container:
        video = container.add_stream("libx264", rate=30)
        video.width, video.height, video.pix_fmt = 64, 64, "yuv420p"
        audio = container.add_stream("pcm_s16le", rate=RATE, layout="mono")
        for k in range(60):
            frame = av.VideoFrame.from_ndarray(np.full((64, 64, 3), 4 * k, np.uint8), format="rgb24")
            frame.pts, frame.time_base = k, Fraction(1, 30)
            container.mux(video.encode(frame))
        container.mux(video.encode(None))
        samples = (8000 * click(0.7)[: RATE * 3 // 2]).astype(np.int16)
        frame = av.AudioFrame.from_ndarray(samples[None], format="s16", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, RATE // 4, Fraction(1, RATE)
        container.mux(audio.encode(frame))
        container.mux(audio.encode(None))
    with Clip(path) as clip:
        sound = read_sound(path, clip.start_s)
    (strike,) = find_strikes(sound)
    assert strike.time_s == pytest.approx(0.95, abs=0.003)


def test_still_is_exactly_that_frame(demo, tmp_path, capsys):
    clip_path, png = demo / "maren-tolhurst-iron.mp4", tmp_path / "still.png"
    assert main(["still", str(clip_path), "--frame", "146", "--out", str(png)]) == 0
    with av.open(str(png)) as container:
        written = next(container.decode(video=0)).to_ndarray(format="rgb24")
    with Clip(clip_path) as clip:
        np.testing.assert_array_equal(written, picture_of(clip.frame(146), clip.upright))
    for wrong in (["--frame", "300"], ["--frame", "-1"]):
        assert main(["still", str(clip_path), *wrong, "--out", str(png)]) == 2
    assert main(["still", str(clip_path), "--frame", "3", "--out", str(tmp_path / "no" / "x.png")]) == 2
    assert "Traceback" not in capsys.readouterr().err


def test_a_range_is_written_with_what_is_drawn_on_it(demo, tmp_path):
    """Half speed at 30 frames a second: length and drawn frames are right, the file is what phones play."""
    out = tmp_path / "slow.mp4"
    drawn: list[int] = []

    def mark(number: int, picture: np.ndarray) -> np.ndarray:
        drawn.append(number)
        marked = picture.copy()
        marked[:40, :40] = (250, 30, 30)
        return marked

    with Clip(demo / "maren-tolhurst-iron.mp4") as clip:
        save_range(clip, out, 120, 180, speed=0.5, draw=mark)
        with pytest.raises(UsageError):
            save_range(clip, out, 50, 20)
    assert drawn[0] == 120 and drawn[-1] == 180 and drawn == sorted(drawn)
    with Clip(out) as made, av.open(str(out)) as raw:
        assert raw.streams.video[0].codec_context.pix_fmt == "yuv420p"
        assert raw.streams.video[0].codec_context.name == "h264"
        assert made.info.times_s[-1] == pytest.approx(2 * 60 / 120, abs=0.05)
        patch = picture_of(made.frame(3), made.upright)[10:30, 10:30].reshape(-1, 3).mean(axis=0)
        assert patch[0] > 200 and patch[1] < 70
    with pytest.raises(FootageError):
        save_png(tmp_path / "no" / "x.png", np.zeros((4, 4, 3), np.uint8))
