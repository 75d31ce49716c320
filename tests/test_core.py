"""The small tools under the numbers: names, the camera's path, even paths, rough scales, means of tracks."""

from __future__ import annotations

import datetime
import importlib
from dataclasses import FrozenInstanceError, is_dataclass
from pkgutil import walk_packages

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter1d

from kneel.model import (
    CameraPath,
    ClipRef,
    Cue,
    Hand,
    Links,
    Sighting,
    View,
    anatomical,
    side_of,
    spoken,
    target_direction,
)
from kneel.model.names import PAIRED_JOINTS, POINTS
from kneel.model.take import MOST_FRAMES
from kneel.motion.body import LEG, NOMINAL_STATURE_CM, moves, rough_px_per_m
from kneel.motion.checkpoints.middle import Middle
from kneel.motion.clock import real_times
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.signal import even_path, first_crossing, white_sigma
from kneel.motion.track import PointData, solve_tracks
from tests.numbers import rows_of

TIMES = np.arange(120) / 120
FROZEN = ["compare", "contract", "documents", "evidence", "footage", "handout", "judge", "model", "motion"]
FROZEN += ["practice", "references", "review", "speech", "trainer", "vision"]


@pytest.mark.parametrize("hand", Hand)
def test_every_point_has_one_name_for_each_way_of_speaking(hand):
    """Lead and trail, left and right: there and back, and turned for the other hand."""
    other = Hand.LEFT if hand is Hand.RIGHT else Hand.RIGHT
    for joint in PAIRED_JOINTS:
        for side in ("lead", "trail"):
            name = anatomical(f"{side}_{joint}", hand)
            assert name in POINTS and side_of(name, hand) == side
            assert side_of(name, other) != side and spoken(name, hand) == f"{side} {joint}"
    for name in ("ball", "grip", "left_hip"):
        assert anatomical(name, hand) == name


@pytest.mark.parametrize("view", View)
@pytest.mark.parametrize("hand", Hand)
def test_the_target_turns_with_hand_view_and_mirror(view, hand):
    """A mirror turns it, the other hand turns it, both leave it; the rear is the opposite of face-on."""
    plain = target_direction(view, hand, mirrored=False)
    assert target_direction(view, hand, mirrored=True) == -plain
    assert plain == (1 if hand is Hand.RIGHT else -1) * (-1 if view is View.REAR else 1)


@given(
    st.floats(-0.2, 0.2),
    st.floats(0.8, 1.2),
    st.floats(-50, 50),
    st.floats(-50, 50),
    st.integers(0, 2**32 - 1),
)
def test_the_camera_s_path_goes_there_and_back(turn, zoom, dx, dy, seed):
    """Steadied and seen are each other's inverse; carrying is seeing after steadying."""
    rng, count = np.random.default_rng(seed), 9
    maps = np.zeros((count, 2, 3))
    for k in range(count):
        share = k / (count - 1)
        size, angle = zoom**share, turn * share
        maps[k, :, :2] = size * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        maps[k, :, 2] = dx * share, dy * share
    path = CameraPath(maps, np.ones(count))
    xy = rng.uniform(0, 1000, (count, 2))
    np.testing.assert_allclose(path.steadied(path.seen(xy)), xy, atol=1e-6)
    place = rng.uniform(0, 1000, 2)
    seen = path.seen(np.tile(place, (count, 1)))
    np.testing.assert_allclose(path.carried(seen[2], 2, 7), seen[7], atol=1e-6)
    np.testing.assert_allclose(path.moved(place), seen - place, atol=1e-9)


def test_records_of_arrays_check_their_shapes():
    for broken in (
        lambda: Sighting(np.zeros((5, 3)), np.zeros(5)),
        lambda: Sighting(np.zeros((5, 2)), np.zeros(4)),
        lambda: Sighting(np.zeros((5, 2)), np.zeros(5), clock=np.zeros(4)),
        lambda: Links(np.zeros((5, 2)), np.zeros(4)),
        lambda: Links(np.zeros(5), np.zeros(5)),
        lambda: CameraPath(np.zeros((5, 3, 3)), np.zeros(5)),
        lambda: CameraPath(np.zeros((5, 2, 3)), np.zeros(4)),
    ):
        with pytest.raises(ValueError, match="need"):
            broken()
    seen = Sighting(np.zeros((5, 2)), np.ones(5), clock=np.arange(5.0))
    path = CameraPath(np.zeros((5, 2, 3)), np.zeros(5))
    for record, name in ((seen, "xy"), (Links(np.zeros((5, 2)), np.zeros(5)), "step"), (path, "maps")):
        with pytest.raises(FrozenInstanceError):
            setattr(record, name, None)
    for array in (seen.xy, seen.sigma, seen.clock):
        with pytest.raises(ValueError, match="read-only"):
            array[0] = 1


@pytest.mark.parametrize("sigma", [0.1, 1.0, 20.0])
def test_noise_is_told_from_motion(sigma):
    """White noise on a smooth swing of 200 px: its size over 40 draws to a twentieth."""
    path = np.stack([200 * np.sin(2 * TIMES), 100 * TIMES**2], axis=1)
    told = []
    for seed in range(40):
        noisy = path + np.random.default_rng(seed).normal(0, sigma, path.shape)
        told.append(white_sigma(noisy))
    assert np.mean(told) == pytest.approx(sigma, rel=0.05) and np.std(told) < 0.2 * sigma
    assert white_sigma(path) < 0.02
    assert np.isnan(white_sigma(noisy[:8]))


def test_an_even_path_is_smoothed_as_by_scipy_and_its_speed_is_right():
    """Gaussian smoothing held at the ends: SciPy's ``gaussian_filter1d``; speed of a line and of a circle."""
    rng = np.random.default_rng(1)
    xy = np.cumsum(rng.normal(0, 3, (120, 2)), axis=0)
    path = even_path(TIMES, xy, smooth_s=0.016)
    expected = gaussian_filter1d(xy, 0.016 * 120, axis=0, mode="nearest", truncate=4.2)
    np.testing.assert_allclose(path.xy[:120], expected, atol=0.02)
    line = even_path(TIMES, np.stack([300 * TIMES, -400 * TIMES], axis=1), smooth_s=0.016)
    np.testing.assert_allclose(line.speed[20:-20], 500.0, rtol=1e-6)
    np.testing.assert_allclose(line.at(0.5), [150.0, -200.0], atol=1e-6)
    assert line.index(0.499) == 60 and line.index(99.0) == len(line.t) - 1
    # A dropped frame leaves the grid as fine as the rest.
    holed = even_path(np.delete(TIMES, 40), np.delete(xy, 40, axis=0), smooth_s=0.016)
    assert holed.t[1] - holed.t[0] == pytest.approx(1 / 120)
    noisy = [even_path(TIMES, rng.normal(0, s, (120, 2)), smooth_s=0.016).speed_noise for s in (1.0, 4.0)]
    assert noisy[1] / noisy[0] == pytest.approx(4.0, rel=0.3)


@pytest.mark.parametrize("rising", [True, False])
def test_a_crossing_is_the_first_in_its_direction(rising):
    t = np.linspace(0, 3, 301)
    wave = np.sin(2 * np.pi * t)
    assert first_crossing(t, wave - 0.5, rising=rising) == pytest.approx(
        1 / 12 if rising else 5 / 12, abs=1e-3
    )
    assert first_crossing(t, wave - 2.0, rising=rising) is None


@pytest.mark.parametrize("scale", [90.0, 270.0, 800.0])
def test_a_rough_scale_is_read_off_legs_trunk_or_picture(scale):
    """Within a fifth of the truth from whatever is seen; marks on different frames tell it as well."""
    leg = LEG * NOMINAL_STATURE_CM / 100 * scale
    ankle = np.tile([400.0, 600.0], (20, 1))
    chain = {"left_ankle": ankle, "left_knee": ankle - (0, leg / 2), "left_hip": ankle - (0, leg)}
    assert rough_px_per_m(chain) == pytest.approx(scale, rel=1e-9)
    trunk = {"right_hip": ankle, "right_shoulder": ankle - (0, 0.25 * NOMINAL_STATURE_CM / 100 * scale)}
    assert rough_px_per_m(trunk) == pytest.approx(scale, rel=1e-9)
    scattered = {}
    for k, (name, xy) in enumerate(chain.items()):
        scattered[name] = np.where((np.arange(20) == k)[:, None], xy, np.nan)
    assert rough_px_per_m(scattered) == pytest.approx(scale, rel=1e-9)
    unseen = chain | {"left_ankle": np.full_like(chain["left_ankle"], np.nan)}
    assert rough_px_per_m(unseen, height_px=660.0) == pytest.approx(300.0)
    assert rough_px_per_m({"ball": ankle}, height_px=660.0) == pytest.approx(300.0)
    assert rough_px_per_m({}) == pytest.approx(720 / 2.2)


def test_the_middle_of_tracks_errs_as_their_mean(seed=3):
    """Sigma, way and speed of the mean of two tracks against the covariance matrix written out."""
    rng = np.random.default_rng(seed)
    tracks = []
    for sigma in (1.0, 3.0):
        xy = np.where((np.arange(120) % 15 == 3)[:, None], rng.normal(0, sigma, (120, 2)), np.nan)
        data = PointData((Sighting(xy, np.full(120, sigma), by_hand=True),), (), 500.0, 500.0)
        tracks.append(solve_tracks(TIMES, {"p": data})["p"])
    both = Middle(tracks)
    a, b = 24, 60
    matrix = [np.array([[t.covariance_with(i)[j] for j in (a, b)] for i in (a, b)]) for t in tracks]
    mean = sum(matrix) / 4
    assert both.sigma(TIMES[a]) == pytest.approx(np.sqrt(mean[0, 0]), rel=1e-6)
    moved = np.sqrt(mean[0, 0] + mean[1, 1] - mean[0, 1] - mean[1, 0])
    assert both.moved_sigma(TIMES[a], TIMES[b]) == pytest.approx(moved, rel=1e-6)
    middle, reach = (TIMES[a] + TIMES[b]) / 2, (TIMES[b] - TIMES[a]) / 2
    assert both.speed_sigma(middle, reach) == pytest.approx(moved / (TIMES[b] - TIMES[a]), rel=1e-6)
    assert both.index(-1.0) == 0 and both.index(9.0) == 119 and both.index(TIMES[7] + 0.003) == 7
    assert both.speed_sigma(TIMES[0], 0.0) > 0


@given(st.floats(30, 1000), st.floats(1, 16))
def test_real_seconds_run_as_the_camera_looked(rate, slowed):
    """A clip stored ``slowed`` times too slow: its real length is frames over the true rate."""
    stored = np.arange(50) * slowed / rate
    real = real_times(stored + 2.0, rate)
    np.testing.assert_allclose(np.diff(real), 1 / rate, rtol=1e-9)
    assert real[0] == 2.0 and real_times(stored, None) is stored


def test_points_of_a_file_split_their_error_into_what_scatters_and_what_lasts():
    """Stated 4 px where 1 px shows as jitter: 1 scatters, the rest lasts; the whole is what was stated."""
    rows, _ = rows_of(noise=1.0, sigma=4.0)
    points = from_rows(rows)
    for name in ("left_hip", "head", "right_ankle"):
        (sight,) = points[name].sightings
        assert np.median(sight.sigma) == pytest.approx(1.0, rel=0.2)
        np.testing.assert_allclose(np.hypot(sight.sigma, sight.lasting), 4.0, rtol=1e-6)
    silent, _ = rows_of(noise=1.0)
    (sight,) = from_rows(silent)["left_hip"].sightings
    (knee,) = from_rows(silent)["left_knee"].sightings
    assert (
        sight.lasting[0]
        == knee.lasting[0]
        == pytest.approx(0.01 * LEG * 1.7 * rough_px_per_m(rows.xy), rel=0.02)
    )
    restless, fastest = moves("left_hip")
    data = from_marks((), len(rows), {}, px_per_m=200.0, sightings={"left_hip": (sight,)})["left_hip"]
    assert (data.restless, data.fastest) == (200 * restless, pytest.approx(200 * fastest / 3))


@pytest.mark.parametrize("package", FROZEN)
def test_what_was_told_is_changed_by_nobody(package):
    """Threads share records and answers, undo keeps whole documents: each of them is frozen."""
    whole = importlib.import_module(f"kneel.{package}")
    modules = [
        importlib.import_module(one.name) for one in walk_packages(whole.__path__, f"{whole.__name__}.")
    ]
    found = [
        kind
        for m in modules
        for name, kind in vars(m).items()
        if not name.startswith("_") and getattr(kind, "__module__", "") == m.__name__
    ]
    structs = [k for k in found if isinstance(k, type) and issubclass(k, msgspec.Struct)]
    classes = [k for k in found if isinstance(k, type) and is_dataclass(k)]
    assert structs or classes
    assert [k for k in structs if not k.__struct_config__.frozen] == []
    assert [k for k in classes if not k.__dataclass_params__.frozen] == []


def test_records_hold_what_just_fits_and_nothing_more():
    """The longest words there may be, and one letter more."""
    number = "sway", "pelvis_shift", "top", "cm", "up", -6.0, 0.5, -3.0, 0.5
    day = datetime.date(2026, 11, 3)
    assert Cue("x" * 200, day, *number).felt == ""
    for words in ("x" * 201, " "):
        with pytest.raises(ValueError, match="1 to 200 letters"):
            Cue(words, day, *number)
    clip = ClipRef("a.mp4", 1, 1, 1, 0.0)
    assert (clip.size_bytes, clip.content) == (0, "")
    for frames, width, rate in (
        (0, 1, 0.0),
        (MOST_FRAMES + 1, 1, 0.0),
        (1, 0, 0.0),
        (1, 1, -1.0),
        (1, 1, 2e6),
    ):
        with pytest.raises(ValueError, match="clip"):
            ClipRef("a.mp4", frames, width, 1, rate)
