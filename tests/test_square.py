"""Hips pass square on the way down, whatever marks on turned ones make of a body model that errs."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.testing import assert_allclose

from kneel.model import Sighting, Stature
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.pairing import solve_pairs
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.square import LATE, SHORTER, passed_square, which_way
from kneel.motion.track import PointData

RATE, COUNT = 60, 110
FRAMES = {"address": 10, "top": 60, "impact": 78, "follow": 90}
SQUARE = 71
CHECKPOINTS = {name: Checkpoint(float(f), f / RATE, 0.01, "marked") for name, f in FRAMES.items()}
TURN = np.interp(np.arange(COUNT), (10, 60, SQUARE, 78, 90, 109), (0.0, -50.0, 0.0, 40.0, 60.0, 70.0))
WIDE = 25.0


def hips(*, turn=TURN, marked=("address", "top", "impact"), way=1.0, wide=8.0):
    """Both hips of a body that turns, as a look that sees them up to ``wide`` px too far apart where they are
    turned, and marks that see them as they lie; ``way`` -1 is seen in a mirror.
    """
    half = way * WIDE * np.cos(np.radians(turn))
    off = way * wide * (1 - np.cos(np.radians(turn)))
    points = {}
    for side, sign in (("left", 1), ("right", -1)):
        true = np.stack([400 + sign * half, np.full(COUNT, 300.0)], axis=1)
        seen = true + np.stack([sign * off, np.zeros(COUNT)], axis=1)
        still, ones = np.arange(COUNT) / RATE, np.ones(COUNT)
        look = Sighting(
            seen, 1.5 * ones, offset=3.0, wander=6.0, wander_s=1.0, clock=still, doubt_together=ones
        )
        xy, sigma = np.full((COUNT, 2), np.nan), np.full(COUNT, np.nan)
        for name in marked:
            xy[FRAMES[name]], sigma[FRAMES[name]] = true[FRAMES[name]], 1.5
        points[f"{side}_hip"] = PointData((Sighting(xy, sigma, by_hand=True), look))
    return solve_pairs(np.arange(COUNT) / RATE, points)


def apart(tracks):
    return abs(tracks["left_hip"].xy[:, 0] - tracks["right_hip"].xy[:, 0])


@pytest.mark.parametrize("way", [1.0, -1.0])
def test_marks_on_turned_hips_leave_them_as_wide_where_they_pass_square(way):
    before = hips(way=way, wide=14.0)
    after = passed_square(before, CHECKPOINTS)
    true = 2 * WIDE * np.cos(np.radians(TURN))
    short = true[SQUARE] - apart(before)[SQUARE]
    assert short > 3 * SHORTER * true[SQUARE]
    assert true[SQUARE] - apart(after)[SQUARE] < 0.6 * short
    # As much of what lacks as each frame's error hangs together with how much longer it is there.
    widest = 60 + int(np.argmax(apart(before)[60:79]))
    long = apart(before)[FRAMES["address"]] / 2
    shares, (error, _) = before["left_hip"].pair.longer(widest, FRAMES["address"])
    lacks = (1 - SHORTER) * long - apart(before)[widest] / 2
    moved = (apart(after) - apart(before)) / 2
    assert_allclose(moved, lacks * shares[1, :, 0] / (error + (SHORTER * long) ** 2), rtol=1e-6)
    for name, track in after.items():
        # Where they were marked they stay, their middle lies where it did, and nothing is any surer.
        for at in ("address", "top", "impact"):
            assert_allclose(track.xy[FRAMES[at]], before[name].xy[FRAMES[at]], atol=1.5)
        assert_allclose(track.sigma, before[name].sigma)
        assert_allclose(track.xy[:, 1], before[name].xy[:, 1])
    middle = sum(t.xy for t in after.values()) - sum(t.xy for t in before.values())
    assert_allclose(middle, 0, atol=1e-6)


def test_both_sides_in_a_mirror_move_alike():
    one, other = (passed_square(hips(way=way, wide=14.0), CHECKPOINTS) for way in (1.0, -1.0))
    assert_allclose(one["left_hip"].xy, other["right_hip"].xy, atol=1e-6)


@pytest.mark.parametrize(
    ("why", "kwargs", "lacking"),
    [
        ("seen as wide as they are", {"wide": 0.0}, ()),
        ("never past square", {"turn": np.minimum(TURN, -20.0), "wide": 14.0}, ()),
        ("no address", {"wide": 14.0}, ("address",)),
        ("a backswing alone", {"wide": 14.0}, ("impact", "follow")),
    ],
)
def test_what_may_not_pass_square_or_lacks_nothing_is_left(why, kwargs, lacking):
    known = {name: at for name, at in CHECKPOINTS.items() if name not in lacking}
    assert passed_square(hips(**kwargs), known) == {}, why


def test_what_is_tilted_may_look_shorter_across():
    """As long as at address up and across together: nothing lacks, though across it is 8 % shorter."""
    lean = np.where(np.abs(np.arange(COUNT) - SQUARE) < 7, np.radians(23.0), 0.0)
    tilted, level = {}, {}
    for name, track in hips(wide=0.0).items():
        way = 1 if name.startswith("left") else -1
        across = 400 + (track.xy[:, 0] - 400) * np.cos(lean)
        tilted[name] = replace(track, xy=np.stack([across, 300 + way * WIDE * np.sin(lean)], axis=1))
        level[name] = replace(track, xy=np.stack([across, track.xy[:, 1]], axis=1))
    assert passed_square(tilted, CHECKPOINTS) == {}
    assert passed_square(level, CHECKPOINTS) != {}


@given(
    gap=arrays(float, 40, elements=st.floats(20, 60)),
    sigma=st.floats(0.1, 30),
    first=st.integers(0, 15),
    last=st.integers(20, 39),
)
def test_a_line_turns_round_once_and_is_as_likely_seen_from_either_end(gap, sigma, first, last):
    known, even = np.full(40, sigma), np.ones(40)
    way = which_way(gap, known, even, first, last)
    assert (np.diff(way) >= -1e-9).all() and (way[:first] == -1).all() and (way[last + 1 :] == 1).all()
    # Run backwards it turns from the target at the same moments.
    back = which_way(gap[::-1], known, even, 39 - last, 39 - first)[::-1]
    assert_allclose(way[first : last + 1], -back[first : last + 1], atol=1e-9)
    # Twice as large and as unsure is as likely.
    assert_allclose(which_way(2 * gap, 2 * known, even, first, last), way, atol=1e-9)


def test_what_comes_late_seldom_is_believed_seldom():
    gap, sigma = np.full(40, 30.0), np.ones(40)
    late = np.where(np.arange(40) > 29, LATE["hip"], 1.0)
    even, rare = (which_way(gap, sigma, weights, 10, 39) for weights in (np.ones(40), late))
    assert_allclose((1 - even[29]) / 2, 10.5 / 30)
    assert_allclose((1 - rare[29]) / 2, (10 * LATE["hip"] + 0.5) / (20 + 10 * LATE["hip"]))


@pytest.mark.parametrize("unsure", [1.0, 6.0])
def test_a_turn_is_told_with_which_way_it_is(simulate, unsure):
    """From the top to the follow-through every turn is true within its error, where the way is unsure too."""
    rows, truth = simulate()
    points = from_rows(rows)
    study = analyse(rows.times_s, points, Setup(scale=Stature(176.0)))
    wide = {
        name: replace(track, sigma=unsure * track.sigma, lasting=np.full(len(track.sigma), unsure))
        for name, track in study.steadied.items()
    }
    study = replace(study, steadied=wide)
    top, follow = (study.checkpoints[name].shown for name in ("top", "follow"))
    for joint, key in (("hip", "pelvis_turn"), ("shoulder", "shoulder_turn")):
        way, told = study.closed[joint], study.measure(key)
        true = np.interp(rows.times_s, truth.times_s, truth.measures[key])
        assert (way[: top + 1] < -0.9).all() and way[follow] > 0.9 and (np.diff(way) > -1e-9).all()
        soft = np.flatnonzero(np.abs(way) < 0.5)
        assert np.abs(true[soft]).max(initial=0) < 20 + 4 * unsure
        during = slice(top, follow + 1)
        assert (np.abs(told.values - true)[during] < 3 * told.sigma[during]).all()
        # What may be turned either way is told nearer to square than it looks, and with that doubt.
        likelier = replace(study, _known={}, _paths={})
        likelier.__dict__["closed"] = {j: np.where(c < 0, -1.0, 1.0) for j, c in study.closed.items()}
        hard = likelier.measure(key)
        either = np.flatnonzero((np.abs(way) < 0.8) & (np.abs(hard.values) > 12))
        assert (np.abs(told.values) < np.abs(hard.values) - 1)[either].all()
        least = np.sqrt(1 - way**2) * np.abs(hard.values) / 2
        assert (told.sigma > 0.9 * least)[either].all() and either.size >= (3 if unsure > 1 else 0)
        for frame in either[:1]:
            # Of what that is, it is told in words.
            at = Checkpoint(float(frame), float(study.times_s[frame]), 0.0, "own")
            one = replace(study, checkpoints={**study.checkpoints, "own": at}, _known={}).at(key, "own")
            share = (least[frame] / one.sigma) ** 2
            assert dict(one.budget(20))["which way it is turned"] == pytest.approx(share, rel=0.3)
            assert one.low < one.value - 2 * least[frame] and one.value + 2 * least[frame] < one.high


def test_frames_twice_as_dense_tell_the_same(simulate):
    """Which way a line is turned depends on times, not on how many frames show them."""
    found = []
    for rate in (60.0, 120.0):
        rows, _ = simulate(rate=rate, noise=0.3)
        study = analyse(rows.times_s, from_rows(rows), Setup(scale=Stature(176.0)))
        wide = {n: replace(t, sigma=9 * t.sigma, lasting=0 * t.sigma + 5) for n, t in study.steadied.items()}
        study = replace(study, steadied=wide)
        found.append(np.interp(np.arange(1.0, 2.0, 0.02), rows.times_s, study.closed["hip"]))
    assert_allclose(found[0], found[1], atol=0.12)
    gap, sigma = np.array([9.0, 9, 9, 9]), np.ones(4)
    assert_allclose(which_way(gap, sigma, np.array([1.0, 1, 2, 4]), 0, 3), [-0.875, -0.625, -0.25, 0.5])
