"""Pelvis shift, scale and their errors, against simulated truth, published figures and a library."""

from __future__ import annotations

import numpy as np
import pytest
from uncertainties import correlated_values, ufloat

from kneel.model import Hand, KnownLength, NoScale, Stature, TypedScale, View
from kneel.motion import body
from kneel.motion.analysis import Setup, analyse
from kneel.motion.clock import real_times
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.measures.camera import sideways_sigma
from kneel.motion.measures.lateral import scaled
from kneel.motion.scale import BALL_DIAMETER_CM, Scale, by_stance, by_stature, find_scale, known_length
from kneel.motion.sightings import from_rows

SETTINGS = [
    (hand, mirrored, yaw, sway)
    for hand in Hand
    for mirrored in (False, True)
    for yaw in (-5.0, 0.0, 5.0)
    for sway in (0.0, 6.0)
]


def analysis_of(rows, *, hand, scale, **more):
    return analyse(rows.times_s, from_rows(rows), Setup(View.FACE_ON, hand, scale=scale, **more))


@pytest.mark.parametrize(("hand", "mirrored", "yaw", "sway"), SETTINGS)
def test_pelvis_shift_is_right_within_its_error(simulate, hand, mirrored, yaw, sway):
    """Both hands, both mirror cases, camera up to 5 degrees off square; the mirror is found out."""
    rows, truth = simulate(sway=sway, hand=hand, mirrored=mirrored, yaw_deg=yaw, seed=int(yaw) + 10)
    analysis = analysis_of(rows, hand=hand, scale=Stature(176.0))
    assert analysis.mirrored is mirrored
    series = analysis.measures["pelvis_shift"]
    for name in ("half_back", "top", "delivery", "impact"):
        value, sigma = series.at(analysis.checkpoints[name])
        assert abs(value - truth.at("pelvis_shift", name)) < 2.5 * sigma, name
        assert sigma < 1.6, name


@pytest.mark.parametrize("stature", [145.0, 168.0, 196.0])
def test_shift_holds_for_other_bodies_rates_and_tempos(simulate, stature):
    rows, truth = simulate(sway=5.0, stature=stature, rate=60.0, tempo=1.2, noise=1.5, seed=3)
    analysis = analysis_of(rows, hand=Hand.RIGHT, scale=Stature(stature))
    value, sigma = analysis.measures["pelvis_shift"].at(analysis.checkpoints["top"])
    assert abs(value - truth.at("pelvis_shift", "top")) < 2.5 * sigma
    crossed, error = analysis.measures["trail_hip_cross"].at(analysis.checkpoints["top"])
    assert abs(crossed - truth.at("trail_hip_cross", "top")) < 2.5 * error


def test_stated_error_covers_the_truth_as_often_as_it_says(simulate):
    """Over 40 swings the share inside 2 sigma is between 85 and 100 %, and sigma is no blanket."""
    inside, ratios = [], []
    for seed in range(40):
        rng = np.random.default_rng(seed)
        stature = float(rng.uniform(150, 195))
        rows, truth = simulate(
            sway=float(rng.uniform(0, 9)),
            stature=stature,
            yaw_deg=float(rng.uniform(-5, 5)),
            roll_deg=float(rng.uniform(-1, 1)),
            distance_cm=float(rng.uniform(330, 550)),
            noise=float(rng.uniform(0.5, 2.5)),
            seed=seed,
        )
        analysis = analysis_of(rows, hand=Hand.RIGHT, scale=Stature(stature))
        value, sigma = analysis.measures["pelvis_shift"].at(analysis.checkpoints["top"])
        error = value - truth.at("pelvis_shift", "top")
        inside.append(abs(error) < 2 * sigma)
        ratios.append(error / sigma)
    assert np.mean(inside) >= 0.85
    assert 0.25 < np.std(ratios) < 1.3


def test_wrong_view_is_no_number(simulate):
    rows, _ = simulate()
    analysis = analyse(rows.times_s, from_rows(rows), Setup(View.DOWN_THE_LINE, Hand.RIGHT))
    assert not analysis.measures
    assert "down-the-line" in analysis.missing["pelvis_shift"]


def test_rear_view_turns_the_sign(simulate):
    rows, truth = simulate(sway=6.0, view=View.REAR)
    analysis = analyse(rows.times_s, from_rows(rows), Setup(View.REAR, Hand.RIGHT, scale=Stature(176.0)))
    value, sigma = analysis.measures["pelvis_shift"].at(analysis.checkpoints["top"])
    assert abs(value - truth.at("pelvis_shift", "top")) < 2.5 * sigma


def test_scale_by_the_ball():
    """The Rules of Golf: a ball measures not less than 42.67 mm (1.680 in)."""
    assert pytest.approx(1.680 * 2.54, abs=5e-4) == BALL_DIAMETER_CM
    true_cm_per_px = 0.35
    px = BALL_DIAMETER_CM / true_cm_per_px
    rng = np.random.default_rng(2)
    found = []
    for _ in range(400):
        ax, bx = rng.normal(0, 0.7), px + rng.normal(0, 0.7)
        scale = known_length(KnownLength(0, ax, 100, bx, 100, BALL_DIAMETER_CM, "ball", 0.7))
        found.append((scale.per_px - true_cm_per_px) / (scale.relative * true_cm_per_px))
    assert 0.75 < np.std(found) < 1.1
    assert isinstance(known_length(KnownLength(0, 5, 5, 5, 5, 100.0)), Failed)


def test_scale_by_stature(simulate):
    """Leg length as a share of stature: Drillis and Contini 1966, in Winter, 4th ed. 2009."""
    assert pytest.approx(0.530 - 0.039) == body.LEG
    for stature in (150.0, 176.0, 200.0):
        rows, _ = simulate(stature=stature, distance_cm=480.0, seed=5)
        analysis = analysis_of(rows, hand=Hand.RIGHT, scale=Stature(stature))
        # A pinhole at 480 cm aimed 25 cm before the ankles: the hips hang about 31 cm behind the aim.
        camera_focal = 0.80 * 720 * 420 / 200 * 480 / 420
        expected = (480 + 31) / camera_focal
        assert abs(analysis.scale.per_px / expected - 1) < 2 * analysis.scale.relative
        kneeless = {n: t for n, t in analysis.tracks.items() if "knee" not in n}
        through_hips = by_stature(stature, kneeless)
        assert abs(through_hips.per_px / expected - 1) < 2 * through_hips.relative
        assert through_hips.relative > analysis.scale.relative
    assert isinstance(by_stature(176.0, {}), Failed)


def test_without_scale_lengths_are_stance_widths(simulate):
    rows, truth = simulate(sway=6.0)
    analysis = analysis_of(rows, hand=Hand.RIGHT, scale=NoScale())
    assert analysis.scale.unit == "stance"
    ankles = truth.pixels["left_ankle"][0] - truth.pixels["right_ankle"][0]
    assert 1 / analysis.scale.per_px == pytest.approx(np.hypot(*ankles), rel=0.03)
    value, sigma = analysis.measures["pelvis_shift"].at(analysis.checkpoints["top"])
    assert abs(value - (-6.0 / (0.25 * 176))) < 3 * sigma
    assert isinstance(by_stance({}, 0), Failed)
    assert isinstance(find_scale(NoScale(), {}, 0), Failed)
    assert find_scale(TypedScale(0.35), {}, 0).per_px == 0.35


def test_length_error_agrees_with_the_uncertainties_package():
    """First-order propagation (GUM, JCGM 100:2008, 5.1.2 and 5.2.2): length and scale both in doubt."""
    scale = Scale("cm", 0.36, 0.04, "test")
    values, sigma = scaled(np.array([-18.0]), np.array([2.5]), scale)
    expected = ufloat(-18.0, 2.5) * ufloat(0.36, 0.04 * 0.36)
    assert values[0] == pytest.approx(expected.n)
    assert sigma[0] == pytest.approx(expected.s, rel=1e-9)


def test_shift_error_agrees_with_correlated_propagation(simulate):
    """The error of a difference of two frames holds their covariance, as ``uncertainties`` has it."""
    rows, _ = simulate(sway=6.0, noise=2.0)
    analysis = analysis_of(rows, hand=Hand.RIGHT, scale=TypedScale(0.36))
    hips = [analysis.tracks[f"{side}_hip"] for side in ("left", "right")]
    start = round(analysis.checkpoints["address"].frame)
    frame = round(analysis.checkpoints["top"].frame)
    ends = []
    for track in hips:
        across = track.covariance_with(start)[frame]
        table = [[track.sigma[frame] ** 2, across], [across, track.sigma[start] ** 2]]
        ends.append(correlated_values(track.xy[[frame, start], 0], table))
    moved = (ends[0][0] - ends[0][1] + ends[1][0] - ends[1][1]) / 2
    shift = moved * ufloat(0.36, 0.36 * analysis.scale.relative)
    series = analysis.measures["pelvis_shift"]
    middle = np.mean([t.xy for t in hips], axis=0)
    camera = sideways_sigma(
        middle[:, 0] - middle[start, 0],
        rise=middle[start, 1] - middle[:, 1],
        off_axis=0.0,
        px_per_m=analysis.px_per_m,
    )[frame]
    still = np.gradient(middle[:, 0], rows.times_s)[start] * analysis.checkpoints["address"].sigma_s
    whole = np.sqrt(shift.s**2 + (0.36 * camera) ** 2 + (0.36 * still) ** 2)
    assert series.values[frame] == pytest.approx(shift.n, abs=1e-9)
    assert series.sigma[frame] == pytest.approx(whole, rel=1e-6)


def test_yaw_and_perspective_harm_is_of_the_stated_size():
    """10 degrees of yaw leak 17 % of thrust; 10 cm toward a camera at 3.5 m are 3 % (domain geometry)."""
    assert np.sin(np.radians(10)) == pytest.approx(0.17, abs=0.005)
    assert pytest.approx(0.03, abs=0.001) == 3.5 / (3.5 - 0.10) - 1
    moved = np.array([0.0, 10.0])
    near, far = (
        sideways_sigma(moved, rise=np.zeros(2), off_axis=off, px_per_m=300.0) for off in (0.0, 200.0)
    )
    assert near[0] == 0
    assert 0 < near[1] < far[1] < 0.02 * 300


def test_slowed_clips_read_in_real_time(simulate):
    """Caught at 120, stored at 30: four times too slow, and the same swing once the rate is told."""
    rows, truth = simulate(sway=6.0)
    slow = rows.times_s * 4
    times = real_times(slow, 120.0)
    np.testing.assert_allclose(times, rows.times_s)
    told = analyse(times, from_rows(rows), Setup(scale=Stature(176.0)))
    untold = analyse(slow, from_rows(rows), Setup(scale=Stature(176.0)))
    assert any("slowed down 4 times" in note for note in untold.warnings)
    assert not any("slowed down" in note for note in told.warnings)
    top, impact = (untold.checkpoints[n].frame for n in ("top", "impact"))
    assert abs(top - truth.checkpoints_s["top"] * 120) < 4
    assert abs(impact - truth.checkpoints_s["impact"] * 120) < 2


def test_every_measure_has_words_a_view_and_a_unit():
    for key, entry in REGISTRY.items():
        assert entry.key == key
        assert entry.title and entry.positive and entry.views and entry.needs
        assert entry.kind in ("length", "angle", "ratio", "time")
        assert entry.compute.__doc__
