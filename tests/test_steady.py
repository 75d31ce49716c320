"""A camera held in the hand: its motion is told from what stands still, and taken out of the numbers."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, gaussian_filter1d
from scipy.spatial.transform import Rotation

from kneel.model import CameraPath, Links, PointRows, Sighting, Stature
from kneel.motion.analysis import analyse
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.track import PointData
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, pictures
from kneel.sim.golfer import Golfer
from kneel.sim.look import FilmPlace
from kneel.sim.swing import SwingPlan
from kneel.vision.keyframe import Key, boxes_round, evened
from kneel.vision.parallax import GroundShift, fit_shift
from kneel.vision.steady import GLANCES, camera_path
from kneel.vision.stood import stood
from kneel.vision.unmoved import unmoved

FRAMES, SIZE = 40, (480, 640)
NAMES = ("left_hip", "right_hip", "left_ankle")


def wandering(
    seed: int, *, shift: float, turn_deg: float, zoom: float = 0.0, frames: int = FRAMES
) -> CameraPath:
    """A hand's tremor: smooth, other than nothing from the second frame on."""
    rng = np.random.default_rng(seed)
    drift = gaussian_filter1d(rng.normal(0, 1, (4, frames + 60)), 6, axis=1)[:, 30 : 30 + frames]
    drift = (drift - drift[:, :1]) / drift.std()
    maps = []
    for x, y, turn, grown in drift.T:
        turned = cv2.getRotationMatrix2D((SIZE[1] / 2, SIZE[0] / 2), turn_deg * turn, 1 + zoom * grown)
        maps.append(turned + np.array([[0, 0, shift * x], [0, 0, shift * y]]))
    return CameraPath(np.array(maps), np.zeros(frames))


def film(path: CameraPath, *, noise: float = 3.0, seed: int = 0):
    """A cluttered place with a figure that strides across it, seen by a moving camera."""
    rng = np.random.default_rng(seed)
    place = gaussian_filter(rng.normal(0, 1, (SIZE[0] + 200, SIZE[1] + 200)), 2.5)
    place = np.clip(120 + 45 * place / place.std(), 0, 255).astype(np.float32)
    figure = np.clip(60 + 25 * gaussian_filter(rng.normal(0, 1, (260, 90)), 2) * 6, 0, 255)
    pictures, joints = [], np.zeros((len(NAMES), len(path.maps), 2))
    for n, seen in enumerate(path.maps):
        still = place.copy()
        left = 300 + 2 * n
        still[240:500, left : left + 90] = figure
        whole = seen @ np.array([[1, 0, -100], [0, 1, -100], [0, 0, 1.0]])
        shown = cv2.warpAffine(still, whole, (SIZE[1], SIZE[0]), flags=cv2.INTER_CUBIC)
        grain = noise * rng.standard_normal(shown.shape, dtype=np.float32)
        pictures.append(np.clip(shown + grain, 0, 255).astype(np.uint8))
        ground = np.array([[left - 60, 250], [left - 40, 250], [left - 55, 380.0]])
        joints[:, n] = ground @ seen[:, :2].T + seen[:, 2]
    return pictures, joints


@pytest.mark.parametrize(("shift", "turn", "zoom"), [(4.0, 0.0, 0.0), (8.0, 0.4, 0.0), (15.0, 1.0, 0.01)])
def test_the_cameras_motion_is_found_though_a_figure_walks_through(shift, turn, zoom):
    """Within a quarter of a pixel at the figure's place, from nothing to a hand that shakes badly."""
    for seed in range(2):
        true = wandering(seed, shift=shift, turn_deg=turn, zoom=zoom)
        pictures, joints = film(true, seed=seed)
        found = camera_path(lambda n, p=pictures: p[n], joints, px_per_m=260 / 1.75)
        assert found is not None
        middle = np.array([300.0, 250.0])
        off = np.linalg.norm(found.moved(middle) - true.moved(middle), axis=1)
        assert off.max() < 0.25
        assert (off < 3 * found.sigma + 0.1).all()


def pinhole(points: np.ndarray, turn_deg: np.ndarray, place_cm: np.ndarray) -> np.ndarray:
    """Pixels of points (N, 3), x right, y down, z forward, cm; the textbook camera, SciPy's rotation."""
    seen = Rotation.from_euler("yxz", turn_deg, degrees=True).apply(points - place_cm)
    return 600.0 * seen[:, :2] / seen[:, 2:] + np.array([319.5, 179.5])


@settings(max_examples=60, deadline=None)
@given(
    turn=st.tuples(*[st.floats(-1.2, 1.2)] * 2, st.floats(-0.6, 0.6)),
    place=st.tuples(*[st.floats(-2.5, 2.5)] * 3),
    wall_cm=st.sampled_from([700.0, 4000.0]),
    seed=st.integers(0, 99),
)
def test_turning_and_carrying_a_camera_are_told_apart(turn, place, wall_cm, seed):
    """Ground before a wall or trees, seen by a real pinhole: the golfer's place is right to half a pixel."""
    rng = np.random.default_rng(seed)
    ground = np.column_stack([rng.uniform(-250, 250, 90), np.full(90, 105.0), rng.uniform(330, 650, 90)])
    wall = np.column_stack(
        [rng.uniform(-0.5, 0.5, 120) * wall_cm, rng.uniform(-0.25, 0.0, 120) * wall_cm, np.full(120, wall_cm)]
    )
    golfer = np.array([[0.0, 5.0, 420.0], [20.0, 105.0, 420.0]])
    spots, still = np.vstack([ground, wall]), np.zeros(3)
    first, last = pinhole(spots, still, still), pinhole(spots, np.array(turn), np.array(place))
    seen = last + rng.normal(0, 0.08, last.shape)
    seen[rng.integers(0, len(seen), 20)] += rng.uniform(-4, 4, (20, 2))
    feet = float(pinhole(golfer[1:], still, still)[0, 1])
    end = float(pinhole(np.array([[0.0, 105.0, wall_cm]]), still, still)[0, 1])
    shift, _ = fit_shift(first, seen, GroundShift(np.array([319.5, 179.5]), end, feet, 1.5))
    np.testing.assert_allclose(shift.there(shift.back(first)), first, atol=1e-3)
    middle, true = (
        pinhole(golfer[:1], still, still)[0],
        pinhole(golfer[:1], np.array(turn), np.array(place))[0],
    )
    told = shift.golfer(middle)
    off = np.linalg.norm(told[:, :2] @ middle + told[:, 2] - true)
    assert off < 0.6
    assert 0 < shift.sigma(middle) < 0.5


def test_lamps_that_flicker_are_no_motion_and_hide_none():
    """Light that swells by a sixth in bands across the picture, on a stand and in a hand."""
    for shift in (0.0, 8.0):
        true = wandering(1, shift=shift, turn_deg=0.03 * shift)
        pictures, joints = film(true)
        rows = np.arange(SIZE[0])[:, None]
        lit = [
            np.clip(p * (1 + 0.16 * np.sin(1.3 * n + rows / 90)), 0, 255).astype(np.uint8)
            for n, p in enumerate(pictures)
        ]
        found = camera_path(lambda n, p=lit: p[n], joints, px_per_m=260 / 1.75)
        if shift == 0:
            assert found is None
        else:
            off = found.moved(np.array([300.0, 250.0])) - true.moved(np.array([300.0, 250.0]))
            assert np.linalg.norm(off, axis=1).max() < 0.4


def test_a_pan_that_leaves_the_first_frame_behind_is_followed():
    maps = np.tile(np.eye(2, 3), (FRAMES, 1, 1))
    maps[:, 0, 2] = -np.linspace(0, 90, FRAMES)
    true = CameraPath(maps, np.zeros(FRAMES))
    pictures, joints = film(true)
    found = camera_path(lambda n: pictures[n], joints, px_per_m=260 / 1.75)
    assert np.abs(found.maps[:, 0, 2] - maps[:, 0, 2]).max() < 1.0


def test_a_camera_that_stands_still_or_sees_nothing_claims_nothing():
    still = CameraPath(np.tile(np.eye(2, 3), (FRAMES, 1, 1)), np.zeros(FRAMES))
    pictures, joints = film(still, noise=8.0)
    assert camera_path(lambda n: pictures[n], joints, px_per_m=260 / 1.75) is None
    blank = np.random.default_rng(0).normal(128, 2, (FRAMES, *SIZE)).astype(np.uint8)
    assert camera_path(lambda n: blank[n], joints, px_per_m=260 / 1.75) is None
    assert camera_path(lambda n: pictures[n], joints, px_per_m=260 / 1.75, stopped=lambda: True) is None
    unknown = np.full_like(joints, np.nan)
    assert camera_path(lambda n: pictures[n], unknown, px_per_m=260 / 1.75) is None


def test_before_a_bare_wall_the_camera_is_as_unsure_as_the_feet_seem_to_go():
    blank = np.random.default_rng(0).normal(128, 2, (FRAMES, *SIZE)).astype(np.uint8)
    _, joints = film(CameraPath(np.tile(np.eye(2, 3), (FRAMES, 1, 1)), np.zeros(FRAMES)))
    drift = np.linspace(0, 12, FRAMES)
    stands, goes = np.full((FRAMES, 2), 300.0), 300.0 + np.stack([0 * drift, drift], axis=1)

    def path(*feet):
        return camera_path(lambda n: blank[n], joints, px_per_m=150.0, feet=np.array(feet))

    assert path(stands, goes) is None
    found = path(goes, goes + np.stack([drift, drift], axis=1))
    assert found is not None and found.untold
    np.testing.assert_allclose(found.sigma, drift, atol=1.0)


def bare(maps, *, post=True, bars=0, noise=2.0):
    """A smooth lawn and sky that meet in a line, and a post, seen by a camera that moves."""
    place = np.full((SIZE[0] + 200, SIZE[1] + 200), 150.0, np.float32)
    place[400:] = 100.0
    if post:
        place[250:420, 180:188] = 60.0
    pictures = []
    for n, seen in enumerate(maps):
        whole = seen @ np.array([[1, 0, -100], [0, 1, -100], [0, 0, 1.0]])
        shown = cv2.warpAffine(place, whole, (SIZE[1], SIZE[0]), flags=cv2.INTER_CUBIC)
        shown = shown + np.random.default_rng(n).normal(0, noise, shown.shape)
        if bars:
            shown[:, :bars] = shown[:, -bars:] = 16.0
        pictures.append(np.clip(shown, 0, 255).astype(np.uint8))
    return pictures


@pytest.mark.parametrize(
    ("scene", "px", "unsure"),
    [
        ({}, 0.0, False),
        ({}, 4.0, True),
        ({"bars": 60}, 4.0, True),
        # A horizon alone does not tell whether the camera went aside.
        ({"post": False}, 0.0, True),
        ({"noise": 40.0}, 0.0, True),
    ],
)
def test_before_little_the_edges_there_are_tell_that_a_camera_stands(scene, px, unsure):
    maps = np.tile(np.eye(2, 3), (FRAMES, 1, 1))
    maps[:, 0, 2] += px * np.sin(np.arange(FRAMES) / 5)
    pictures = bare(maps, **scene)
    _, joints = film(CameraPath(np.tile(np.eye(2, 3), (FRAMES, 1, 1)), np.zeros(FRAMES)))
    goes = 300.0 + np.linspace([0.0, 0.0], [12.0, 0.0], FRAMES)
    found = camera_path(lambda n: pictures[n], joints, px_per_m=150.0, feet=np.array([goes, goes]))
    assert (found is not None) is unsure and (found is None or found.untold)


def test_a_way_that_jumps_about_is_no_hands():
    """Ground that is seen elsewhere in every frame: the feet tell; where nobody knows them it is unsure."""
    maps = np.tile(np.eye(2, 3), (FRAMES, 1, 1))
    maps[1:, :, 2] += np.random.default_rng(0).uniform(-7, 7, (FRAMES - 1, 2))
    pictures, joints = film(CameraPath(maps, np.zeros(FRAMES)))
    stands, goes = np.full((FRAMES, 2), 300.0), np.linspace([300.0, 300.0], [320.0, 300.0], FRAMES)

    def path(feet):
        return camera_path(lambda n: pictures[n], joints, px_per_m=150.0, feet=feet)

    assert path(np.array([stands, goes])) is None
    both = path(np.array([goes, goes]))
    assert both.untold and both.sigma.max() == pytest.approx(20.0, abs=2.0)
    unknown = path(None)
    assert unknown.untold and unknown.sigma[0] == pytest.approx(np.sqrt(2 * 7**2 / 3), rel=0.25)


def test_a_way_that_leaves_the_feet_going_farther_is_no_cameras():
    """Ground that is coded anew a pixel or two aside for a while: planted feet know nothing of it."""
    maps = np.tile(np.eye(2, 3), (FRAMES, 1, 1))
    maps[15:32, 0, 2] += 2.5
    pictures, joints = film(CameraPath(maps, np.zeros(FRAMES)))
    grain = np.random.default_rng(2).normal(0, 1.0, (2, FRAMES, 2))
    stands = np.full((2, FRAMES, 2), 300.0) + grain
    goes = stands + maps[:, :, 2]

    def path(feet):
        return camera_path(lambda n: pictures[n], joints, px_per_m=150.0, feet=feet)

    assert path(stands) is None
    found = path(goes)
    assert found is not None and not found.untold
    np.testing.assert_allclose(found.moved(np.array([300.0, 250.0]))[[10, 20]], [[0, 0], [2.5, 0]], atol=0.2)


def test_somebody_else_who_moves_is_not_taken_for_the_place():
    """A neighbour in a print before smooth grass has more corners than all that stands still."""
    still = CameraPath(np.tile(np.eye(2, 3), (FRAMES, 1, 1)), np.zeros(FRAMES))
    pictures, joints = film(still, noise=1.0)
    rng = np.random.default_rng(5)
    shirt = np.clip(128 + 400 * gaussian_filter(rng.normal(0, 1, (420, 260)), 2), 0, 255)
    others = np.zeros((1, FRAMES, 4))
    for n, picture in enumerate(pictures):
        picture[:, 80:] = 118
        left = 330 + min(2 * n, 40)
        picture[40:460, left : left + 260] = shirt
        others[0, n] = left, 40, left + 260, 460
    joints[:] = [[[120.0, 250.0]], [[140.0, 250.0]], [[125.0, 380.0]]]

    def path(others):
        return camera_path(lambda n: pictures[n], joints, px_per_m=150.0, others=others)

    assert path(None) is not None
    assert path(others) is None


def test_feet_that_slide_make_a_camera_as_unsure_as_they_go(simulate):
    """A path taken for the camera's that leaves both feet drifting by 9 cm is not its; one foot may step."""
    rows, truth = simulate(rate=60.0, noise=0.5)
    still = CameraPath(np.tile(np.eye(2, 3), (len(rows), 1, 1)), np.zeros(len(rows)))
    impact = truth.checkpoints_s["impact"]
    drift = (
        np.clip(rows.times_s / impact, 0, 1)[:, None] * (0.09 / (truth.cm_per_px / 100)) * np.array([1.0, 0])
    )
    setup = Setup(scale=Stature(176.0))

    def analysed(*moved):
        xy = {name: xy + drift * (name in moved) for name, xy in rows.xy.items()}
        points = from_rows(PointRows(rows.frames, rows.times_s, xy, rows.sigma))
        return analyse(rows.times_s, points, setup, still)

    for moved in ((), ("left_ankle",)):
        study = analysed(*moved)
        assert not study.camera.sigma.any() and not any("stands still" in note for note in study.warnings)
    untold = CameraPath(still.maps, np.linspace(0, 30, len(rows)))
    told = analyse(rows.times_s, from_rows(rows), setup, untold).camera.sigma
    assert told.max() == pytest.approx(np.interp(impact, rows.times_s, untold.sigma), abs=1.0)
    slid = analysed(*rows.xy)
    off = slid.at("pelvis_shift", "impact").value - truth.at("pelvis_shift", "impact")
    assert abs(off) > 4 and slid.at("pelvis_shift", "impact").sigma > abs(off) / 2
    assert any("stands still" in note for note in slid.warnings)


def test_a_stand_is_told_by_a_few_frames_however_coarsely_they_are_coded():
    """Every corner is off by a fifth of a pixel and more; a hand that moves the golfer by one is followed."""

    def coded(path):
        pictures, joints = film(path, noise=14.0)
        packed = [
            cv2.imencode(".jpg", one, [cv2.IMWRITE_JPEG_QUALITY, 8 + n % 3]) for n, one in enumerate(pictures)
        ]
        return [cv2.imdecode(one, cv2.IMREAD_GRAYSCALE) for _, one in packed], joints

    asked = []
    pictures, joints = coded(CameraPath(np.tile(np.eye(2, 3), (FRAMES, 1, 1)), np.zeros(FRAMES)))
    key = Key(evened(pictures[0], 1.0), boxes_round(joints, 60.0)[:1], [])
    there, held = key.followed(evened(pictures[1], 1.0), key.corners.astype(float))
    assert np.median(np.linalg.norm(there - key.corners, axis=1)[held]) > 0.2
    assert camera_path(lambda n: (asked.append(n), pictures[n])[1], joints, px_per_m=260 / 1.75) is None
    assert len(asked) <= 1 + GLANCES < FRAMES
    true = wandering(3, shift=1.0, turn_deg=0.0)
    pictures, joints = coded(true)
    found = camera_path(lambda n: pictures[n], joints, px_per_m=260 / 1.75)
    middle = np.array([300.0, 250.0])
    assert found is not None and np.abs(found.moved(middle) - true.moved(middle)).max() < 0.5


def test_a_camera_that_cannot_be_followed_says_so(simulate):
    """Every frame shows another place: no path, but an error that leaves no verdict standing."""
    rng = np.random.default_rng(0)
    noise = rng.normal(0, 1, (FRAMES, SIZE[0] // 2, SIZE[1] // 2))
    noise[1] = noise[0]
    places = [(120 + 200 * gaussian_filter(one, 2)).clip(0, 255).astype(np.uint8) for one in noise]
    joints = np.tile(np.array([[[160.0, 60.0]], [[150.0, 200.0]]]), (1, FRAMES, 1))
    path = camera_path(lambda n: places[n], joints, px_per_m=150 / 1.75)
    assert path is not None
    assert (path.maps == np.eye(2, 3)).all()
    assert np.allclose(path.sigma, 0.05 * 150 / 1.75)
    rows, _ = simulate(sway=6.0)
    adrift = CameraPath(np.tile(np.eye(2, 3), (len(rows.times_s), 1, 1)), np.full(len(rows.times_s), 15.0))
    analysis = analyse(rows.times_s, from_rows(rows), Setup(scale=Stature(176.0)), adrift)
    assert any("too little that stands still" in note for note in analysis.warnings)
    assert analysis.at("pelvis_shift", "top").pair[1] > 4


@given(st.integers(0, 1000), st.integers(0, 29), st.integers(0, 29))
def test_what_is_steadied_can_be_shown_again(seed, start, end):
    """Steadying and showing undo each other; a thing that stands still is carried from frame to frame."""
    path = wandering(seed, shift=20.0, turn_deg=2.0, zoom=0.02, frames=30)
    spot = np.array([210.0, 340.0])
    seen = path.seen(np.tile(spot, (30, 1)))
    np.testing.assert_allclose(path.steadied(seen), np.tile(spot, (30, 1)), atol=1e-9)
    np.testing.assert_allclose(path.carried(seen[start], start, end), seen[end], atol=1e-9)
    np.testing.assert_allclose(path.moved(spot), seen - spot, atol=1e-9)


def test_the_numbers_are_those_of_a_camera_on_a_stand(simulate):
    """A shaken camera shifts every point by centimetres; the shift at the top stays, its error grows."""
    rows, _ = simulate(sway=6.0)
    path = wandering(4, shift=12.0, turn_deg=0.5, frames=len(rows.times_s))
    held = CameraPath(path.maps, np.full(len(rows.times_s), 1.5))
    setup = Setup(scale=Stature(176.0))
    stood = from_rows(rows)
    shaken = {
        name: PointData(
            tuple(Sighting(held.seen(s.xy), s.sigma, s.lasting) for s in data.sightings),
            data.links,
            data.restless,
            data.fastest,
        )
        for name, data in stood.items()
    }

    def at_top(points, camera=None):
        analysis = analyse(rows.times_s, points, setup, camera)
        return analysis.at("pelvis_shift", "top").pair, analysis

    (plain, doubt), _ = at_top(stood)
    (fooled, _), _ = at_top(shaken)
    (told, wider), analysis = at_top(shaken, held)
    assert abs(fooled - plain) > 1.0
    assert told == pytest.approx(plain, abs=0.25)
    assert wider > doubt
    assert any("camera moved" in note for note in analysis.warnings)
    address = round(analysis.checkpoints["address"].frame)
    hip = analysis.tracks["left_hip"].xy[address]
    np.testing.assert_allclose(analysis.carried(hip, address, 100), held.carried(hip, address, 100))


def test_pictures_and_steps_lose_the_cameras_motion():
    """What stands still in life stands still in the steadied pictures, and its steps are nothing."""
    true = wandering(2, shift=8.0, turn_deg=0.5)
    pictures, _ = film(true, noise=0.0)
    stone = true.seen(np.tile([100.0, 100.0], (FRAMES, 1)))
    seen = {"stone": (Sighting(stone, np.ones(FRAMES)),)}
    links = {"stone": (Links(np.diff(stone, axis=0), np.ones(FRAMES - 1)),)}
    still = unmoved(true, lambda n: pictures[n], seen, links)
    np.testing.assert_allclose(still.links["stone"][0].step, 0, atol=1e-6)
    np.testing.assert_allclose(still.seen["stone"][0].xy, [[100.0, 100.0]] * FRAMES, atol=1e-6)
    np.testing.assert_allclose(still.shown(still.seen["stone"][0]).xy, stone, atol=1e-6)
    patch = (slice(70, 130), slice(70, 130))
    first = still.luma(0)[patch].astype(float)
    apart = [np.abs(still.luma(n)[patch].astype(float) - first).mean() for n in range(FRAMES)]
    raw = [np.abs(pictures[n][patch].astype(float) - pictures[0][patch]).mean() for n in range(FRAMES)]
    assert max(apart) < 4 < max(raw)
    assert unmoved(None, lambda n: pictures[n], seen, links).seen is seen


@cache
def still(stature, seed, camera):
    """The first picture of a swing before a wall, its joints px (N, 2), and px a metre."""
    shoot = Shoot(Golfer(stature), SwingPlan(variation=1.0, seed=seed), camera, 30.0, place=FilmPlace.NET)
    truth = shoot.truth()
    joints = np.array([xy[0] for name, xy in truth.pixels.items() if name not in ("ball", "clubhead")])
    grey = cv2.cvtColor(next(iter(pictures(shoot))), cv2.COLOR_RGB2GRAY)
    return np.asarray(grey), joints, 100 / truth.cm_per_px


@pytest.mark.parametrize(
    ("moved", "stands"),
    [
        ({}, True),
        ({"yaw_deg": 0.5}, False),
        ({"roll_deg": 0.4}, False),
        ({"distance_cm": 405.0}, False),
        ({"camera_height_cm": 110.0}, False),
    ],
)
def test_a_background_tells_whether_the_camera_stood(moved, stands):
    """Another body and another swing before one wall; a hand's breadth nearer is another place."""
    first, joints, px_per_m = still(175.0, 1, Camera())
    other, there, _ = still(184.0, 2, Camera(**moved))
    assert stood(first, other, (joints, there), px_per_m=px_per_m) is stands
    assert not stood(np.full_like(first, 90), np.full_like(first, 90), (joints, joints), px_per_m=px_per_m)
