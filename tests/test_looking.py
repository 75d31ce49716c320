"""Finding the joints by the body model, fusing it with flow and marks, and saying where to mark next."""

from __future__ import annotations

import json
import os
import shutil

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QSettings, Qt

from kneel.cli.main import main
from kneel.desk.shell.app import make_application
from kneel.desk.shell.window import Window
from kneel.desk.stage.facts import points_at
from kneel.desk.swing.document import Document
from kneel.evidence import supposed
from kneel.model import Hand, Mark, Near, Sighting, Stature, Swing, View
from kneel.motion.advice import next_mark
from kneel.motion.analysis import analyse, analyse_swing
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.viewed import Question, open_question
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film, pictures
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance
from kneel.sim.swing import SwingPlan
from kneel.speech.questions import answers
from kneel.vision import Looked, installed
from kneel.vision.landmarks.body import find_landmarks
from kneel.vision.landmarks.networks import Networks
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.sides import unswapped
from kneel.vision.looked import warnings
from tests.desk import PATIENCE_MS

needs_model = pytest.mark.skipif(not installed(), reason="the body-landmark network is not installed")


@settings(max_examples=40, deadline=None)
@given(
    st.floats(100, 900), st.floats(100, 500), st.floats(80, 900), st.floats(-3.1, 3.1), st.integers(0, 2**31)
)
def test_a_region_gives_places_back(x, y, side, angle, seed):
    """Where OpenCV's own warp draws a spot of the picture, the way back finds it in the picture."""
    region = Region(x, y, side, angle)
    spot = np.array([x, y]) + side * np.random.default_rng(seed).uniform(-0.3, 0.3, 2)
    picture = np.zeros((700, 1100, 3), np.uint8)
    radius = max(2, round(side / 60))
    inside = (spot > 3 * radius + 4) & (spot < np.array([1100, 700]) - 3 * radius - 4)
    if not inside.all():
        return
    cv2.circle(picture, tuple(np.round(spot).astype(int).tolist()), radius, (255, 255, 255), -1, cv2.LINE_AA)
    crop = region.crop(picture, 256)[..., 0]
    total = crop.sum()
    rows, columns = np.indices(crop.shape)
    # Pixel centres lie half a pixel from the crop's corner.
    middle = np.array([(crop * columns).sum() / total + 0.5, (crop * rows).sum() / total + 0.5])
    back = region.to_picture(middle, 256)
    assert np.abs(back - np.round(spot)).max() < max(0.06 * side / 256, 0.02 * radius) + 0.15


def test_confused_legs_are_set_right_and_crossing_ones_left_alone():
    """The network takes left for right in a third of the frames; legs that truly pass each other stay."""
    frames = np.arange(120)
    xy = np.zeros((120, 39, 2))
    for left, right in ((23, 24), (25, 26), (27, 28), (29, 30), (31, 32)):
        xy[:, left] = np.stack([500 + 0.6 * frames, np.full(120, 400.0 + left)], axis=1)
        xy[:, right] = np.stack([535 - 0.1 * frames, np.full(120, 400.0 + left)], axis=1)
    xy[:, 7:9] = 500, 100
    xy += np.random.default_rng(1).normal(0, 1, xy.shape)
    broken = xy.copy()
    for start, end in ((10, 18), (72, 90)):
        for left, right in ((25, 26), (27, 28), (29, 30), (31, 32)):
            broken[start:end, [left, right]] = xy[start:end, [right, left]]
    mended = unswapped(broken, 330.0)
    wrong = np.abs(mended - xy).max(axis=(1, 2)) > 6
    assert wrong.sum() <= 4 and not wrong[:40].any()
    np.testing.assert_array_equal(unswapped(xy, 330.0)[:40], xy[:40])


@pytest.mark.parametrize("by_one_look", [False, True])
def test_next_mark_is_where_it_tells_most(simulate, by_one_look):
    """The error after marking there comes out as promised, and no other frame tried does better.

    Where one look saw both hips a single one tells little of their middle, and both are asked for.
    """
    rows, truth = simulate(sway=6.0, noise=0.3)
    rng = np.random.default_rng(3)
    frames = {
        name: round(truth.checkpoints_s[name] * 120) for name in ("address", "half_down", "impact", "finish")
    }
    points = [p for p in rows.xy if p != "ball"]
    marks = [
        Mark(p, f, *(rows.xy[p][f] + rng.normal(0, 0.5, 2)).tolist()) for p in points for f in frames.values()
    ]
    look = {"offset": 8.0, "wander": 5.0}
    if by_one_look:
        look |= {"doubt": np.full(len(rows), 3.0), "doubt_together": np.full(len(rows), 1.0)}
    seen = {p: (Sighting(rows.xy[p] + 4.0, np.full(len(rows), 3.0), **look),) for p in points}

    def measured(more):
        swing = Swing().given(scale=Stature(176.0), marks=(*marks, *more))
        return analyse_swing(swing, rows.times_s, {}, (), seen)

    before = measured([])
    advice = next_mark(before, "pelvis_shift", "top")
    assert advice is not None and {*advice.points} <= {"lead_hip", "trail_hip"}
    names = {"lead_hip": "left_hip", "trail_hip": "right_hip"}

    def error_with(*marked):
        more = [Mark(names[point], f, *rows.xy[names[point]][f].tolist()) for point, f in marked]
        return measured(more).at("pelvis_shift", "top").sigma

    assert (len(advice.points) == 2) is by_one_look
    got = error_with(*advice.marks)
    assert got == pytest.approx(advice.after, rel=0.15) and got < 0.93 * advice.before
    others = [error_with((p, f)) for p in names for f in (20, 90, 170, 200)]
    assert got < min(others) + 0.02
    plenty = analyse(rows.times_s, from_rows(rows), Setup(scale=Stature(176.0)))
    assert next_mark(plenty, "pelvis_thrust", "top") is None


def test_sources_are_fused_by_what_they_are_worth():
    """A mark by hand outranks the body model where they differ, and takes its offset along."""
    times = np.arange(60) / 60
    xy = np.stack([400 + 20 * times, np.full(60, 300.0)], axis=1)
    seen = {"left_hip": (Sighting(xy + 10.0, np.full(60, 2.0), offset=9.0, wander=1.0),)}
    data = from_marks([Mark("left_hip", 30, *xy[30].tolist())], 60, {}, height_px=720, sightings=seen)
    assert len(data["left_hip"].sightings) == 2
    only = from_marks([], 60, {}, height_px=720, sightings=seen)
    assert set(only) == {"left_hip"} and not only["left_hip"].sightings[0].by_hand


@needs_model
def test_the_network_reads_mirrored_pictures_alike():
    """A crop and its mirror image give the same joints to within the network's own scatter."""
    shoot = Shoot(camera=Camera(width=640, height=360), noise=0.0)
    picture = next(pictures(shoot))
    networks = Networks()
    (score, region), *_ = networks.detect(picture)
    assert score > 0.5
    plain, mirrored = (networks.landmarks(picture, region, mirrored=m) for m in (False, True))
    assert plain.presence > 0.5
    apart = np.linalg.norm(plain.xy - mirrored.xy, axis=1)[23:29] * region.side / 256
    assert np.median(apart) < 8
    truth = shoot.truth()
    knee = region.to_picture(plain.xy, 256)[25]
    assert np.linalg.norm(knee - truth.pixels["left_knee"][0]) < 8


@pytest.fixture(scope="module")
def bare(kept, tmp_path_factory):
    """A swaying golfer's clip without any marks, and its truth."""
    golfer = Golfer(172.0, look=Appearance(shirt=(170, 90, 80), trousers=(60, 64, 92)))
    camera = Camera(yaw_deg=1.0, width=960, height=540)
    shoot = Shoot(golfer, SwingPlan({"sway": 9.0}, variation=0.5, seed=8), camera, 60.0, 8)
    clip = kept / "bare.mp4"
    if not clip.exists():
        made = tmp_path_factory.mktemp("bare") / "bare.mp4"
        film(shoot, made)
        shutil.copy(made, clip.with_name(f"{os.getpid()}.mp4"))
        clip.with_name(f"{os.getpid()}.mp4").replace(clip)
    return clip, shoot.truth()


@needs_model
@pytest.mark.parametrize(
    ("turn", "does"),
    [
        (1, "lies with the head to the left"),
        (3, "lies with the head to the right"),
        (2, "stands on their head"),
        (0, ""),
    ],
)
def test_a_film_that_lies_on_its_side_is_said_to(turn, does):
    """Phones mistake which way they are held: nobody stands in the picture until it is turned."""
    shown = np.ascontiguousarray(
        np.rot90(next(iter(pictures(Shoot(camera=Camera(width=640, height=360))))), turn)
    )
    looks = find_landmarks(lambda: lambda frame: shown, np.array([0.0, 0.2]), workers=1)
    assert looks.seen.all() == (not does)
    assert [note.split(" in this clip")[0] for note in looks.notes] == [f"The golfer {does}"] * bool(does)
    assert not does or warnings(looks) == looks.notes
    empty = np.full_like(shown, 90)
    assert not does or find_landmarks(lambda: lambda frame: empty, np.zeros(1), workers=1).notes == ()


@needs_model
def test_a_clip_nobody_marked_is_measured(bare, tmp_path, capsys):
    """From the bare file to numbers: points with honest errors, and a sway seen as what it is."""
    clip, truth = bare
    out = tmp_path / "points.csv"
    assert main(["track", str(clip), "--out", str(out)]) == 0
    said = capsys.readouterr().err
    assert "Followed well: " in said and "_ankle" in said
    lines = [line.split(",") for line in out.read_text().splitlines()[1:]]
    inside, count = 0, 0
    for frame, _, point, x, y, sigma in lines:
        if point.split("_")[-1] in ("hip", "knee", "ankle"):
            error = np.array([float(x), float(y)]) - truth.pixels[point][int(frame)]
            inside += int((np.abs(error) < 2 * float(sigma)).all())
            count += 1
    assert inside / count > 0.85
    ball = [int(line[0]) for line in lines if line[2] == "ball"]
    gone = int(np.flatnonzero(np.isfinite(truth.pixels["ball"][:, 0]))[-1])
    assert abs(ball[-1] - gone) <= 1
    coco = tmp_path / "points.coco.json"
    assert main(["track", str(clip), "--out", str(coco)]) == 0
    bodies = json.loads(coco.read_text())["annotations"]
    assert len(bodies) == len(truth.times_s) and max(one["num_keypoints"] for one in bodies) > 15
    assert main(["analyze", str(clip), "--stature", "172", "--json", str(tmp_path / "r.json")]) == 0
    result = json.loads((tmp_path / "r.json").read_text())
    top = result["measures"]["pelvis_shift"]["at"]["top"]
    assert abs(top["value"] - truth.at("pelvis_shift", "top")) < 2.5 * top["sigma"]
    assert result["findings"][0]["verdict"] in ("fault", "watch")
    allowed = {"takeaway": 0.04, "top": 0.04, "delivery": 0.02, "impact": 0.01}
    for name, most in allowed.items():
        assert abs(result["checkpoints"][name]["time_s"] - truth.checkpoints_s[name]) < most, name
    assert result["quality"]["left_knee"]["grade"] in ("good", "fair")


@needs_model
def test_the_desk_finds_the_joints_of_a_dropped_clip(bare, qtbot, tmp_path):
    """Drop a clip: points with their doubt, a verdict, where one mark tells most; known at once next time."""
    clip = tmp_path / "dropped.mp4"
    clip.write_bytes(bare[0].read_bytes())
    _, _, look = make_application()
    window = Window(look, QSettings(str(tmp_path / "desk.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.show()
    session = window.on_desk
    window.open_path(clip)
    qtbot.waitUntil(
        lambda: bool(session.looked.sightings) and not session.gathering.busy, timeout=PATIENCE_MS
    )
    assert session.swing.looked and not session.swing.marks
    assert session.numbers.reading.findings[0].verdict.value in ("fault", "watch", "unknown")
    session.go_to("top")
    assert {"left_hip", "right_knee"} <= {p.name for p in points_at(session) if not p.by_hand}
    advice = session.selection.advice()
    mark = window.bench.reading.explain.mark
    assert advice is not None and advice.much is not mark.isHidden()
    qtbot.keyClick(window, Qt.Key.Key_N)
    assert session.cursor.frame == advice.frame and window.bench.stage.armed == advice.points[0]
    session.document.place(
        "right_hip",
        session.cursor.frame,
        *session.analysis.tracks["right_hip"].xy[session.cursor.frame].tolist(),
    )
    assert session.analysis.tracks["right_hip"].sigma[session.cursor.frame] < 2
    qtbot.keyClick(window, Qt.Key.Key_B)
    assert not session.swing.looked and set(session.analysis.tracks) == {"right_hip"}
    session.document.undo()
    assert len(session.analysis.tracks) > 10
    session.close()
    window.open_path(clip)
    qtbot.waitUntil(lambda: bool(session.looked.sightings), timeout=PATIENCE_MS)
    window.close()


@pytest.mark.parametrize(
    "options", [["--sources", "magic"], ["--sources", ""], ["--near", "here"], ["--marks", "absent.csv"]]
)
def test_track_refuses_with_one_sentence(demo, options, capsys):
    clip = str(demo / "maren-tolhurst-iron.mp4")
    assert main(["track", clip, "--out", str(demo / "x.csv"), *options]) == 2
    told = capsys.readouterr().err.strip()
    assert told.count("\n") == 0 and told.endswith(".")
    assert not (demo / "x.csv").exists()


def test_without_the_network_kneel_says_so(demo, monkeypatch, capsys):
    """An optional part: one sentence, exit 2, and the way on."""
    (demo / "maren-tolhurst-iron.swing.json").unlink()
    monkeypatch.setattr("kneel.vision.landmarks.networks.model_folder", lambda: None)
    clip = str(demo / "maren-tolhurst-iron.mp4")
    for command in (["analyze", clip], ["track", clip, "--out", str(demo / "x.csv")]):
        assert main(command) == 2
        told = capsys.readouterr().err.strip()
        assert told.count("\n") == 0 and "not installed" in told and "--marks" in told


@pytest.mark.parametrize("hand", list(Hand))
@pytest.mark.parametrize(
    ("view", "mirrored", "asked", "then"),
    [
        (View.FACE_ON, False, {Hand.RIGHT: Question.NONE, Hand.LEFT: Question.LEFT}, Question.MIRRORED),
        (View.FACE_ON, True, {Hand.RIGHT: Question.LEFT, Hand.LEFT: Question.NONE}, Question.NONE),
        (View.REAR, False, dict.fromkeys(Hand, Question.BEHIND), Question.MIRRORED),
        (View.DOWN_THE_LINE, False, {Hand.RIGHT: Question.NONE, Hand.LEFT: Question.LEFT}, Question.MIRRORED),
    ],
)
def test_what_a_picture_leaves_open_is_asked_and_an_answer_ends_it(view, mirrored, asked, then, hand):
    """As the network names left and right, which takes a mirrored picture for none; ``then`` is asked where
    the other hand was said.
    """
    shoot = Shoot(Golfer(hand=hand), camera=Camera(view, hand=hand), rate=60.0)
    places = shoot.truth().pixels
    if mirrored:
        # The network sees a golfer of the other hand.
        shown = Shoot(Golfer(hand=hand.other), camera=Camera(view, hand=hand.other), rate=60.0)
        places = shown.truth().pixels
    looked = Looked({name: (Sighting(xy, np.full(len(xy), 3.0)),) for name, xy in places.items()})
    fresh = supposed(Swing(guessed=("view", "hand")), looked)
    assert fresh.view is view

    def question(swing):
        return open_question(places, swing.view, swing.hand, swing.mirrored, supposed=swing.guessed)

    assert question(fresh) is asked[hand]
    told = fresh
    for _ in range(2):
        chosen = next(iter(answers(question(told), told)), None)
        told = told if chosen is None else told.given(**chosen.settings)
    assert not question(told) and told.view is view
    against = fresh.given(view=view, hand=hand.other)
    assert question(against) is then
    assert not question(against.given(mirrored=True))
    # Who names left and right by hand has told them.
    by_hand = open_question(places, view, Hand.RIGHT, None, supposed=("hand",), looked=False)
    assert by_hand is Question.NONE


def test_who_is_meant_is_asked_before_anything_else_where_several_stand_there():
    """Until somebody is pointed out; where nobody looked, nobody was mistaken for another."""
    shoot = Shoot(rate=60.0)
    seen = {name: (Sighting(xy, np.full(len(xy), 3.0)),) for name, xy in shoot.truth().pixels.items()}
    swing = Swing(guessed=("view", "hand"))
    times = shoot.times_s
    assert analyse_swing(swing, times, {}, sightings=seen, crowd=True).question is Question.WHO
    assert analyse_swing(swing, times, {}, sightings=seen).question is Question.NONE
    pointed = swing.given(near=Near(640.0, 360.0, 3))
    assert analyse_swing(pointed, times, {}, sightings=seen, crowd=True).question is Question.NONE
    assert [one.pointed for one in answers(Question.WHO, swing)] == [False, True]


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
@pytest.mark.parametrize("hand", list(Hand))
def test_view_and_hand_that_nobody_has_said_are_told_by_the_picture(view, hand):
    """On a fresh clip without a step of its own, later as a step that can be undone; what was said stays."""
    shoot = Shoot(Golfer(hand=hand), camera=Camera(view, hand=hand), rate=60.0)
    seen = {name: (Sighting(xy, np.full(len(xy), 3.0)),) for name, xy in shoot.truth().pixels.items()}
    looked = Looked(seen)
    other = {View.FACE_ON: View.DOWN_THE_LINE, View.DOWN_THE_LINE: View.FACE_ON}[view]
    fresh = Swing(guessed=("view", "hand")).given(view=other, guessed=("view", "hand"))
    found = supposed(fresh, looked)
    assert (found.view, found.hand) == (view, hand) and found.guessed == fresh.guessed
    assert supposed(found, looked) is found and supposed(fresh, Looked()) is fresh
    # What was said is never changed; a hand that is known against one that is shown is asked about instead.
    said = fresh.given(view=view, hand=hand.other)
    assert supposed(said, looked) is said
    document = Document(None)
    document.begin(fresh)
    document.suppose(found)
    assert document.swing.view is view and document.history.undo_label is None
    document.begin(fresh)
    document.place("left_hip", 3, 10.0, 10.0)
    document.suppose(supposed(document.now, looked))
    assert document.swing.view is view
    document.undo()
    assert document.swing.view is other and document.swing.marks
