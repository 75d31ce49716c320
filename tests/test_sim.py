"""The simulated golfer: a body that keeps its lengths, dials that do what they say, a true camera."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kneel.model import Club, Hand, UsageError, View
from kneel.motion import body
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, pictures
from kneel.sim.golfer import Golfer
from kneel.sim.pose import pose
from kneel.sim.sound import RATE, swing_sound
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import true_checkpoints, truth_json

TIMES = np.arange(0, 2.5, 1 / 120)


def length(a, b):
    return np.linalg.norm(a - b, axis=1)


@settings(max_examples=15, deadline=None)
@given(
    stature=st.floats(140, 200),
    sway=st.floats(0, 9),
    club=st.sampled_from(list(Club)),
    flare=st.floats(0, 35),
)
def test_limbs_keep_their_length_and_feet_their_place(stature, sway, club, flare):
    """Segment lengths after Drillis and Contini (1966, in Winter), constant to 1e-9; toes never slide."""
    golfer = Golfer(stature, club=club, lead_flare_deg=flare)
    plan = SwingPlan({"sway": sway})
    joint = pose(golfer, plan, TIMES).joints
    for side in ("lead", "trail"):
        thigh = length(joint[f"{side}_hip"], joint[f"{side}_knee"])
        shank = length(joint[f"{side}_knee"], joint[f"{side}_ankle"])
        np.testing.assert_allclose(thigh, body.THIGH * stature, rtol=1e-9)
        np.testing.assert_allclose(shank, body.SHANK * stature, rtol=1e-9)
        assert np.ptp(joint[f"{side}_toe"], axis=0).max() < 1e-9
        foot = length(joint[f"{side}_heel"], joint[f"{side}_toe"])
        np.testing.assert_allclose(foot, foot[0], rtol=1e-9)
        upper = joint[f"{side}_hip"] - joint[f"{side}_knee"]
        lower = joint[f"{side}_ankle"] - joint[f"{side}_knee"]
        cosine = (upper * lower).sum(axis=1) / (thigh * shank)
        flex = 180 - np.degrees(np.arccos(np.clip(cosine, -1, 1)))
        assert (flex > 1).all() and (flex < 100).all()
    hips = length(joint["lead_hip"], joint["trail_hip"])
    np.testing.assert_allclose(hips, hips[0], rtol=1e-9)


@pytest.mark.parametrize("amount", [2.0, 6.0, 12.0])
def test_sway_has_the_amount_asked_for(amount):
    """6.0 cm of sway move the pelvis 6.0 cm at the top, and nothing else at address."""
    clean, swaying = (Shoot(plan=SwingPlan({"sway": a})).truth() for a in (0.0, amount))
    moved = clean.at(clean.pelvis_shift_cm, "top") - swaying.at(swaying.pelvis_shift_cm, "top")
    assert moved == pytest.approx(amount, rel=0.02)
    assert abs(swaying.pelvis_shift_cm[:40]).max() < 1e-9


def test_timing_and_speeds_are_those_of_a_golfer():
    """Top to impact 0.25 to 0.33 s, tempo about 3 : 1, hands and club plausible (common practice)."""
    golfer, plan = Golfer(), SwingPlan()
    at = true_checkpoints(golfer, plan)
    down = at["impact"] - at["top"]
    assert 0.25 <= down <= 0.33
    assert 2.5 < (at["top"] - at["address"]) / down < 3.5
    assert list(at.values()) == sorted(at.values())
    joint = pose(golfer, plan, TIMES).joints
    for name, low, high in (("grip", 6.0, 15.0), ("clubhead", 30.0, 55.0)):
        speed = np.linalg.norm(np.gradient(joint[name], 1 / 120, axis=0), axis=1).max() / 100
        assert low < speed < high, name


def test_club_meets_the_ball():
    golfer, plan = Golfer(), SwingPlan({"sway": 5.0})
    impact = true_checkpoints(golfer, plan)["impact"]
    skeleton = pose(golfer, plan, np.array([0.0, impact]))
    assert np.linalg.norm(skeleton.joints["clubhead"] - skeleton.ball, axis=1).max() < 1.0


@pytest.mark.parametrize("view", list(View))
@pytest.mark.parametrize("hand", list(Hand))
def test_projection_agrees_with_opencv(view, hand):
    """Pixels against ``cv2.projectPoints`` with the same pose (a left-handed golfer as its mirror image)."""
    camera = Camera(view, hand, yaw_deg=4.0, roll_deg=2.0)
    xyz = np.random.default_rng(1).uniform((-60, -20, 0), (60, 90, 180), (50, 3))
    pixels, depth = camera.project(xyz)
    position, right, down, forward = camera.place()
    rotation = np.stack([right, down, forward])
    if np.linalg.det(rotation) < 0:
        # OpenCV takes proper rotations only: turn the world over as well.
        rotation = rotation @ np.diag([-1, 1, 1])
        xyz, position = xyz * (-1, 1, 1), position * (-1, 1, 1)
    matrix = np.array([[camera.focal, 0, 639.5], [0, camera.focal, 359.5], [0, 0, 1]])
    expected, _ = cv2.projectPoints(xyz, cv2.Rodrigues(rotation)[0], -rotation @ position, matrix, None)
    np.testing.assert_allclose(pixels, expected[:, 0], atol=1e-6)
    assert (depth > 0).all()


def test_signs_of_the_views():
    """Face-on a right-handed golfer's target is at image right; down-the-line the ball (domain)."""
    for hand, sign in ((Hand.RIGHT, 1), (Hand.LEFT, -1)):
        for view, axis, way in (
            (View.FACE_ON, (1, 0, 0), 1),
            (View.REAR, (1, 0, 0), -1),
            (View.DOWN_THE_LINE, (0, 1, 0), 1),
        ):
            pixels, _ = Camera(view, hand).project(
                np.array([[0.0, 25, 98], np.array(axis) * 30.0 + (0, 25, 98)])
            )
            assert np.sign(pixels[1, 0] - pixels[0, 0]) == sign * way
    plain, mirrored = (Camera(mirrored=m).project(np.array([20.0, 0, 90]))[0] for m in (False, True))
    assert plain[0] + mirrored[0] == pytest.approx(1279)


def test_pictures_are_the_same_for_the_same_seed_and_show_the_figure():
    camera = Camera(width=320, height=180)
    first, again, other = (next(iter(pictures(Shoot(camera=camera, seed=seed)))) for seed in (3, 3, 4))
    assert (first == again).all()
    assert (first != other).any()
    shoot = Shoot(camera=camera, seed=3)
    x, y = shoot.truth().pixels["left_knee"][0].round().astype(int)
    trousers = np.array(Golfer().trousers)
    assert np.abs(first[y, x].astype(int) - trousers).max() < 60


def test_strike_sounds_at_impact():
    sound = swing_sound(2.0, 1.25, seed=1)
    loud = np.flatnonzero(np.abs(sound) > 0.4)
    assert loud[0] / RATE == pytest.approx(1.25, abs=0.002)


def test_truth_file_and_refusals():
    shoot = Shoot(plan=SwingPlan({"sway": 6.0}))
    content = truth_json(shoot.truth(), shoot.golfer, shoot.plan, shoot.camera, 120.0)
    assert content["measures"]["pelvis_shift"]["at"]["top"] == pytest.approx(-6.0, abs=0.05)
    assert len(content["points"]["left_hip"]) == len(shoot.times_s)
    assert content["points"]["ball"][-1] == [None, None]
    for faults in ({"nonesuch": 1.0}, {"sway": -1.0}, {"sway": float("nan")}):
        with pytest.raises(UsageError):
            SwingPlan(faults)
