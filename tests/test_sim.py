"""The simulated golfer: a body that keeps its lengths, dials that do what they say, a true camera."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from dataclasses import replace
from functools import cache
from itertools import islice, pairwise

import cv2
import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from kneel.cli.main import main
from kneel.footage.clip import Clip
from kneel.model import CHECKPOINTS, Club, Hand, UsageError, View
from kneel.motion import body
from kneel.sim.build import BUILDS, MAN, WOMAN
from kneel.sim.camera import Camera
from kneel.sim.dials import dials, perform
from kneel.sim.film import Shoot, _all_pictures, film, pictures, tape_pixels
from kneel.sim.golfer import Golfer
from kneel.sim.held import Held
from kneel.sim.legs import SIDES
from kneel.sim.look import ORANGE_TAPE, Appearance, FilmPlace, Light
from kneel.sim.measures import HEAD_MASS, SEGMENTS, TRUNK_MASS, in_space
from kneel.sim.routine import Routine
from kneel.sim.sound import RATE, swing_sound
from kneel.sim.swing import NINE, SwingPlan, patterns
from kneel.sim.truth import truth_json

# What is asked of each dial in the tests: about half of what a body can do.
AMOUNTS = {name: dial.limit * 0.3 for name, dial in dials().items()} | {"trail_knee_lock": 6.0}
SMALL = Camera(width=320, height=180)
SHAKEN = Held(1.5, 4.0, pan_deg=2.0, seed=3)


def length(a, b):
    return np.linalg.norm(a - b, axis=1)


def bend_of(root, joint, end):
    """Degrees between two bones, by the dot product."""
    first, second = joint - root, end - joint
    return np.degrees(np.arccos((first * second).sum(axis=1) / length(joint, root) / length(end, joint)))


@settings(max_examples=25, deadline=None, phases=(Phase.explicit, Phase.generate))
@given(
    stature=st.floats(140, 200),
    club=st.sampled_from(list(Club)),
    pattern=st.sampled_from(list(patterns())),
    fault=st.sampled_from(sorted(dials())),
    tempo=st.floats(0.8, 1.4),
    variation=st.sampled_from((0.0, 0.5, 1.0)),
    seed=st.integers(0, 1000),
    kind=st.sampled_from(sorted(BUILDS)),
)
def test_bodies_hold_together_in_any_swing(stature, club, pattern, fault, tempo, variation, seed, kind):
    """Segments keep their body's lengths (de Leva 1996, with spread), feet planted, no joint backward."""
    golfer = Golfer(stature, club=club, build=BUILDS[kind].drawn(np.random.default_rng(seed)))
    plan = SwingPlan({fault: AMOUNTS[fault] / 2}, pattern, tempo, variation=variation, seed=seed)
    try:
        motion = perform(golfer, plan)
    except UsageError as error:
        assert "ask for less" in str(error)
        return
    joint = motion.pose(np.arange(0, plan.length_s, 1 / 120)).joints
    bones = {
        ("hip", "knee"): golfer.build.thigh * stature,
        ("knee", "ankle"): golfer.build.shank * stature,
        ("shoulder", "elbow"): golfer.build.upper_arm * stature,
    }
    for side in ("lead", "trail"):
        for (near, far), expected in bones.items():
            found = length(joint[f"{side}_{near}"], joint[f"{side}_{far}"])
            np.testing.assert_allclose(found, expected, rtol=1e-9)
        np.testing.assert_allclose(np.ptp(length(joint[f"{side}_heel"], joint[f"{side}_toe"])), 0, atol=1e-9)
        np.testing.assert_allclose(np.ptp(length(joint[f"{side}_elbow"], joint["grip"])), 0, atol=1e-9)
        assert np.ptp(joint[f"{side}_toe"], axis=0).max() < 1e-9
        assert joint[f"{side}_heel"][:, 2].min() > 1.4
        flex = bend_of(*(joint[f"{side}_{n}"][::15] for n in ("hip", "knee", "ankle")))
        assert (flex > 1).all() and (flex < 110).all()
        forward = joint[f"{side}_knee"] - (joint[f"{side}_hip"] + joint[f"{side}_ankle"]) / 2
        ahead = (joint[f"{side}_toe"] - joint[f"{side}_heel"]) * (1, 1, 0)
        # A knee of a leg that is all but straight lies hardly off its line, whichever way that points.
        straight = bend_of(*(joint[f"{side}_{n}"] for n in ("hip", "knee", "ankle"))) < 3
        assert ((forward * ahead).sum(axis=1) / length(ahead, 0) > np.where(straight, -0.5, 0)).all()
    for pair in ("hip", "shoulder"):
        np.testing.assert_allclose(
            np.ptp(length(joint[f"lead_{pair}"], joint[f"trail_{pair}"])), 0, atol=1e-9
        )
    assert (np.diff([motion.checkpoints_s[name] for name in NINE]) > 0).all()
    # A club that is held back may come level after the arms.
    assert motion.checkpoints_s["impact"] < motion.checkpoints_s["through"] < motion.checkpoints_s["finish"]


@cache
def performed_clean():
    return perform(Golfer(), SwingPlan())


@pytest.mark.parametrize("name", sorted(dials()))
def test_every_dial_moves_its_own_measure_by_what_was_asked(name):
    """Within 2 % at its own checkpoint, alone; address is left alone by all but the set-up dials."""
    dial, amount = dials()[name], AMOUNTS[name]
    clean, faulty = performed_clean(), perform(Golfer(), SwingPlan({name: amount}))
    at = [
        in_space(m.pose(np.array([m.checkpoints_s["address"], m.checkpoints_s[dial.at]])))
        for m in (clean, faulty)
    ]
    moved = at[1][dial.measure][1] - at[0][dial.measure][1]
    assert moved == pytest.approx(dial.sign * amount, rel=0.02)
    if dial.at != "address":
        before = [m.pose(np.array([0.0])).joints for m in (clean, faulty)]
        for joint, xyz in before[0].items():
            np.testing.assert_allclose(before[1][joint], xyz, atol=1e-9)


def test_dials_add_up_and_their_side_effects_are_the_mechanism():
    """Sway carries the base of the spine, so the trunk tips back; a braced trail leg leaves hips level."""
    clean, sway, braced, both = (
        Shoot(plan=SwingPlan(f)).truth()
        for f in ({}, {"sway": 8.0}, {"braced_turn": 13.0}, {"sway": 8.0, "early_extension": 10.0})
    )
    assert sway.at("pelvis_shift", "top") == pytest.approx(-8.0, abs=0.1)
    assert -8 < sway.at("side_tilt", "top") - clean.at("side_tilt", "top") < -4
    assert -4 < sway.at("head_shift", "top") < 0
    assert abs(braced.at("pelvis_tilt", "top")) < 4 < clean.at("pelvis_tilt", "top") - 3
    assert abs(braced.at("pelvis_turn", "top")) < abs(clean.at("pelvis_turn", "top"))
    assert both.at("pelvis_shift", "top") == pytest.approx(-8.0, abs=0.2)
    assert both.at("pelvis_thrust", "impact") - sway.at("pelvis_thrust", "impact") == pytest.approx(
        10, rel=0.02
    )
    assert both.at("posture_loss", "impact") > 8 and both.at("head_lift", "impact") > 1


@pytest.mark.parametrize("pattern", sorted(patterns()))
def test_clean_patterns_are_what_their_school_teaches(pattern):
    """Tilt, turn and shift at top, turn at impact, trail knee short of lock (common practice, no source)."""
    truth = Shoot(plan=SwingPlan(pattern=pattern)).truth()
    tilt, turn, shift, impact, aside = {
        "neutral": ((5, 15), (35, 55), (-1.5, 4.0), (20, 45), (0, 6)),
        "centred": ((5, 15), (35, 55), (0.5, 2.0), (20, 45), (0, 12)),
        "loading": ((3, 12), (35, 55), (-4.0, -2.5), (35, 45), (-2, 10)),
        "forward": ((8, 18), (40, 60), (0.0, 3.0), (35, 55), (-5, 6)),
        "braced": ((0, 6), (25, 40), (-1.0, 1.0), (20, 40), (0, 10)),
    }[pattern]
    for key, name, (low, high), sign in (
        ("pelvis_tilt", "top", tilt, 1),
        ("pelvis_turn", "top", turn, -1),
        ("pelvis_shift", "top", shift, 1),
        ("pelvis_turn", "impact", impact, 1),
        ("trail_knee_flex", "top", (8, 26), 1),
        ("mass_side", "address", (53, 60) if pattern == "forward" else (45, 55), 1),
        ("side_tilt", "top", aside, 1),
        ("lead_knee_flex", "impact", (5, 20), 1),
        ("trail_heel_lift", "impact", (0, 2.5), 1),
        ("mass_side", "impact", (57, 66), 1),
    ):
        assert low <= sign * truth.at(key, name) <= high, key
    start = truth.at("trail_knee_flex", "address")
    assert start - truth.at("trail_knee_flex", "top") < 20
    # Straight without lock, and straighter than it stood; no school's side tilt is another's.
    assert truth.at("lead_knee_flex", "impact") < truth.at("lead_knee_flex", "address") - 5
    # 80 to 85 % is what teachers quote of the ground's pressure; the mass stays behind it.
    for name in ("half_down", "impact"):
        assert 72 < truth.at(truth.pressure.lead_percent, name) < 90


def test_schools_lean_differently_at_the_top():
    """The trunk's side tilt at the top and impact sets three schools apart (common practice, no source)."""
    found = {
        name: [Shoot(plan=SwingPlan(pattern=name)).truth().at("side_tilt", at) for at in ("top", "impact")]
        for name in ("centred", "forward", "braced", "loading")
    }
    assert found["forward"][0] < found["loading"][0] < found["centred"][0] - 2
    assert found["centred"][0] < found["braced"][0] - 1
    assert found["forward"][1] > found["centred"][1] + 2 > found["loading"][1] + 4


def test_bodies_are_of_another_table_than_the_scale_s():
    """Legs of de Leva 1996 against what the scale supposes (Drillis and Contini 1966), with spread."""
    rng = np.random.default_rng(3)
    for table, low, high in ((MAN, 0.485, 0.505), (WOMAN, 0.455, 0.475)):
        legs = np.array([(b.thigh + b.shank, b.trunk) for b in (table.drawn(rng) for _ in range(400))])
        assert low < legs[:, 0].mean() < high and abs(legs[:, 0].mean() - body.LEG) > 0.003
        assert 0.015 < legs[:, 0].std() / legs[:, 0].mean() < 0.035
        # Who has long legs has a short trunk: both make up one stature.
        assert np.corrcoef(legs.T)[0, 1] < -0.99


@pytest.mark.parametrize("club", list(Club))
def test_timing_speeds_and_strike_are_those_of_a_golfer(club):
    """Top to impact 0.25 to 0.33 s, about 3 : 1; plausible speeds; club meets ball (common practice)."""
    plan = SwingPlan()
    motion = perform(Golfer(club=club), plan)
    at = motion.checkpoints_s
    down = at["impact"] - at["top"]
    assert 0.25 <= down <= 0.33
    assert 2.5 < (at["top"] - at["address"]) / down < 3.5
    fine = np.arange(0, plan.length_s, 1 / 1000)
    joint = motion.pose(fine).joints
    for name, low, high in (("grip", 6.0, 15.0), ("clubhead", 28.0, 55.0), ("lead_hip", 0.4, 2.0)):
        speed = np.linalg.norm(np.gradient(joint[name], 1 / 1000, axis=0), axis=1) / 100
        assert low < speed.max() < high, name
    # With continuous acceleration its steps shrink with the time between; a jump would stay.
    steps = [
        np.abs(np.diff(motion.pose(np.arange(0.2, 2.2, dt)).joints["lead_hip"], n=3, axis=0)).max() / dt**2
        for dt in (0.002, 0.0005)
    ]
    assert steps[1] < 0.35 * steps[0]
    strike = motion.pose(np.array([at["impact"]]))
    assert np.linalg.norm(strike.joints["clubhead"][0] - strike.ball) < 0.2


def test_truth_is_recomputed_by_another_route():
    """Turns, flexes and tilts by SciPy's Rotation; masses are de Leva's table."""
    shoot = Shoot(
        plan=SwingPlan({"sway": 5.0, "early_extension": 6.0}), camera=Camera(yaw_deg=4.0, roll_deg=1.0)
    )
    truth = shoot.truth()
    at = np.array([truth.checkpoints_s[name] for name in CHECKPOINTS])
    skeleton = shoot.motion.pose(at)
    found = in_space(skeleton)
    for part, frame in (("pelvis", skeleton.pelvis), ("shoulder", skeleton.chest)):
        euler = Rotation.from_matrix(frame.transpose(0, 2, 1)).as_euler("ZYX", degrees=True)
        np.testing.assert_allclose(found[f"{part}_turn"], -euler[:, 0], atol=1e-6)
        if part == "pelvis":
            np.testing.assert_allclose(found["pelvis_tilt"], euler[:, 1], atol=1e-6)
    for side in ("lead", "trail"):
        hip, knee, ankle = (skeleton.joints[f"{side}_{n}"] for n in ("hip", "knee", "ankle"))
        axis = np.cross(knee - hip, ankle - knee)
        axis /= np.linalg.norm(axis, axis=1, keepdims=True)
        bent = Rotation.from_rotvec(np.radians(found[f"{side}_knee_flex"])[:, None] * axis)
        shank = bent.apply((knee - hip) / length(knee, hip)[:, None])
        np.testing.assert_allclose(shank, (ankle - knee) / length(ankle, knee)[:, None], atol=1e-9)
    total = HEAD_MASS + TRUNK_MASS + 2 * sum(mass for *_, mass, _ in SEGMENTS)
    assert total == pytest.approx(1.0)  # de Leva 1996, men
    ankles = [shoot.camera.project(skeleton.joints[f"{s}_ankle"][0])[0] for s in ("lead", "trail")]
    apart = np.linalg.norm(ankles[0] - ankles[1]) * truth.cm_per_px
    assert apart == pytest.approx(2 * Golfer().half_stance, rel=0.01)


def test_what_a_square_far_camera_sees_is_the_truth():
    """With perspective gone, the picture's measures are the body's own in the plane of the view."""
    for view, keys in (
        (
            View.FACE_ON,
            ("pelvis_shift", "pelvis_tilt", "side_tilt", "trail_hip_cross", "head_shift", "mass_side"),
        ),
        (
            View.DOWN_THE_LINE,
            ("pelvis_thrust", "forward_bend", "posture_loss", "lead_knee_forward", "shin_lean"),
        ),
    ):
        far = Camera(view, distance_cm=200000.0, camera_height_cm=98.0, focal_px=600000.0)
        truth = Shoot(plan=SwingPlan({"sway": 4.0}), camera=far).truth()
        for key in keys:
            np.testing.assert_allclose(truth.seen[key], truth.measures[key], atol=0.06, err_msg=key)
    turn = Shoot(camera=Camera(distance_cm=200000.0, focal_px=600000.0)).truth()
    assert turn.at(turn.seen["pelvis_turn"], "top") == pytest.approx(turn.at("pelvis_turn", "top"), abs=1.5)


@pytest.mark.parametrize("view", list(View))
@pytest.mark.parametrize("hand", list(Hand))
@pytest.mark.parametrize("barrel", [(0.0, 0.0), (-0.2, 0.05)])
@pytest.mark.parametrize("held", [None, SHAKEN])
def test_projection_agrees_with_opencv(view, hand, barrel, held):
    """Pixels against ``cv2.projectPoints`` with the same pose and lens (left-handed: the mirror image)."""
    camera = Camera(view, hand, yaw_deg=4.0, roll_deg=2.0, barrel=barrel, held=held).at(1.7)
    xyz = np.random.default_rng(1).uniform((-60, -20, 0), (60, 90, 180), (50, 3))
    pixels, depth = camera.project(xyz)
    position, right, down, forward = camera.place()
    rotation = np.stack([right, down, forward])
    if np.linalg.det(rotation) < 0:
        # OpenCV takes proper rotations only: turn the world over as well.
        rotation = rotation @ np.diag([-1, 1, 1])
        xyz, position = xyz * (-1, 1, 1), position * (-1, 1, 1)
    matrix = np.array([[camera.focal, 0, 639.5], [0, camera.focal, 359.5], [0, 0, 1]])
    lens = np.array([*barrel, 0, 0])
    expected, _ = cv2.projectPoints(xyz, cv2.Rodrigues(rotation)[0], -rotation @ position, matrix, lens)
    np.testing.assert_allclose(pixels, expected[:, 0], atol=1e-6)
    assert (depth > 0).all()


@pytest.mark.parametrize("held", [None, SHAKEN])
def test_rays_are_the_way_back_through_the_lens(held):
    camera = Camera(width=64, height=36, yaw_deg=3.0, barrel=(-0.15, 0.02), held=held).at(1.7)
    position, rays = camera.rays()
    pixels, _ = camera.project(position + 300 * rays)
    grid = np.stack(np.meshgrid(np.arange(64), np.arange(36)), axis=-1)
    np.testing.assert_allclose(pixels, grid, atol=1e-6)


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


def test_rolling_shutter_shifts_by_speed_times_row_time():
    """A row read late shows the club where it is then: speed × delay, checked by a plain fixed point."""
    readout = 0.012
    plain, rolled = (Shoot(camera=Camera(readout_s=r)) for r in (0.0, readout))
    truths = [shoot.truth() for shoot in (plain, rolled)]
    frame = round(truths[0].checkpoints_s["delivery"] * 120)
    x, y = truths[1].pixels["clubhead"][frame]
    late = plain.motion.pose(np.array([plain.times_s[frame] + readout * y / 719])).joints["clubhead"]
    np.testing.assert_allclose(plain.camera.project(late)[0][0], (x, y), atol=0.1)
    assert np.linalg.norm(truths[0].pixels["clubhead"][frame] - (x, y)) > 20


def test_pressure_follows_the_mass():
    """At rest the plate feels the static share and the weight; the force's mean is the weight (Newton)."""
    shoot = Shoot(plan=SwingPlan(still_after_s=1.0), rate=500.0)
    truth = shoot.truth()
    plate, weight = truth.pressure, Golfer().mass_kg * 9.81
    assert plate.force_n[0] == pytest.approx(weight, rel=1e-3)
    assert plate.lead_percent[0] == pytest.approx(truth.measures["mass_side"][0], abs=1.5)
    assert np.mean(plate.force_n) == pytest.approx(weight, rel=0.01)
    by = plate.times_s < truth.checkpoints_s["impact"]
    assert plate.lead_percent[by].min() < 45 and plate.lead_percent[by].max() > 65
    assert ((plate.lead_percent >= 0) & (plate.lead_percent <= 100)).all()


def test_pictures_are_the_same_for_the_same_seed_and_show_the_figure():
    first, again, other = (next(pictures(Shoot(camera=SMALL, seed=seed))) for seed in (3, 3, 4))
    assert (first == again).all()
    assert (first != other).any()
    shoot = Shoot(camera=SMALL, seed=3)
    x, y = shoot.truth().pixels["left_knee"][0].round().astype(int)
    assert np.abs(first[y, x].astype(int) - np.array(Appearance().trousers)).max() < 60


def test_the_drawn_figure_is_where_the_truth_says():
    """Tape drawn on a knee has its middle where the truth file puts it, in every view, to half a pixel."""
    golfer = Golfer(look=Appearance(tape=ORANGE_TAPE, loose_cm=1.5))
    for view in View:
        shoot = Shoot(golfer, camera=Camera(view, width=640, height=360), noise=0.0, place=FilmPlace.GRASS)
        picture = next(pictures(shoot)).astype(int)
        orange = (picture[..., 0] - picture[..., 2] > 70) & (picture[..., 0] > picture[..., 1] + 40)
        x, y = tape_pixels(shoot)["trail_knee"][0]
        rows, columns = np.nonzero(orange)
        near = np.hypot(columns - x, rows - y) < 14
        assert near.sum() > 30
        middle = (columns[near].min() + columns[near].max()) / 2, (rows[near].min() + rows[near].max()) / 2
        assert np.hypot(middle[0] - x, middle[1] - y) < 1.6, view


def test_a_hand_moves_all_that_is_seen_as_its_truth_says():
    """Ground, mat and figure: corners followed from one picture to another lie where the truth has them."""
    camera = Camera(View.DOWN_THE_LINE, width=640, height=360, held=SHAKEN)
    shoot = Shoot(Golfer(look=Appearance(tape=ORANGE_TAPE)), camera=camera, rate=30.0, noise=0.0)
    first, then = (cv2.cvtColor(one, cv2.COLOR_RGB2GRAY) for one in islice(pictures(shoot), 0, 4, 3))
    moments = shoot.times_s[[0, 3]]
    ground = np.array([(x, y, 0.0) for x in (-60, 30, 60, 120) for y in (80, 100, 130, 170)])
    seen, moved = (camera.at(time).project(ground)[0] for time in moments.tolist())
    found, known, _ = cv2.calcOpticalFlowPyrLK(
        first, then, seen.astype(np.float32)[:, None], moved.astype(np.float32)[:, None].copy() + 1
    )
    assert known.all() and np.linalg.norm(moved - seen, axis=1).min() > 3
    assert np.median(np.linalg.norm(found[:, 0] - moved, axis=1)) < 0.3
    truth = shoot.truth()
    knee = truth.pixels["left_knee"]
    np.testing.assert_allclose(camera.project_over(truth.space["left_knee"], shoot.times_s), knee, atol=1e-9)
    stands = replace(shoot, camera=replace(camera, held=None)).truth()
    assert np.abs(knee - stands.pixels["left_knee"]).max() > 5
    np.testing.assert_array_equal(truth.seen["pelvis_thrust"], stands.seen["pelvis_thrust"])


def test_exposure_blurs_the_club_and_places_and_lights_differ():
    still = Camera(width=320, height=180)
    blurred = Camera(width=320, height=180, exposure_s=0.008)
    plan = SwingPlan(still_before_s=0.1)
    sharp, soft = (Shoot(plan=plan, camera=c, rate=30, noise=0, start_s=1.15) for c in (still, blurred))
    a, b = (next(pictures(s)).astype(int) for s in (sharp, soft))
    x, y = sharp.truth().pixels["clubhead"][0].round().astype(int)
    box = np.s_[max(0, y - 6) : y + 6, max(0, x - 6) : x + 6]
    assert a[box].min() < b[box].min() - 10
    seen = {
        (place, light): next(pictures(Shoot(camera=still, place=place, light=light, noise=0))).mean(
            axis=(0, 1)
        )
        for place in FilmPlace
        for light in Light
    }
    values = np.stack(list(seen.values()))
    apart = np.abs(values[:, None] - values[None]).max(axis=2) + 9 * np.eye(len(values))
    assert apart.min() > 0.3


def test_a_film_is_the_same_whoever_draws_its_frames(monkeypatch):
    """Drawn here, and by two processes at once."""
    shoot = Shoot(camera=Camera(width=160, height=96), rate=12.0)
    alone = list(pictures(shoot))
    monkeypatch.setattr("kneel.sim.film.WORTH_SHARING", 2)
    monkeypatch.setattr("os.cpu_count", lambda: 2)
    np.testing.assert_array_equal(list(_all_pictures(shoot)), alone)


def test_strike_sounds_at_impact():
    sound = swing_sound(2.0, 1.25, seed=1)
    loud = np.flatnonzero(np.abs(sound) > 0.4)
    assert loud[0] / RATE == pytest.approx(1.25, abs=0.002)


def test_two_cameras_film_one_swing_and_slow_motion_is_slow(tmp_path):
    """A second camera with its own start and rate sees the same moments; a slowed file says so."""
    plan = SwingPlan(variation=1.0, seed=5)
    first = Shoot(plan=plan, camera=SMALL, rate=60.0)
    second = Shoot(
        plan=plan, camera=Camera(View.DOWN_THE_LINE, width=320, height=180), rate=40.0, start_s=0.3
    )
    a, b = first.truth(), second.truth()
    assert a.checkpoints_s == b.checkpoints_s
    shared = np.isclose(a.times_s[:, None], b.times_s[None], atol=1e-9)
    rows, columns = np.nonzero(shared)
    assert len(rows) > 20
    np.testing.assert_allclose(a.space["left_hip"][rows], b.space["left_hip"][columns], atol=1e-9)
    slow = Shoot(plan=SwingPlan(tempo=0.6), camera=SMALL, rate=30.0, stored_rate=15.0)
    film(slow, tmp_path / "slow.mp4", tmp_path / "slow.json", plate_path=tmp_path / "plate.csv")
    with Clip(tmp_path / "slow.mp4") as clip:
        assert clip.info.rate_stored == pytest.approx(15.0)
        assert clip.info.frames == len(slow.times_s)
    told = json.loads((tmp_path / "slow.json").read_text())
    assert (told["rate"], told["rate_stored"]) == (30.0, 15.0)
    rows = list(csv.DictReader((tmp_path / "plate.csv").read_text().splitlines()))
    assert len(rows) == len(slow.times_s) and 0 <= float(rows[0]["lead_percent"]) <= 100


def test_truth_file_holds_every_measure_true_and_seen():
    shoot = Shoot(plan=SwingPlan({"sway": 6.0}))
    content = truth_json(shoot.truth(), shoot.motion, shoot.camera, 120.0)
    shift = content["measures"]["pelvis_shift"]
    assert shift["at"]["top"] == pytest.approx(-6.0, abs=0.05)
    assert shift["seen_at"]["top"] == pytest.approx(-6.0, rel=0.06)
    assert content["measures"]["pelvis_thrust"]["seen"] is None
    assert len(content["points"]["left_hip"]) == len(shoot.times_s)
    assert content["points"]["ball"][-1] == [None, None]
    assert 2.5 < content["swing"]["tempo"]["value"] < 3.5
    json.dumps(content, allow_nan=False)


def test_a_bystander_stands_where_asked_and_nowhere_else():
    shoot = Shoot(camera=replace(SMALL, width=480, height=270), noise=0.0)
    alone, beside = (next(pictures(one)) for one in (shoot, replace(shoot, bystander_cm=(-110.0, -40.0))))
    row, column = np.nonzero((alone != beside).any(axis=2))
    ((x, y),) = shoot.camera.at(0.0).project(np.array([[-110.0, -40.0, 171.0]]))[0]
    assert abs(np.median(column) - x) < 12 and abs(row.min() - y) < 8, "with a shadow beside the feet"
    assert np.ptp(column) < 160 and len(row) > 2000


@pytest.mark.parametrize(
    "faults",
    [{"nonesuch": 1.0}, {"sway": -1.0}, {"sway": float("nan")}, {"sway": 99.0}, {"trail_knee_lock": 24.0}],
)
def test_impossible_faults_are_refused(faults):
    with pytest.raises(UsageError):
        perform(Golfer(), SwingPlan(faults))


@pytest.mark.parametrize(
    "options",
    [
        ["--pattern", "nonesuch"],
        ["--place", "moon"],
        ["--light", "dark"],
        ["--tempo", "9"],
        ["--ratio", "0"],
        ["--start", "60"],
        ["--girth", "9"],
        ["--exposure", "-1"],
        ["--fault", "sway"],
        ["--fault", "sway=1e9"],
        ["--rehearsal", "0.1"],
        ["--looks", "9"],
        ["--bystander", "there"],
    ],
)
def test_command_line_refuses_with_one_sentence(options, tmp_path, capsys):
    assert main(["simulate", "--out", str(tmp_path / "x.mp4"), *options]) == 2
    told = capsys.readouterr().err.strip()
    assert told.count("\n") == 0 and told.endswith(".")
    assert not (tmp_path / "x.mp4").exists()


FILMS = """
from pathlib import Path
import kneel.sim.film as making
from kneel.sim.camera import Camera

if __name__ == "__main__":
    making.WORTH_SHARING = 1
    making.film(making.Shoot(camera=Camera(width=64, height=36), rate=8.0), Path("small.mp4"))
    print(__spec__.name, Path(__file__).name)
"""


def test_a_module_of_any_folder_can_film_with_several_processes(tmp_path):
    """The processes that draw never look for it: they run what is Kneel's own."""
    (tmp_path / "films_here.py").write_text(FILMS, encoding="utf-8")
    line = [sys.executable, "-m", "films_here"]
    done = subprocess.run(line, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.stdout.split() == ["films_here", "films_here.py"], done.stderr
    assert (tmp_path / "small.mp4").stat().st_size > 500


def test_a_routine_changes_nothing_of_the_swing_and_slides_on_no_foot():
    """Walks in, rehearses, steps up, looks, swings, walks off: from rest to rest, one foot always planted."""
    plain = SwingPlan({"sway": 4.0})
    plan = replace(plain, routine=Routine(walk_cm=150, rehearsal=0.8, looks=1, leaves=True))
    before, after = perform(Golfer(), plain), perform(Golfer(), plan)
    later = plan.knots_s[0] - plain.knots_s[0]
    assert later == pytest.approx(plan.routine.before_s(plain.knots_s[-1] - plain.knots_s[0]))
    for name, time in before.checkpoints_s.items():
        assert after.checkpoints_s[name] == pytest.approx(time + later, abs=2e-3)
    during = np.linspace(plain.knots_s[0], plain.knots_s[-1], 40)
    shown, same = after.pose(during + later).joints, before.pose(during).joints
    assert max(np.abs(shown[name] - same[name]).max() for name in same) < 1e-6

    times = np.arange(0, plan.length_s, 1 / 200)
    joints = after.pose(times).joints
    assert max(np.linalg.norm(np.diff(xyz, axis=0), axis=1).max() for xyz in joints.values()) < 30
    toes = np.stack([np.linalg.norm(np.diff(joints[f"{side}_toe"], axis=0), axis=1) for side in SIDES])
    assert toes.min(axis=0).max() < 0.02, "one foot stands whatever is done"
    for side in SIDES:
        for above, below in pairwise(("hip", "knee", "ankle")):
            bone = length(joints[f"{side}_{above}"], joints[f"{side}_{below}"])
            assert np.ptp(bone) < 0.01 * bone[0]
    hips = (joints["lead_hip"] + joints["trail_hip"]) / 2
    assert hips[0, 0] == pytest.approx(-150, abs=3) and hips[-1, 0] > 100
    acts = {act.name: act for act in plan.routine.acts(plain.knots_s[-1] - plain.knots_s[0])}
    rehearsed = (times > acts["rehearsal"].start_s) & (times < acts["rehearsal"].end_s)
    ball = after.pose(times[:1]).ball
    assert np.linalg.norm(joints["clubhead"][rehearsed] - ball, axis=1).min() > 15, "the ball stays"
    with pytest.raises(UsageError):
        Routine(rehearsal=0.1)
