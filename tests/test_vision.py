"""Following points: known shifts of a texture, legs between marks, and what speaks against a leg."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter, shift

from kneel.model import Links, Mark, Sighting
from kneel.vision import Leg, closed, follow, legs
from kneel.vision.closure import FASTER_ERRS, SLOWER_ERRS, UNCHECKED
from kneel.vision.equipment import equipment


def texture(seed: int, size: int = 240) -> np.ndarray:
    field = gaussian_filter(np.random.default_rng(seed).normal(0, 1, (size, size)), 2.0)
    return 128 + 45 * field / field.std()


def moved(field: np.ndarray, dx: float, dy: float) -> np.ndarray:
    """The picture shifted by a fraction of a pixel with fifth-order splines (SciPy)."""
    return np.clip(shift(field, (dy, dx), order=5, mode="nearest"), 0, 255).round().astype(np.uint8)


@pytest.mark.parametrize("way", [1, -1])
def test_known_shifts_are_followed(way):
    """A texture shifted by ``ndimage.shift``: steps right to a few hundredths of a pixel."""
    field = texture(3)
    steps = np.array([[0.37, -0.21], [1.6, 0.8], [-2.3, 1.1], [0.05, 0.0], [4.2, -3.1]])
    places = np.concatenate([[[0, 0]], np.cumsum(steps, axis=0)])
    frames = [moved(field, *p) for p in places]
    start = np.array([120.0, 118.0])
    first, last = (0, 5) if way > 0 else (5, 0)
    x, y = start + places[first]
    leg = Leg("left_knee", first, float(x), float(y), last)
    found = follow([leg], lambda n: frames[n], np.arange(6) / 120, px_per_m=300.0)[leg]
    np.testing.assert_allclose(found.step, steps, atol=0.06)
    assert (found.sigma > 0).all()


def test_smooth_pictures_say_nothing():
    """Where there is nothing to follow there is no step, rather than an invented one."""
    flat = np.full((200, 200), 90, np.uint8)
    leg = Leg("left_hip", 0, 100.0, 100.0, 3)
    found = follow([leg], lambda n: flat, np.arange(4) / 120, px_per_m=300.0)[leg]
    assert np.isnan(found.step).all()


def test_leaving_the_picture_and_being_stopped():
    field = texture(5)
    frames = [moved(field, 9.0 * k, 0) for k in range(16)]
    leg = Leg("left_knee", 0, 200.0, 120.0, 15)
    found = follow([leg], lambda n: frames[n], np.arange(16) / 60, px_per_m=300.0)[leg]
    assert np.isfinite(found.step[0]).all()
    assert np.isnan(found.step[-1]).all()
    stopped = follow([leg], lambda n: frames[n], np.arange(16) / 60, px_per_m=300.0, stopped=lambda: True)
    assert np.isnan(stopped[leg].step).all()


def test_a_leg_is_followed_alike_whatever_else_is():
    """To the bit: alone, beside others, near the picture's edge; so a mark may be moved without the rest."""
    field = texture(8)
    frames = [moved(field, 1.3 * k, 0.4 * k) for k in range(8)]
    some = [
        Leg("left_hip", 0, 90.0, 120.0, 7),
        Leg("grip", 0, 30.0, 60.0, 7),
        Leg("left_knee", 7, 140.0, 200.0, 0),
    ]
    times = np.arange(8) / 120
    together = follow(some, lambda n: frames[n], times, px_per_m=200.0)
    for leg in some:
        alone = follow([leg], lambda n: frames[n], times, px_per_m=200.0)[leg]
        np.testing.assert_array_equal(alone.step, together[leg].step)
        np.testing.assert_array_equal(alone.sigma, together[leg].sigma)


@pytest.mark.parametrize(("point", "goes_on"), [("left_hip", True), ("grip", False)])
def test_what_was_lost_is_not_followed_from_its_old_place(point, goes_on):
    """Two blank frames: a hip is still about there, hands at full speed are not; there is something else."""
    field = texture(9)
    speed = 0.3 if goes_on else 6.0
    frames = [moved(field, speed * k, 0) for k in range(12)]
    frames[5] = frames[6] = np.full_like(frames[0], 90)
    leg = Leg(point, 0, 110.0, 120.0, 11)
    found = follow([leg], lambda n: frames[n], np.arange(12) / 120, px_per_m=100.0)[leg]
    known = np.isfinite(found.step[:, 0])
    assert known[:4].all() and not known[4:7].any()
    assert known[8:].all() if goes_on else not known[7:].any()


def test_the_club_is_sought_where_the_hands_are(simulate, monkeypatch):
    """Hands are smoothed at the scale of the body, not of a picture: in full swing they are within 3 px."""
    rows, _ = simulate(noise=0.0)
    height = 430.0
    sees = {
        name: (Sighting(rows.xy[name].copy(), np.full(len(rows), 4.0)),)
        for name in ("grip", "left_ankle", "right_ankle")
    }
    given = {}

    def find_club(luma, times_s, hands, *, px_per_m, progress, stopped):
        given["hands"] = hands

    monkeypatch.setattr("kneel.vision.equipment.find_club", find_club)
    monkeypatch.setattr("kneel.vision.equipment.find_ball", lambda *a, **k: None)
    equipment(lambda n: np.zeros((720, 1280), np.uint8), rows.times_s, sees, {}, px_per_m=height / 1.7)
    assert np.linalg.norm(given["hands"] - rows.xy["grip"], axis=1).max() < 3.0
    # Feet that lie outside the picture in every frame hide the ball's place and nothing else.
    nowhere = (Sighting(np.full((len(rows), 2), np.nan), np.full(len(rows), 4.0)),)
    given.clear()
    monkeypatch.setattr("kneel.vision.equipment.find_ball", None)
    for lacking in ({"left_ankle": nowhere}, {"left_ankle": nowhere, "right_ankle": nowhere}):
        dark = equipment(lambda n: None, rows.times_s, sees | lacking, {}, px_per_m=height / 1.7)
        assert dark == {} and len(given.pop("hands")) == len(rows)
    assert equipment(lambda n: None, rows.times_s, sees | {"grip": nowhere}, {}, px_per_m=200.0) == {}
    assert not given


def test_legs_run_between_marks_and_to_the_ends():
    marks = [Mark("grip", 10, 1, 1), Mark("grip", 20, 2, 2), Mark("head", 99, 0, 0), Mark("ball", 500, 0, 0)]
    spans = {(leg.point, leg.first, leg.last) for leg in legs(marks, 100)}
    assert spans == {
        ("grip", 10, 20),
        ("grip", 10, 0),
        ("grip", 20, 99),
        ("grip", 20, 10),
        ("head", 99, 0),
    }


def test_a_leg_that_misses_its_mark_is_believed_less():
    """The excess of the miss over its expectation is spread over the steps: sums of variances close."""
    count = 41
    leg, back = Leg("left_hip", 0, 100.0, 50.0, 40), Leg("left_hip", 40, 112.0, 50.0, 0)
    good = Links(np.tile([0.3, 0.0], (count - 1, 1)), np.full(count - 1, 0.2))
    bad = Links(np.tile([1.3, 0.0], (count - 1, 1)), np.full(count - 1, 0.2))
    marks = [Mark("left_hip", 0, 100.0, 50.0, 1.0), Mark("left_hip", 40, 112.0, 50.0, 1.0)]
    right = closed({leg: good}, marks)["left_hip"][0]
    np.testing.assert_allclose(right.sigma, 0.2)
    # What the mark it starts from is off by counts as much as what the one at its end is.
    for start, end in ((20.0, 1.0), (1.0, 20.0)):
        loose = [Mark("left_hip", 0, 100.0, 50.0, start), Mark("left_hip", 40, 112.0, 50.0, end)]
        spread = closed({leg: bad}, loose)["left_hip"][0]
        assert np.sum(spread.sigma**2) + 20.0**2 + 1.0 == pytest.approx(40.0**2 / 2)
    wrong = closed({leg: bad}, marks)["left_hip"][0]
    assert np.sum(wrong.sigma**2) + 2.0 == pytest.approx(40.0**2 / 2)
    holes = bad.step.copy()
    holes[5:20] = np.nan
    patchy = closed({leg: Links(holes, np.where(np.isnan(holes[:, 0]), np.nan, 0.2))}, marks)["left_hip"][0]
    assert np.nanmin(patchy.sigma) > 4.0
    both = closed({leg: bad, back: good}, marks)["left_hip"]
    assert both[0].sigma.mean() > 2 * both[1].sigma.mean()
    open_end = closed({leg: good}, marks[:1])["left_hip"][0]
    np.testing.assert_allclose(open_end.sigma, 0.2 * UNCHECKED)


@pytest.mark.parametrize(("way", "off"), [(1, (3.0, -4.0)), (-1, (3.0, -4.0)), (1, (1.0, -0.9))])
def test_a_miss_is_spread_over_the_steps_that_are_known(way, off):
    """Steps and marks are as unsure as the miss is large (squares add, GUM 5.1.2), a coordinate each."""
    count, off = 20, np.array(off)
    step, sigma = np.tile([2.0, -1.0], (count, 1)), np.full(count, 0.05)
    first, last = (0, count) if way > 0 else (count, 0)
    end = np.array([50.0, 60.0]) + way * step.sum(axis=0) + off
    marks = [Mark("left_hip", first, 50.0, 60.0, 0.3), Mark("left_hip", last, *end, 0.4)]
    leg = Leg("left_hip", first, 50.0, 60.0, last, tuple(end))
    for unknown in (0, 11, 13):
        holes, unsure = step.copy(), sigma.copy()
        holes[4 : 4 + unknown], unsure[4 : 4 + unknown] = np.nan, np.nan
        (told,) = closed({leg: Links(holes, unsure)}, marks)["left_hip"]
        if unknown > 0.6 * count:
            np.testing.assert_allclose(told.sigma, UNCHECKED * unsure)
        else:
            marked = 0.3**2 + 0.4**2
            assert np.nansum(told.sigma**2) + marked == pytest.approx((off @ off) / 2)


@pytest.mark.parametrize(
    ("point", "shares"), [("left_hip", (SLOWER_ERRS, FASTER_ERRS)), ("grip", (1.0, 1.0))]
)
def test_of_two_ways_the_faster_is_believed_less(point, shares):
    """One step on which they differ is doubted in both, as much as they lie apart by a coordinate each."""
    count, at = 9, 5
    step = np.tile([1.0, 0.0], (count, 1))
    swept = step.copy()
    swept[at] += (6.0, 8.0)
    there, back = Leg(point, 0, 0.0, 0.0, count), Leg(point, count, float(count), 0.0, 0)
    followed = {there: Links(step, np.full(count, 0.1)), back: Links(swept, np.full(count, 0.1))}
    turned = {there: followed[back], back: followed[there]}
    shorter = Leg(point, 4, 4.0, 0.0, count)
    alone = closed({there: followed[there], shorter: followed[back]}, [])[point]
    np.testing.assert_allclose([one.sigma for one in alone], 0.1 * UNCHECKED)
    for slow, fast, order in ((0, 1, followed), (1, 0, turned)):
        found = closed(order, [])[point]
        for which, share in zip((slow, fast), shares, strict=True):
            expected = np.full(count, 0.1 * UNCHECKED)
            expected[at] = np.hypot(expected[at], share * 10.0 / np.sqrt(2))
            np.testing.assert_allclose(found[which].sigma, expected)
