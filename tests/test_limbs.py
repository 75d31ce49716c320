"""Limbs that came out too long are mended, and honest ones are left alone."""

from __future__ import annotations

import numpy as np
import pytest

from kneel.model import Mark, Sighting
from kneel.motion.limbs import mended, solve_body
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
    plain, brought = solve_tracks(TIMES, points), solve_body(TIMES, points)
    error = [np.linalg.norm(t["left_knee"].xy - paths["left_knee"], axis=1)[60:85] for t in (plain, brought)]
    assert error[0].mean() > 15
    assert error[1].mean() < 0.85 * error[0].mean()
    thigh = [np.linalg.norm(t["left_knee"].xy - t["left_hip"].xy, axis=1).max() for t in (plain, brought)]
    assert thigh[1] - 1.06 * 127 < 0.5 * (thigh[0] - 1.06 * 127)
    for name in ("left_hip", "left_ankle"):
        assert np.abs(brought[name].xy - paths[name]).max() < 5


def test_a_length_is_no_new_sight_of_the_joint():
    """A knee half hidden and 40 px too low for half a second comes back along the limbs, no surer."""
    paths = leg()
    rng = np.random.default_rng(3)
    points = {}
    for name, path in paths.items():
        xy, sigma = path + rng.normal(0, 1, path.shape), np.full(150, 1.5)
        if name == "left_knee":
            xy[60:120, 1] += 40.0
            sigma[60:120] = 6.0
        points[name] = PointData((Sighting(xy, sigma),), (), 3.0 * METRE, METRE)
    plain, brought = solve_tracks(TIMES, points), solve_body(TIMES, points)
    knee, was = brought["left_knee"], plain["left_knee"]
    wrong = slice(65, 115)
    before, after = (np.linalg.norm(t.xy - paths["left_knee"], axis=1)[wrong].mean() for t in (was, knee))
    assert before > 35 and after < before - 12
    for name, track in brought.items():
        assert (track.sigma >= plain[name].sigma - 1e-12).all()
    assert after < 2.5 * knee.sigma[wrong].mean() and knee.sigma[10] == was.sigma[10]
    moved = (knee.xy - was.xy)[wrong]
    # It went along both limbs, which here hang within 15 degrees of the vertical, and hardly sideways.
    assert np.abs(moved[:, 0]).mean() < 0.3 * np.abs(moved[:, 1]).mean()


def test_the_nearer_end_in_doubt_moves_more_and_a_near_leg_may_look_long():
    """The excess is shared by variance; a tenth too long is what a leg nearer the camera looks like."""
    hip, knee = np.zeros((4, 2)), np.tile([0.0, 100.0], (4, 1))
    knee[3, 1] = 150.0

    def track(xy, sigma):
        times = np.arange(4) / 60
        data = PointData((Sighting(xy, np.full(4, sigma), by_hand=True),), (), 1e6, 1e6)
        return solve_tracks(times, {"p": data})["p"]

    for sure, share in ((1.0, 0.5), (3.0, 0.1)):
        tracks = {"left_hip": track(hip, 1.0), "left_knee": track(knee, sure)}
        out = mended(tracks)
        hip_moved, knee_moved = (np.linalg.norm(out[n].xy[3] - tracks[n].xy[3]) for n in tracks)
        assert hip_moved / (hip_moved + knee_moved) == pytest.approx(share, abs=0.02)
        np.testing.assert_allclose(out["left_knee"].xy[:3], tracks["left_knee"].xy[:3])
    longer = {"left_hip": track(hip, 1.0), "left_knee": track(np.tile([0.0, 109.0], (4, 1)), 1.0)}
    straight = longer | {"right_hip": track(hip, 1.0), "right_knee": track(knee * 0 + (0, 100), 1.0)}
    assert all(np.array_equal(mended(straight)[n].xy, straight[n].xy) for n in straight)


def test_a_mark_by_hand_binds_even_where_a_limb_gets_long():
    """What a person has set is not argued with."""
    paths = leg()
    marks = [Mark(n, f, *p[f].tolist()) for n, p in paths.items() for f in (0, 40, 110, 149)]
    marks.append(Mark("left_knee", 70, *(paths["left_knee"][70] + (80.0, 0.0)).tolist()))
    points = from_marks(marks, 150, {}, height_px=720)
    brought = solve_body(TIMES, points)
    assert np.abs(brought["left_knee"].xy[70] - paths["left_knee"][70] - (80.0, 0.0)).max() < 25


def test_true_points_of_a_swing_are_left_as_they_are(simulated_rows):
    """No limb of a true swing is too long, seen from the front: nothing is added."""
    points = from_rows(simulated_rows)
    times = simulated_rows.times_s
    plain, brought = solve_tracks(times, points), solve_body(times, points)
    assert all(np.array_equal(plain[n].xy, brought[n].xy) for n in plain)


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
