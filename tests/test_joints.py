"""From landmarks to joints with errors: by view, by what is hidden, by how fast the pose changes; spots."""

from __future__ import annotations

import numpy as np
import pytest

from kneel.model import Links, Mark, Sighting, View
from kneel.vision import Leg, Looked, closed, on_the_body
from kneel.vision.landmarks.joints import HIPS_LOW, joints, other_side
from kneel.vision.landmarks.looks import OUTSIDE, Landmarks
from kneel.vision.landmarks.outline import ROWS
from kneel.vision.looked import warnings
from kneel.vision.seeds import seeds
from tests.test_people import landmarks_at

COUNT = 120
TIMES = np.arange(COUNT) / 60


def looks(*, waves=0.0, parts=0.0, hidden=(), lost=slice(0, 0), every=1, side=False):
    """Landmarks of a body that stands for a second and then waves its arms."""
    frames = np.arange(0, COUNT, every)
    xy = np.stack([landmarks_at(300.0, 100.0) for _ in frames])
    late = np.clip(frames / 60 - 1, 0, None)
    xy[:, 13:23, 0] += waves * np.sin(4 * late)[:, None]
    xy[:, 13:23, 0] += parts * np.sin(4 * late)[:, None] * np.resize((1, -1), 10)
    if side:
        xy[:, :, 0] = 300 + 0.1 * (xy[:, :, 0] - 300)
        xy[:, 31:33, 0] += 30.0
    visible = np.ones((len(frames), 39))
    visible[:, list(hidden)] = 0.1
    edges = np.tile([270.0, 330.0], (len(frames), len(ROWS), 1))
    xy[lost], edges[lost] = np.nan, np.nan
    return Landmarks(frames, xy, visible, edges)


def test_errors_are_shares_of_the_body_and_wider_where_hidden():
    plain, unseen = joints(looks(), TIMES), joints(looks(hidden=(25,)), TIMES)
    assert plain.square and plain.outlined and not plain.swapped
    knee, hidden = plain.sightings["left_knee"], unseen.sightings["left_knee"]
    # What a hidden joint is off by lasts: that grows, not the scatter, which looking often takes away.
    np.testing.assert_allclose(hidden.sigma, knee.sigma)
    assert (hidden.doubt == pytest.approx(4.0 * knee.doubt)) and np.isfinite(knee.xy).all()
    other = unseen.sightings["right_knee"]
    np.testing.assert_allclose(other.doubt, plain.sightings["right_knee"].doubt)
    outside = looks()
    outside.visible[:, 25] = OUTSIDE
    assert not np.isfinite(joints(outside, TIMES).sightings["left_knee"].xy).any()
    for name, sight in plain.sightings.items():
        if not name.endswith("wrist") and name != "grip":
            assert min(sight.offset, sight.wander) > sight.sigma.min(), name
    # Hands guessed apart are one hand that is seen: as unsure as a hidden one.
    assert plain.sightings["grip"].sigma[0] == pytest.approx(3 * 0.010 * plain.height_px)
    larger = looks()
    twice = Landmarks(larger.frames, larger.xy * 2, larger.visible, larger.edges * 2)
    assert joints(twice, TIMES).sightings["left_hip"].offset == pytest.approx(
        2 * plain.sightings["left_hip"].offset
    )
    # Everybody's hips are seen too low.
    hip = plain.sightings["left_hip"].xy[5]
    assert hip[0] == pytest.approx(314.0)
    assert hip[1] == pytest.approx(landmarks_at(300.0, 100.0)[23, 1] - HIPS_LOW * plain.height_px)


def test_the_pose_s_clock_runs_as_fast_as_the_pose_changes():
    """It hardly moves while the body stands, runs when the arms do, never back, for every joint alike."""
    still, waving = joints(looks(), TIMES), joints(looks(waves=60.0), TIMES)
    clock = waving.sightings["left_hip"].clock
    assert (np.diff(clock) > 0).all() and clock is not None
    stood, waved = clock[55] - clock[0], clock[115] - clock[65]
    assert waved > 5 * stood and stood == pytest.approx(55 / 60 / 2.0, rel=0.1)
    assert still.sightings["head"].clock[-1] == pytest.approx(TIMES[-1] / 2.0, rel=1e-6)
    np.testing.assert_array_equal(clock, waving.sightings["right_ankle"].clock)
    # Arms that part move, though their middle stays; shares of the body's height, not of how many joints.
    parted = joints(looks(parts=60.0), TIMES).sightings["left_hip"].clock
    assert parted[-1] == pytest.approx(clock[-1], rel=0.01)
    # Half as many looks at the same motion: the same clock.
    seldom = joints(looks(waves=60.0, every=2), TIMES).sightings["left_hip"]
    assert seldom.clock[-1] == pytest.approx(clock[-1], rel=0.05)
    assert np.isfinite(seldom.xy[::2]).all() and np.isnan(seldom.xy[1::2]).all()


def test_from_the_side_there_is_a_seat_and_no_outline():
    beside = joints(looks(side=True), TIMES)
    assert not beside.square and not beside.outlined
    assert beside.sightings["seat"].xy[3, 0] == pytest.approx(270.0)
    told = joints(looks(), TIMES, view=View.DOWN_THE_LINE)
    assert not told.square and "seat" in told.sightings
    assert "seat" not in joints(looks(side=True), TIMES, view=View.FACE_ON).sightings


def test_what_spoils_the_looking_is_said():
    nobody = looks(lost=slice(0, COUNT))
    assert joints(nobody, TIMES).sightings == {}
    assert warnings(nobody) == ("No golfer is found in this clip: mark the joints by hand.",)
    often = warnings(looks(lost=slice(0, 30)))
    assert len(often) == 1 and "25 %" in often[0]
    small = looks()
    tiny = Landmarks(small.frames, small.xy / 3, small.visible, small.edges)
    assert "67 pixels tall" in warnings(tiny)[0]
    cut_off = looks()
    cut_off.visible[:, 27] = OUTSIDE
    (one,) = warnings(cut_off)
    assert one.startswith("A foot lies outside the picture in 100 %")
    cut_off.visible[: COUNT // 2, 28] = OUTSIDE
    cut_off.visible[:, :11] = OUTSIDE
    both, head = warnings(cut_off)
    assert both.startswith("The feet lie outside the picture in 50 %") and head.startswith("The head lies")
    open_choice = Landmarks(small.frames, small.xy, small.visible, small.edges, ("Two people stand.",))
    assert warnings(open_choice) == ("Two people stand.",) and warnings(small) == ()


def test_where_a_front_was_taken_for_a_back_the_legs_are_no_surer():
    """The network has the knees between where they are and where they would be then."""
    plain = looks()
    turned, at = plain.xy.copy(), slice(20, 30)
    for left in (11, 13, 15):
        turned[at, left], turned[at, left + 1] = plain.xy[at, left + 1], plain.xy[at, left]
    found = joints(Landmarks(plain.frames, turned, plain.visible, plain.edges), TIMES)
    sure = joints(plain, TIMES).sightings
    for name in ("left_shoulder", "right_hip", "left_knee", "right_ankle"):
        doubt = found.sightings[name].doubt / sure[name].doubt
        assert doubt[plain.frames[25]] == pytest.approx(2.0) and doubt[0] == doubt[-1] == 1.0, name
        assert np.abs(found.sightings[name].xy - sure[name].xy)[np.isfinite(sure[name].xy)].max() < 1e-9


def test_other_sides_are_the_same_joints():
    found = joints(looks(), TIMES)
    seen = {name: (sight,) for name, sight in found.sightings.items()}
    turned = Looked(seen, {"left_hip": ()}).other_sides()
    assert turned.sightings["right_knee"] is seen["left_knee"] and "right_hip" in turned.links
    assert turned.other_sides().sightings == seen
    assert {other_side(other_side(name)) for name in seen} == set(seen)


def test_seeds_are_a_quarter_of_a_second_apart_and_sure():
    found = joints(looks(waves=30.0), TIMES).sightings
    doubt = np.ones(COUNT)
    doubt[15:40] = 3
    sigma = found["left_knee"].sigma
    hidden = Sighting(found["left_knee"].xy, sigma, wander=4.0, doubt=doubt)
    marks = seeds(found | {"left_knee": hidden}, TIMES)
    frames = [m.frame for m in marks if m.point == "left_knee"]
    assert frames[0] == 0 and (np.diff(frames) >= 15).all() and not any(15 <= f < 40 for f in frames)
    assert not any(m.point.endswith(("wrist", "elbow", "toe")) or m.point == "grip" for m in marks)
    knee = next(m for m in marks if m.point == "left_knee")
    assert knee.sigma == pytest.approx(np.hypot(4.0, sigma[0]))


def test_a_spot_stays_on_its_joint_or_is_none():
    """Tape keeps its distance from the joint seen there; a hand that was clicked with it runs off."""
    seen = {"left_hip": (Sighting(np.full((COUNT, 2), 300.0), np.full(COUNT, 2.0), wander=4.0),)}
    rng = np.random.default_rng(1)
    tape = Sighting(np.full((COUNT, 2), 306.0) + rng.normal(0, 1, (COUNT, 2)), np.full(COUNT, 0.2))
    kept = on_the_body({"left_hip": tape}, seen)["left_hip"]
    np.testing.assert_array_equal(kept.xy, tape.xy)
    runs = tape.xy.copy()
    runs[80:, 0] += np.linspace(0, 200, 40)
    assert on_the_body({"left_hip": Sighting(runs, tape.sigma.copy())}, seen) == {}
    jumps = tape.xy.copy()
    jumps[50:55, 1] += 60.0
    cleaned = on_the_body({"left_hip": Sighting(jumps, tape.sigma.copy())}, seen)["left_hip"]
    assert np.isnan(cleaned.sigma[50:55]).all() and np.isfinite(cleaned.sigma).sum() == COUNT - 5
    alone = on_the_body({"left_hip": Sighting(runs, tape.sigma.copy())}, {})
    np.testing.assert_array_equal(alone["left_hip"].xy, runs)


@pytest.mark.parametrize("point", ["left_hip", "grip"])
def test_of_two_ways_that_differ_the_slower_is_believed_but_for_the_hands(point):
    """An arm that passes before a joint is faster than it; the hands are the fastest thing themselves."""
    there, back = Leg(point, 0, 0.0, 0.0, 20), Leg(point, 20, 20.0, 0.0, 0)
    fast, slow = np.tile([3.0, 0.0], (20, 1)), np.tile([1.0, 0.0], (20, 1))
    marks = [Mark(point, 0, 0.0, 0.0, 50.0), Mark(point, 20, 20.0, 0.0, 50.0)]
    one, other = closed({there: Links(fast, np.full(20, 0.1)), back: Links(slow, np.full(20, 0.1))}, marks)[
        point
    ]
    ratio = one.sigma[5] / other.sigma[5]
    apart = np.sqrt(2.0)
    if point == "grip":
        assert ratio == pytest.approx(1.0)
        assert other.sigma[5] == pytest.approx(np.hypot(0.1, apart))
    else:
        assert other.sigma[5] == pytest.approx(np.hypot(0.1, 0.35 * apart))
        assert one.sigma[5] == pytest.approx(np.hypot(0.1, 1.5 * apart))
