"""Limbs that came out too long are mended, and honest ones are left alone."""

from __future__ import annotations

import numpy as np
import pytest

from kneel.model import Mark, Sighting
from kneel.motion.limbs import solve_body
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.track import PointData, solve_tracks
from kneel.sim.film import Shoot
from kneel.sim.swing import SwingPlan

TIMES = np.arange(150) / 120
METRE = 300.0


def leg():
    """True paths of a leg that flexes a little; thigh 127 px, shank 127 px."""
    hip = np.stack([500 + 15 * np.sin(3 * TIMES), np.full(150, 300.0)], axis=1)
    lean = 0.15 + 0.1 * np.sin(4 * TIMES)
    knee = hip + 127 * np.stack([np.sin(lean), np.cos(lean)], axis=1)
    ankle = knee + 127 * np.stack([-np.sin(lean), np.cos(lean)], axis=1)
    return {"left_hip": hip, "left_knee": knee, "left_ankle": ankle}


def seen(paths, wrong, seed=0):
    rng = np.random.default_rng(seed)
    points = {}
    for name, path in paths.items():
        xy = path + rng.normal(0, 1.5, path.shape)
        sigma = np.full(150, 1.5)
        if name == "left_knee":
            xy[60:85, 0] += wrong
            sigma[60:85] = 12.0
        points[name] = PointData((Sighting(xy, sigma),), (), 3.0 * METRE, 3.0 * METRE)
    return points


@pytest.mark.parametrize("wrong", [140.0, -170.0])
def test_a_knee_taken_for_the_other_one_is_pulled_back(wrong):
    """For 0.2 s the knee is seen far to one side: it comes back as far as the limbs' lengths can tell."""
    paths = leg()
    points = seen(paths, wrong)
    plain, mended = solve_tracks(TIMES, points), solve_body(TIMES, points)
    error = [np.linalg.norm(t["left_knee"].xy - paths["left_knee"], axis=1)[60:85] for t in (plain, mended)]
    assert error[0].mean() > 15
    assert error[1].mean() < 0.85 * error[0].mean()
    thigh = [np.linalg.norm(t["left_knee"].xy - t["left_hip"].xy, axis=1).max() for t in (plain, mended)]
    assert thigh[1] - 1.06 * 127 < 0.5 * (thigh[0] - 1.06 * 127)
    for name in ("left_hip", "left_ankle"):
        assert np.abs(mended[name].xy - paths[name]).max() < 5


def test_a_mark_by_hand_binds_even_where_a_limb_gets_long():
    """What a person has set is not argued with."""
    paths = leg()
    marks = [Mark(n, f, *p[f].tolist()) for n, p in paths.items() for f in (0, 40, 110, 149)]
    marks.append(Mark("left_knee", 70, *(paths["left_knee"][70] + (80.0, 0.0)).tolist()))
    points = from_marks(marks, 150, {}, height_px=720)
    mended = solve_body(TIMES, points)
    assert np.abs(mended["left_knee"].xy[70] - paths["left_knee"][70] - (80.0, 0.0)).max() < 25


def test_true_points_of_a_swing_are_left_as_they_are(simulated_rows):
    """No limb of a true swing is too long, seen from the front: nothing is added."""
    points = from_rows(simulated_rows)
    times = simulated_rows.times_s
    plain, mended = solve_tracks(times, points), solve_body(times, points)
    assert all(np.array_equal(plain[n].xy, mended[n].xy) for n in plain)


@pytest.fixture(params=[SwingPlan(), SwingPlan({"sway": 8.0}, variation=1.0, seed=4)], ids=["clean", "sway"])
def simulated_rows(request):
    from kneel.model import PointRows

    shoot = Shoot(plan=request.param, rate=120.0)
    truth = shoot.truth()
    rng = np.random.default_rng(2)
    names = [
        n for n in truth.pixels if n.split("_")[-1] in ("hip", "knee", "ankle", "shoulder", "elbow", "wrist")
    ]
    xy = {n: truth.pixels[n] + rng.normal(0, 1.0, truth.pixels[n].shape) for n in names}
    count = len(truth.times_s)
    return PointRows(np.arange(count), truth.times_s, xy, {n: np.full(count, 1.0) for n in names})
