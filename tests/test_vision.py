"""Following points: known shifts of a texture, legs between marks, and what speaks against a leg."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter, shift

from kneel.model import Links, Mark
from kneel.vision import Leg, closed, follow, legs
from kneel.vision.closure import UNCHECKED


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
