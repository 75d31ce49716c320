"""How much worse than usual each landmark is told: by being hidden, turned, fast; and the tuned constants."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.tuned import constants

from kneel.model import Links, Sighting
from kneel.vision import doubted
from kneel.vision.landmarks.doubt import MOST, doubts_of
from tests.test_people import landmarks_at

COUNT, HEIGHT = 60, 200.0
TIMES = np.arange(COUNT) / 60
LEFT_KNEE, LEFT_HIP, LEFT_SHOULDER = 25, 23, 11


def doubts(change=lambda xy: None, visible=None):
    xy = np.stack([landmarks_at(300.0, 100.0) for _ in range(COUNT)])
    change(xy)
    shown = np.ones((COUNT, 39)) if visible is None else visible
    return doubts_of(xy / HEIGHT, shown, np.arange(COUNT), TIMES)


def test_a_body_that_stands_square_and_plain_is_told_as_usual():
    assert (doubts() == 1.0).all()


def test_hidden_turned_and_fast_joints_are_told_worse():
    hidden = np.ones((COUNT, 39))
    hidden[20:, LEFT_KNEE] = 0.5
    found = doubts(visible=hidden)
    assert found[5, LEFT_KNEE] == 1 and found[30, LEFT_KNEE] > 3 and found[30, LEFT_KNEE + 1] == 1

    def turn(xy):
        xy[30:, [11, 23]] = xy[30:, [12, 24]] + (4.0, 0.0)

    found = doubts(turn)
    assert (found[5] == 1).all()
    assert found[45, LEFT_HIP] > 2 and found[45, LEFT_SHOULDER] > 2.5 and found[45, LEFT_KNEE] > 2

    def kick(xy):
        xy[:, 27] += np.stack([300.0 * np.maximum(TIMES - 0.5, 0.0), 0.0 * TIMES], axis=1)

    found = doubts(kick)
    assert found[5, 27] == 1 and found[50, 27] > 2 and found[50, 28] == 1


def test_a_joint_taken_for_the_other_sides_is_told_worse_then_and_shortly_about_it():
    sides = np.zeros((COUNT, 39), dtype=bool)
    sides[30:40, LEFT_HIP] = True
    xy = np.stack([landmarks_at(300.0, 100.0) for _ in range(COUNT)]) / HEIGHT
    found = doubts_of(xy, np.ones((COUNT, 39)), np.arange(COUNT), TIMES, sides)
    worse = np.flatnonzero(found[:, LEFT_HIP] > 1)
    assert (worse[0], worse[-1], len(worse)) == (27, 42, 16) and (found[worse, LEFT_HIP] == 2).all()
    assert (found[:, LEFT_HIP + 1] == 1).all()


def test_doubt_has_a_limit_and_unseen_frames_break_nothing():
    def gone(xy):
        xy[10:20] = np.nan
        xy[30:, [11, 23]] = xy[30:, [12, 24]]

    found = doubts(gone, visible=np.zeros((COUNT, 39)))
    assert np.isfinite(found).all() and found.max() == MOST and found.min() >= 1


def test_flow_is_worth_less_where_its_joint_is_hidden():
    """Whichever way a joint was followed, by a mark or by the network, it follows what passes before it."""
    doubt = np.array([1.0, 1.0, 4.0, 4.0, 1.0])
    seen = {"left_knee": (Sighting(np.zeros((5, 2)), np.ones(5), wander=1.0, doubt=doubt),)}
    link = Links(np.zeros((4, 2)), np.full(4, 0.5))
    found = doubted({"left_knee": [link, link], "right_knee": [link]}, seen)
    for one in found["left_knee"]:
        np.testing.assert_allclose(one.sigma, [0.5, 2.0, 2.0, 2.0])
    np.testing.assert_allclose(found["right_knee"][0].sigma, 0.5)


def test_tuned_constants_are_listed_and_can_be_moved():
    """At most forty a package; each is there, says how it was found, and comes back after being moved."""
    every = constants()
    for package in {one.package for one in every}:
        assert 5 < sum(one.package == package for one in every) <= 40
    for one in every:
        before = one.value
        assert len(one.how) > 5 and len(one.on) > 5, one.name
        with one.moved(1.3):
            assert one.value != before, one.name
        assert one.value == before
    with pytest.raises(ZeroDivisionError), every[0].moved(2.0):
        assert 1 / 0
    assert every[0].value == constants()[0].value
