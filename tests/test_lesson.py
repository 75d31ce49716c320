"""Several swings as one: what they share in error, who shows what, and one chain over two views."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest

from kneel.cli.main import main
from kneel.compare.errors import told_by
from kneel.compare.lesson import Filmed, judge_lesson
from kneel.compare.sets import OfSet, mean_sigma, of_one_lesson
from kneel.compare.spread import Swings
from kneel.contract import v1
from kneel.documents.points_csv import write_points
from kneel.judge import Verdict, judge, known
from kneel.judge.numbers import OfSwing
from kneel.model import Club, Hand, Override, PointRows, Stature, Swing, View
from kneel.motion.analysis import analyse
from kneel.motion.failure import Failed
from kneel.motion.sample import EACH_CLIP
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.viewed import guessed_view
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan
from kneel.speech.lesson import lesson_text, lines, seen_in

CENTRED = known().school("centred")


def rows_of(seed=1, view=View.FACE_ON, **faults):
    shoot = Shoot(Golfer(175.0), SwingPlan(faults, "centred", seed=seed), Camera(view), 60.0)
    truth, rng = shoot.truth(), np.random.default_rng(seed)
    count = len(shoot.times_s)
    noisy = {name: p + rng.normal(0, 1, p.shape) for name, p in truth.pixels.items()}
    return PointRows(np.arange(count), shoot.times_s, noisy, {n: np.full(count, 1.0) for n in noisy})


def filmed(seed=1, view=View.FACE_ON, club=Club.IRON, said=(), **faults):
    rows = rows_of(seed, view, **faults)
    swing = Swing(club=club, overrides=said).given(view=view, scale=Stature(175.0))
    study = analyse(rows.times_s, from_rows(rows), Setup(view, scale=Stature(175.0)))
    return Filmed(swing, OfSwing(study, club), judge(study, CENTRED, swing))


@pytest.fixture(scope="module")
def swaying():
    return [filmed(seed, sway=6.0, reverse_pivot=9.0) for seed in (1, 2)]


@pytest.fixture(scope="module")
def extending():
    return [filmed(seed, View.DOWN_THE_LINE, early_extension=9.0) for seed in (11, 12)]


def pooled(swings):
    told = told_by(of_one_lesson(swings), "pelvis_shift", "top")
    return mean_sigma(told, Swings.of(told))


def test_a_source_that_clips_share_does_not_shrink_with_their_number(swaying):
    """The same swing four times over: only what a clip has by itself falls, and by the root of four."""
    one = swaying[0].numbers
    told = one.tell("pelvis_shift", "top")
    alone, four = pooled([one]), pooled([one] * 4)
    assert alone == pytest.approx(told.sigma, rel=1e-6)
    own = sum(m**2 for c, m in told.causes.items() if c[0] in EACH_CLIP)
    assert four**2 == pytest.approx(told.sigma**2 - own * 3 / 4, rel=1e-6)
    assert told.sigma / 2 < four < told.sigma


def test_what_comes_again_is_shared(swaying):
    """Points that the body model sees lie off alike in every clip of one body in one pose."""
    one = swaying[0].numbers
    study = one.study
    hips = frozenset({"left_hip", "right_hip"})
    seen = replace(one, study=replace(study, setup=replace(study.setup, guessed=hips), _known={}))
    assert pooled([seen] * 4) > pooled([one] * 4)
    assert pooled([seen]) == pytest.approx(pooled([one]), rel=0.2)


def test_the_typical_swing_is_the_mean_of_what_is_told(swaying):
    members = tuple(one.numbers for one in swaying)
    told = [one.tell("pelvis_shift", "top").value for one in members]
    over = OfSet(members).over("pelvis_shift", "top")
    assert over.mean.value == pytest.approx(np.mean(told)) and over.count == 2
    assert over.spread == pytest.approx(np.std(told, ddof=1))
    assert OfSet(members[:1]).over("pelvis_shift", "top").spread is None


def test_a_minority_that_tells_a_measure_does_not_speak_for_the_set(swaying):
    class Blind(OfSwing):
        def tell(self, measure, at):
            return Failed("Nobody has marked it.", "points")

    one = swaying[0].numbers
    blind = Blind(one.study, one.club)
    assert not isinstance(OfSet((one, blind)).over("pelvis_shift", "top"), Failed)
    failed = OfSet((one, blind, blind)).over("pelvis_shift", "top")
    assert isinstance(failed, Failed) and failed.reason == "Nobody has marked it."


def test_a_consequence_hangs_under_the_root_of_another_clip(swaying, extending):
    lesson = judge_lesson([*swaying, *extending], CENTRED)
    assert [balls.swings for balls in lesson.sets] == [(0, 1), (2, 3)]
    extension = lesson.reading.of("early_extension")
    assert extension.verdict is Verdict.FAULT and extension.swings == (2, 3)
    assert extension.because == "reverse_pivot" and not extension.root
    assert lesson.reading.of("reverse_pivot").because == "sway" and lesson.reading.priority[0] == "sway"
    assert lesson.reading.of("sway").swings == (0, 1)
    text = lesson_text(lesson)
    assert "Sway is seen in 2 of 2 face-on." in text
    assert "Early extension (2 of 2 down the line)" in text and "other swings, one chain" in text
    assert lines(lesson)[0].endswith("Sway, 2 of 2 face-on")
    # By itself the line clip names what it sees, for want of a cause.
    assert lesson.sets[1].reading.priority == ("early_extension",)


def test_who_shows_what_in_a_set(swaying):
    lesson = judge_lesson([*swaying, filmed(3)], CENTRED)
    (balls,) = lesson.sets
    assert balls.shows["sway"] == (0, 1) and balls.shows["slide"] == ()
    assert seen_in(lesson, lesson.reading.of("sway")) == "2 of 3 face-on"


def test_clubs_and_views_are_sets_of_their_own_and_named_so(swaying):
    driver = filmed(4, club=Club.DRIVER, sway=8.0)
    lesson = judge_lesson([*swaying, driver], CENTRED)
    assert [balls.club for balls in lesson.sets] == [Club.IRON, Club.DRIVER]
    assert "1 of 1 face-on with the driver" in seen_in(lesson, lesson.reading.of("sway"))


def test_the_word_on_one_swing_holds_for_the_lesson(swaying, extending):
    spoken = filmed(1, said=(Override("sway", "rejected", "stands so"),), sway=6.0, reverse_pivot=9.0)
    lesson = judge_lesson([spoken, swaying[1], *extending], CENTRED)
    assert lesson.reading.of("sway").verdict is Verdict.CLEAR
    assert lesson.reading.priority[0] == "reverse_pivot"


def test_what_needs_two_views_is_told_from_two_clips():
    """Crunch asks a trunk hanging back (face-on) and a back that is held up (down the line)."""
    faults = {"slide": 8.0, "hang_back": 12.0, "low_back_load": 20.0}
    faces = [filmed(seed, **faults) for seed in (1, 2)]
    sides = [filmed(seed, View.DOWN_THE_LINE, **faults) for seed in (3, 4)]
    alone, other = judge_lesson(faces, CENTRED), judge_lesson(sides, CENTRED)
    assert not any(one.reading.of("low_back_load").verdict.at_work for one in (alone, other))
    both = judge_lesson([*faces, *sides], CENTRED).reading.of("low_back_load")
    assert both.verdict.at_work, both
    assert {w.check.measure for w in both.weighed if w.told} == {c.measure for c in both.fault.check}


def test_no_swing_is_no_lesson():
    with pytest.raises(ValueError, match="needs a swing"):
        judge_lesson([], CENTRED)


# From the command line.


def write(path, rows):
    write_points(
        path,
        (
            (int(f), float(t), name, float(xy[k, 0]), float(xy[k, 1]), 1.0)
            for k, (f, t) in enumerate(zip(rows.frames, rows.times_s, strict=True))
            for name, xy in rows.xy.items()
            if np.isfinite(xy[k, 0])
        ),
    )
    return str(path)


@pytest.fixture(scope="module")
def lesson_files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("lesson")
    return [
        write(folder / "a.csv", rows_of(1, sway=6.0, reverse_pivot=9.0)),
        write(folder / "b.csv", rows_of(2, sway=6.0, reverse_pivot=9.0)),
        write(folder / "c.csv", rows_of(11, View.DOWN_THE_LINE, early_extension=9.0)),
    ]


VIEWS = ("--lesson", "--views", "face-on,face-on,down-the-line", "--stature", "175")


def test_analyze_tells_a_lesson_in_json_and_in_words(lesson_files, capsys):
    assert main(["analyze", *lesson_files, *VIEWS, "--json", "-"]) == 0
    out = capsys.readouterr().out
    assert len(msgspec.json.decode(out, type=v1.LessonResult, strict=True).lesson.sets) == 2
    lesson = json.loads(out)["lesson"]
    assert len(lesson["swings"]) == 3 and lesson["priority"][0] == "sway"
    (sway,) = [f for f in lesson["findings"] if f["fault"] == "sway"]
    assert sway["swings"] == [0, 1] and "2 of 2 face-on" in sway["seen"]
    (inset,) = [f for f in lesson["sets"][0]["findings"] if f["fault"] == "sway"]
    assert inset["count"] == "2 of 2" and inset["spread"] > 0
    assert main(["analyze", *lesson_files, *VIEWS]) == 0
    assert "other swings, one chain" in capsys.readouterr().out


def test_a_swing_given_twice_is_no_second_witness(lesson_files, tmp_path, capsys):
    again = tmp_path / "again.csv"
    again.write_bytes(Path(lesson_files[0]).read_bytes())
    assert main(["analyze", lesson_files[0], str(again), "--lesson", "--stature", "175"]) == 2
    assert "again.csv is the same swing as" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ((), "several inputs are one lesson"),
        (("--lesson", "--views", "face-on"), "for each of 3 inputs"),
        (("--lesson", "--views", "face-on,face-on,above"), "--views takes one of"),
        (("--lesson", "--checkpoint", "top=40"), "speak of one clip"),
        (("--lesson", "--against", "loading"), "--against goes with one swing"),
    ],
)
def test_what_a_lesson_does_not_take_is_said_in_one_line(lesson_files, capsys, more, said):
    assert main(["analyze", *lesson_files, *more]) == 2
    err = capsys.readouterr().err
    assert said.lower() in err.lower() and err.count("\n") == 1


def test_the_view_is_told_from_the_feet_where_nobody_says_it(lesson_files, capsys):
    assert main(["analyze", *lesson_files, "--lesson", "--stature", "175", "--json", "-"]) == 0
    lesson = json.loads(capsys.readouterr().out)["lesson"]
    assert [one["clip"]["view"] for one in lesson["swings"]] == ["face-on", "face-on", "down-the-line"]
    assert any("else say --view" in note for note in lesson["swings"][2]["warnings"])
    assert lesson["priority"][0] == "sway"


@pytest.mark.parametrize(("club", "hand"), [(Club.DRIVER, "left"), (Club.WEDGE, "right")])
@pytest.mark.parametrize(
    ("view", "yaw"), [(View.FACE_ON, 12.0), (View.DOWN_THE_LINE, 8.0), (View.REAR, -8.0)]
)
def test_feet_tell_the_view_of_any_stance(club, hand, view, yaw):
    """From behind the feet are as far apart as face-on: which of the two it is the sides tell."""
    shoot = Shoot(
        Golfer(165.0, Hand(hand), club), SwingPlan(seed=5), Camera(view, Hand(hand), yaw_deg=yaw), 60.0
    )
    places = shoot.truth().pixels
    assert guessed_view(places) is view
    away = {View.FACE_ON: View.REAR, View.REAR: View.FACE_ON}
    assert guessed_view(places, mirrored=True) is away.get(view, view)
