"""Coloured and bright spots: which click is on one, where its centre is, when it is not to be believed."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from kneel.cli.main import main
from kneel.documents.points_csv import read_points
from kneel.documents.swing_file import load_swing
from kneel.model import Mark, Sighting
from kneel.motion.sightings import from_marks
from kneel.motion.track import solve_tracks
from kneel.vision import fused, legs
from kneel.vision.colour import follow_spots, of_joint
from kneel.vision.spot import spot_at

METRE = 330.0
ORANGE, WHITE, TROUSERS, SKIN = (240, 110, 30), (235, 235, 230), (60, 60, 85), (205, 160, 130)
FINE = 8


def scene(spots, *, size=(200, 260), leg=True, seed=0, blur=0.8, noise=2.0):
    """A trouser leg on grass with discs ``(x, y, radius, colour)``, drawn eight times finer, then seen."""
    rng = np.random.default_rng(seed)
    height, width = size
    grain = cv2.resize(rng.normal(0, 10, (height // 4, width // 4)), (width, height))
    picture = np.clip(np.array((90, 130, 70)) + grain[..., None], 0, 255)
    if leg:
        shade = 1 - 0.3 * np.abs(np.linspace(-1, 1, 70))
        picture[:, 100:170] = np.array(TROUSERS) * shade[None, :, None]
    fine = cv2.resize(picture.astype(np.uint8), None, fx=FINE, fy=FINE, interpolation=cv2.INTER_NEAREST)
    for x, y, radius, colour in spots:
        # Pixel centres are whole numbers; the fine grid's pixel k is at (k + 0.5) / FINE - 0.5.
        middle = (round((x + 0.5) * FINE - 0.5), round((y + 0.5) * FINE - 0.5))
        cv2.circle(fine, middle, round(radius * FINE), tuple(map(float, colour)), -1)
    small = cv2.resize(fine, (width, height), interpolation=cv2.INTER_AREA).astype(np.float32)
    seen = cv2.GaussianBlur(small, (0, 0), blur)
    return np.clip(seen + rng.normal(0, noise, seen.shape), 0, 255).astype(np.uint8)


@pytest.mark.parametrize("colour", [ORANGE, WHITE, (30, 200, 220)])
@pytest.mark.parametrize("radius", [4.0, 9.0])
def test_the_centre_is_right_to_three_tenths_of_a_pixel_wherever_it_moves(colour, radius):
    """The click is 2 px off; discs on a shaded leg, blurred and noisy, are followed to 0.3 px and say so."""
    rng = np.random.default_rng(7)
    t = np.arange(40) / 120
    x, y = 130 + 22 * np.sin(9 * t) + rng.uniform(0, 1), 100 + 60 * t**2 * 9
    frames = [scene([(a, b, radius, colour)], seed=k) for k, (a, b) in enumerate(zip(x, y, strict=True))]
    marks = [Mark("left_knee", 12, x[12] + 1.5, y[12] - 1.4)]
    seen = fused(follow_spots(legs(marks, 40), lambda n: frames[n], t, px_per_m=METRE))["left_knee"]
    # The fine grid rounds centres by up to 1/16 px each way.
    error = np.linalg.norm(seen.xy - np.stack([x, y], axis=1), axis=1)
    assert np.sqrt((error**2).mean()) < 0.2 and error.max() < 0.3 + 0.09
    assert (error < 2.45 * np.hypot(seen.sigma, 0.05)).mean() > 0.85


def test_only_a_spot_is_taken_for_one():
    """Cloth, skin, grass and edges are no spots, nor is what is far larger than tape."""
    plain = scene([])
    for place in ((135, 100), (40, 50), (101, 100), (169, 60), (200, 180)):
        assert spot_at(plain, *place, px_per_m=METRE) is None, place
    assert spot_at(scene([(135, 100, 40, ORANGE)]), 135, 100, px_per_m=METRE) is None
    faint = tuple(v + 12 for v in TROUSERS)
    assert spot_at(scene([(135, 100, 8, faint)]), 135, 100, px_per_m=METRE) is None
    assert spot_at(plain, -50, 900, px_per_m=METRE) is None


def test_a_hidden_spot_is_not_seen_and_is_found_again():
    """A hand passes before it: no sighting while it is covered, and the same spot afterwards."""
    t = np.arange(40) / 120
    x = 115 + np.arange(40) * 0.8
    frames = []
    for k in range(40):
        frame = scene([(x[k], 100, 7, ORANGE)], seed=k)
        if 14 <= k <= 20:
            cv2.rectangle(frame, (100, 80), (170, 120), SKIN, -1)
        frames.append(frame)
    seen = follow_spots(legs([Mark("left_hip", 0, x[0], 100)], 40), lambda n: frames[n], t, px_per_m=METRE)
    xy = next(iter(seen.values())).xy
    assert np.isnan(xy[14:21]).all()
    assert np.abs(xy[22:, 0] - x[22:]).max() < 0.4


def test_two_alike_that_meet_are_not_confused():
    """Two knees' tapes that touch and cross: from there on neither is claimed, rather than exchanged."""
    t = np.arange(60) / 120
    one, two = 108 + np.arange(60) * 0.9, 162 - np.arange(60) * 0.9
    places = enumerate(zip(one, two, strict=True))
    frames = [scene([(a, 100, 9, ORANGE), (b, 102, 9, ORANGE)], seed=k) for k, (a, b) in places]
    marks = [Mark("left_knee", 0, one[0], 100), Mark("right_knee", 0, two[0], 102)]
    seen = fused(follow_spots(legs(marks, 60), lambda n: frames[n], t, px_per_m=METRE))
    for point, path in (("left_knee", one), ("right_knee", two)):
        found = seen[point]
        claimed = np.isfinite(found.xy[:, 0])
        assert claimed[:18].all() and not claimed[20:27].any() and not claimed[40:].any()
        error = np.abs(found.xy[claimed, 0] - path[claimed])
        assert (error < 3 * found.sigma[claimed] + 0.4).all()


def test_a_way_that_ends_elsewhere_is_dropped():
    """Where a second mark says the point is somewhere else, what led there by colour does not count."""
    frames = [scene([(120 + k, 100, 7, ORANGE)], seed=k) for k in range(20)]
    marks = [Mark("left_hip", 0, 120.0, 100.0), Mark("left_hip", 19, 60.0, 180.0)]
    seen = follow_spots(legs(marks, 20), lambda n: frames[n], np.arange(20) / 120, px_per_m=METRE)
    assert not seen


def test_one_click_on_each_band_follows_a_whole_clip(demo, tmp_path):
    """Knee brace and sock of the demo, one mark each, by colour alone: later marks of the lesson agree."""
    bands = ("left_knee", "right_ankle")
    marks = [m for m in load_swing(demo / "wilma-ostrow-wedge.swing.json").marks if m.point in bands]
    first = min(m.frame for m in marks)
    given, out = tmp_path / "marks.csv", tmp_path / "points.csv"
    rows = [f"{m.frame},,{m.point},{m.x},{m.y}," for m in marks if m.frame == first]
    given.write_text("\n".join(["frame,time_s,point,x_px,y_px,sigma_px", *rows]))
    clip = str(demo / "wilma-ostrow-wedge.mp4")
    assert main(["track", clip, "--marks", str(given), "--sources", "colour", "--out", str(out)]) == 0
    found = read_points(out)
    assert set(found.xy) == set(bands)
    later = [m for m in marks if m.frame > first and found.sigma[m.point][m.frame] < 5]
    assert len(later) >= 5
    for mark in later:
        # The band's middle is not quite the joint's, and rolls on it as the knee turns.
        assert np.hypot(*(found.xy[mark.point][mark.frame] - (mark.x, mark.y))) < 9, mark


def test_a_spot_on_a_turning_hip_does_not_overrule_the_marks_on_the_joint():
    """A patch before a joint goes aside by its depth times the sine of the turn (geometry)."""
    times = np.arange(120) / 120
    joint = np.tile([400.0, 300.0], (120, 1))
    turn = np.radians(45) * np.sin(np.pi * times)
    patch = joint + np.stack([0.08 * METRE * np.sin(turn), 0 * turn], axis=1)
    spot = of_joint("right_hip", Sighting(patch, np.full(120, 0.12)), METRE)
    marks = [Mark("right_hip", n, *joint[n].tolist()) for n in (0, 60, 119)]
    data = from_marks(marks, 120, {}, px_per_m=METRE, sightings={"right_hip": (spot,)})
    track = solve_tracks(times, data)["right_hip"]
    assert abs(track.xy[60, 0] - 400) < 3 and track.sigma[60] > 1.0
    off = np.abs(track.xy[:, 0] - 400)
    assert (off < 2.5 * track.sigma + 1).all(), off.max()
