"""What the trade says, held against patterns, schools and faults (common practice, no source)."""

from __future__ import annotations

import json
import re

import numpy as np
import pytest

from kneel.cli.main import main
from kneel.compare.lesson import Filmed, judge_lesson
from kneel.documents.balls_csv import read_balls
from kneel.judge import Verdict, Why, known
from kneel.judge.flight import balls_in, misses_of, weight_of
from kneel.judge.numbers import OfSwing
from kneel.judge.reading import brief_of
from kneel.judge.roots import MISS_FITS
from kneel.judge.walk import walk
from kneel.model import (
    POSES,
    Ball,
    Club,
    Cue,
    Hand,
    Kind,
    Override,
    Plan,
    PointRows,
    PointsError,
    Root,
    Stature,
    Swing,
    View,
)
from kneel.model.renamed import RENAMED, as_now
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints.rules import read_rule
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.viewed import Question
from kneel.practice import drills_in_use
from kneel.practice.cues import tried
from kneel.practice.judging import judge_swing
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import INCH, SwingPlan
from kneel.speech.balls import balls_said
from kneel.speech.change import cue_words, felt_and_real
from kneel.speech.findings import place, sentence
from kneel.speech.headline import headline
from kneel.speech.lesson import chains_across, joined
from tests.test_cli import points_file
from tests.test_judge import SWAY, read
from tests.test_practice import START

SCHOOLS = ("centred", "loading", "forward", "braced")
FACE, LINE = View.FACE_ON, View.DOWN_THE_LINE


def truth_of(pattern, club=Club.IRON, **plan):
    golfer = Golfer(175.0, club=club)
    return Shoot(golfer, SwingPlan(pattern=pattern, **plan), Camera(FACE, golfer.hand), 240.0).truth()


# The simulator's clean patterns follow the schools.


@pytest.mark.parametrize("key", SCHOOLS)
def test_clean_patterns_do_what_their_schools_teach(key):
    """Shoulders tilted 10° at most at address, more at impact; torso at most half as open as the pelvis;
    iron hands near the ball at delivery; seat about a clubface behind the heel; no flex gained into impact.
    """
    truth, school = truth_of(key), known().school(key)
    assert abs(truth.at("shoulder_tilt", "address")) < 10 < -truth.at("shoulder_tilt", "impact")
    assert 0 < truth.at("shoulder_turn", "impact") <= 0.5 * truth.at("pelvis_turn", "impact")
    assert abs(truth.at("hands_to_ball", "delivery")) < 5 < truth.at("hands_to_ball", "impact")
    assert truth.at("hands_to_ball", "half_down") < -30
    assert 7 < truth.at("seat_behind_heel", "address") < 13
    assert truth.at("lead_knee_flex", "impact") < truth.at("lead_knee_flex", "address")
    # At the top the lead knee is just inside the lead foot, and the trail hip where the tailbone was or near.
    assert -12 < truth.at("lead_knee_to_heel", "top") < 0
    # The arc is lowest past the ball, where the hands are above the clubhead.
    assert truth.swing["low_point"] > 4
    trail = truth.at("trail_knee_flex", "top") - truth.at("trail_knee_flex", "address")
    window = school.find("trail_knee_flex_change", "top")
    assert trail < window.hi and truth.at("trail_knee_flex", "top") > 8
    assert (trail < -7.5) == (key == "forward")


def test_travel_and_loading_are_those_of_the_trade():
    """+3.8 in at follow and +5.1 at the finish; loading goes 2.5 to 4 cm back, the pelvis opens 35 to 45°."""
    centred = truth_of("centred")
    assert centred.at("pelvis_shift", "follow") / INCH == pytest.approx(3.8, abs=0.15)
    assert centred.at("pelvis_shift", "finish") / INCH == pytest.approx(5.1, abs=0.05)
    loading = truth_of("loading")
    assert -4 <= loading.at("pelvis_shift", "top") <= -2.5
    assert 35 <= loading.at("pelvis_turn", "impact") <= 45 and loading.at("lead_stack_hip", "impact") > -5.5
    assert loading.at("trail_heel_lift", "impact") < 2
    driver = truth_of("centred", Club.DRIVER)
    for at in ("takeaway", "half_back"):
        assert driver.at("side_tilt", at) > 3  # the sternum stays behind the buckle
    assert driver.at("pelvis_tilt", "takeaway") < 1  # and the lead hip no lower then


def test_limits_that_were_missing():
    """Each by a number past it and one inside; 28° open at impact is not clear under loading."""

    def told(fault, measure, at, value, school="centred", views=(FACE,), **more):
        found = read({(measure, at): (value, 0.4)}, school, views=views, **more).of(fault)
        one = next(w for w in found.weighed if (w.check.measure, w.at) == (measure, at))
        return one.verdict

    clear, fault = Verdict.CLEAR, Verdict.FAULT
    line = (LINE,)
    for school in ("centred", "loading", "forward"):
        assert told("braced_turn", "trail_knee_flex_change", "top", 0.5, school, line) is fault
    assert told("braced_turn", "trail_knee_flex_change", "top", -5.0, "forward", line) is fault
    assert told("braced_turn", "trail_knee_flex_change", "top", -5.0, "centred", line) is clear
    assert told("braced_turn", "trail_knee_flex_change", "top", 0.5, "braced", line) is clear
    assert told("stalled_opening", "pelvis_turn", "impact", 28.0, "loading") is not clear
    assert told("stalled_opening", "pelvis_turn", "impact", 28.0, "centred") is clear
    assert told("broken_stack", "lead_stack", "impact", -9.0, "loading") is fault
    assert told("trail_heel_early", "trail_heel_lift", "impact", 4.5, "loading") is fault
    assert told("head_ahead", "head_shift", "top", 6.0) is fault
    assert told("head_ahead", "head_shift", "top", 2.0) is clear
    assert told("early_side_bend", "side_tilt", "half_down", 16.0, "loading") is fault
    assert told("early_side_bend", "side_tilt", "half_down", 12.0, "loading") is clear
    assert told("hang_back", "side_tilt", "half_down", 16.0, "loading") is clear
    assert told("sway", "trail_hip_cross_share", "top", 0.5) is not clear
    assert told("flip", "shaft_lean", "impact", 0.0) is fault
    for lean in (12.0, 16.5):
        assert told("flip", "shaft_lean", "impact", lean) is clear
    assert told("flip", "shaft_lean", "impact", 0.0, club=Club.DRIVER) is clear
    assert told("steep_shaft", "shaft_plane_rise", "impact", 9.0, views=line) is fault
    assert told("steep_shaft", "shaft_plane_rise", "impact", 4.0, views=line) is clear
    assert told("hands_late", "hands_to_ball", "delivery", -20.0) is fault
    assert told("hands_late", "hands_to_ball", "delivery", -20.0, club=Club.DRIVER) is Verdict.UNKNOWN
    assert told("stance_mass", "mass_side", "address", 48.0) is clear
    assert told("stance_mass", "mass_side", "address", 48.0, "forward") is fault
    assert told("seat_at_setup", "seat_behind_heel", "address", 8.0, views=line) is clear
    assert told("pressure_at_impact", "pressure_side", "impact", 82.0) is clear
    assert told("pressure_at_impact", "pressure_side", "impact", 60.0) is fault
    # A plate that is not there asks nothing.
    assert judge_swing(_study(FACE), known().school("centred")).of("pressure_at_impact").why is Why.PLATE


def test_edges_of_the_third_reading():
    faults = known().faults
    wanted = {
        "sway": {"flip", "short_turn", "upright_lead_arm"},
        "flat_turn": {"stuck_behind"},
        "over_turn": {"inside_takeaway", "early_extension"},
        "trail_knee_lock": {"over_the_top"},
        "toes_straight": {"bent_lead_leg"},
        "knees_forward_top": {"steep_shaft", "head_rise"},
        "backswing_thrust": {"hang_back"},
        "early_lengthening": {"early_extension"},
        "unopened_shift": {"head_ahead"},
        "flip": {"low_point_behind"},
    }
    for cause, effects in wanted.items():
        assert effects <= set(faults[cause].explains), cause
    assert "upright_lead_arm" not in faults["lead_heel_up"].explains
    assert "stuck_behind" not in faults["knees_forward_top"].explains
    assert "trail_hip_flex" in faults["low_back_load"].measures
    for fault in faults.values():
        words = " ".join((fault.seen, fault.why, fault.good, fault.aim, *(c.says for c in fault.check)))
        # “Left to the hands” is no side; right of the target is.
        assert not re.search(r"\bright\b|\bleft of\b|\bto the left\b|\band left\b", words), fault.key


# Every kind of swing.


def _study(view, kind=Kind.FULL, *, length=1.0, pose="", pattern="centred", seed=1, **faults):
    golfer = Golfer()
    plan = SwingPlan(faults, pattern, length=length, variation=1.0, seed=seed, still_before_s=0.7)
    shoot = Shoot(golfer, plan, Camera(view, golfer.hand), 120.0)
    truth, times = shoot.truth(), shoot.times_s
    rng = np.random.default_rng(seed)
    xy = {name: places + rng.normal(0, 1.0, places.shape) for name, places in truth.pixels.items()}
    pinned = {}
    if kind is Kind.BACKSWING:  # held at the top
        top = int(np.searchsorted(times, truth.checkpoints_s["top"]))
        still = np.minimum(np.arange(len(times)), top)
        xy = {n: truth.pixels[n][still] + rng.normal(0, 1.0, p.shape) for n, p in xy.items()}
    if kind is Kind.REHEARSAL:
        xy.pop("ball")
    if kind is Kind.HELD:
        here = int(np.argmin(abs(times - truth.checkpoints_s[pose or "impact"])))
        xy = {n: p[here : here + 1] for n, p in xy.items() if np.isfinite(p[here]).all()}
        times, pinned = times[:1], {pose: 0.0} if pose else {}
    count = len(times)
    rows = PointRows(np.arange(count), times, xy, {n: np.full(count, 1.0) for n in xy})
    setup = Setup(
        view,
        scale=Stature(golfer.stature_cm),
        width_px=1280.0,
        height_px=720.0,
        kind=kind,
        pinned=pinned,
        rules={"waist": "hands at hip height, down", "soon": "60 ms before impact"},
    )
    return analyse(times, from_rows(rows), setup)


@pytest.mark.parametrize(
    ("kind", "length"),
    [
        (Kind.THREE_QUARTER, 0.85),
        (Kind.PUNCH, 0.85),
        (Kind.HALF, 0.7),
        (Kind.BACKSWING, 1.0),
        (Kind.REHEARSAL, 1.0),
        (Kind.DRILL, 1.0),
    ],
)
@pytest.mark.parametrize("view", [FACE, LINE])
def test_every_kind_has_a_clean_and_a_faulty_case(kind, length, view):
    school = known().school("centred")
    clean = judge_swing(_study(view, kind, length=length), school, Swing(kind=kind))
    assert not clean.found(Verdict.FAULT), [f.key for f in clean.found(Verdict.FAULT)]
    assert len(clean.found(Verdict.CLEAR)) >= 10
    fault = "sway" if view is FACE else "backswing_thrust"
    if view is LINE and kind is Kind.HALF:
        fault = "early_extension"
    faulty = judge_swing(_study(view, kind, length=length, **{fault: 9.0}), school, Swing(kind=kind))
    assert faulty.of(fault).verdict is Verdict.FAULT
    assert not any(fault == f.key for f in clean.found(Verdict.WATCH))


def test_held_poses_are_judged_by_their_own_windows():
    """A held impact gets its verdict; what counts from address or needs a swing is not asked of it."""
    school = known().school("centred")
    for pose, fault, dial in zip(
        POSES, ("sitting", "reverse_pivot", "flip"), ("sitting", "reverse_pivot", "flip"), strict=True
    ):
        view = LINE if pose == "address" else FACE
        clean = judge_swing(_study(view, Kind.HELD, pose=pose), school)
        assert clean.of(fault).verdict is Verdict.CLEAR and not clean.found(Verdict.FAULT)
        amount = 12.0 if pose == "address" else 18.0
        bad = judge_swing(_study(view, Kind.HELD, pose=pose, **{dial: amount}), school)
        assert bad.of(fault).verdict.at_work, pose
        assert all(f.checkpoint in (pose, None) for f in bad.findings)
    impact = judge_swing(_study(FACE, Kind.HELD, pose="impact"), school)
    shift = impact.of("no_rise")
    assert shift.why is Why.KIND and "held pose" in sentence(shift, school)
    unsaid = _study(FACE, Kind.HELD)
    asked = judge_swing(unsaid, school)
    assert unsaid.question is Question.POSE and "Which position is held?" in headline(asked, unsaid)


def test_an_exaggeration_says_whether_it_went_far_enough():
    swing, school = Swing(kind=Kind.EXAGGERATION, drill="sway"), known().school("centred")
    near = _study(FACE, Kind.EXAGGERATION)
    assert headline(judge_swing(near, school, swing), near).startswith("Not yet far enough")
    untold = judge_swing(near, school, Swing(kind=Kind.EXAGGERATION))
    assert headline(untold, near).startswith("Say what is exaggerated")


def test_moments_by_a_rule_are_found():
    study = _study(FACE)
    assert study.checkpoints["soon"].time_s == pytest.approx(study.checkpoints["impact"].time_s - 0.06)
    low, high = (study.checkpoints[name].time_s for name in ("half_down", "impact"))
    assert low < study.checkpoints["waist"].time_s < high
    assert study.at("pelvis_shift", "waist")
    assert read_rule("lead arm at 45°, back") and not read_rule("when it feels right")


# The ball speaks first.


def balls(*strikes):
    return [Ball(strike=one) for one in strikes]


def test_three_of_five_fat_raise_what_brings_fat_and_one_of_five_does_not():
    """A sway brings fat; a short turn that leads to as much does not."""
    told = {("pelvis_shift", at): (-4.5, 0.3) for at in ("half_back", "top")}
    told |= {("head_lift", at): (9.0, 0.3) for at in ("half_back", "top", "half_down")}

    def credits(some):
        reading = read(told, brief=brief_of(balls=some))
        return reading, reading.of("sway").credit, reading.of("head_rise").credit

    _, sway, rise = credits([])
    assert sway == rise
    for few in (1, 0):
        _, sway, rise = credits(balls(*["fat"] * few, *["clean"] * (5 - few)))
        assert sway == rise
    reading, sway, rise = credits(balls("fat", "fat", "fat", "clean", "clean"))
    assert sway > rise and reading.priority[0] == "sway"
    assert "It would explain 3 of the 3 that missed." in place(reading.of("sway"), reading)
    assert "none of the 3" in place(reading.of("head_rise"), reading)
    assert balls_said(reading) == "Of 5 balls: 3 fat and 2 good."
    # By how many balls there were, and never more than a reported miss; told twice it counts once.
    assert weight_of(6, 10) > weight_of(3, 5) > weight_of(1, 2) > 0 == weight_of(1, 5)
    both = read(told, brief=brief_of(Swing(flight="fat"), balls=balls(*["fat"] * 9)))
    assert both.of("sway").credit == MISS_FITS
    assert balls_in("3 of 5 fat") and brief_of(Swing(flight="3 of 5 fat")).misses == frozenset()


def test_balls_are_told_by_the_hand_that_struck_them():
    right = Ball(start="left", curve="right")
    assert misses_of(right, Hand.RIGHT) == {"pull", "slice"} and misses_of(right, Hand.LEFT) == {
        "push",
        "hook",
    }


def test_good_balls_beside_a_number_past_its_window_are_both_seen():
    told = SWAY | {("shaft_lean", "impact"): (9.0, 1.0)}
    reading = read(told, brief=brief_of(balls=balls("clean", "clean", "clean", "thin")))
    assert [f.key for f in reading.compensated] == ["sway"]
    assert "both are seen" in balls_said(reading) and "makes up for it" in balls_said(reading)
    flipped = read(
        SWAY | {("shaft_lean", "impact"): (-9.0, 1.0)}, brief=brief_of(balls=balls(*["clean"] * 4))
    )
    assert not flipped.compensated


def test_a_lesson_takes_its_balls_from_a_list(tmp_path, simulate, capsys):
    names = []
    for seed in (1, 2, 3):
        names.append(str(points_file(tmp_path / f"{seed}.csv", simulate(seed=seed, sway=7.0))))
    listed = tmp_path / "balls.csv"
    listed.write_text(
        "swing,strike,start,curve,carry\n1,fat,,,92\n2,fat,right,,\n3,clean,,,131\n,fat,,,\n,clean,,,\n"
    )
    options = ["analyze", *names, "--lesson", "--stature", "176", "--balls", str(listed), "--json", "-"]
    assert main(options) == 0
    lesson = json.loads(capsys.readouterr().out)["lesson"]
    assert lesson["balls"]["count"] == 5 and lesson["balls"]["misses"]["fat"] == 3
    sway = next(f for f in lesson["findings"] if f["fault"] == "sway")
    assert sway["explains_balls"] == 3 and "3 of the 3" in sway["place"]
    assert main([*options[:2], "--balls", str(listed)]) == 2
    for text, about in (
        ("strike\nfatt\n", "strike is one of"),
        ("swing,strike\n4,fat\n", "from 1 to 3"),
        ("swing,strike\n1,fat\n1,thin\n", "two balls of swing 1"),
        ("carry\n80\n", "needs the column strike"),
        ("strike,carry\nfat,far\n", "must be a number"),
    ):
        listed.write_text(text)
        with pytest.raises(PointsError, match=about):
            read_balls(listed, 3)


# One sentence joins two clips; a walk by checkpoint.


def test_one_sentence_joins_the_two_views_of_a_lesson():
    school = known().school("centred")

    def filmed(view, **faults):
        study = _study(view, seed=3 if view is FACE else 4, **faults)
        swing = Swing().given(view=view)
        return Filmed(swing, OfSwing(study), judge_swing(study, school, swing))

    lesson = judge_lesson([filmed(FACE, reverse_pivot=14.0), filmed(LINE, early_extension=9.0)], school)
    pairs = {(one.key, other.key) for one, other in chains_across(lesson)}
    assert ("reverse_pivot", "early_extension") in pairs
    faults = known().faults
    words = joined(faults["reverse_pivot"], faults["early_extension"], FACE, LINE, LINE)
    assert words == "The reverse pivot in the clip face-on explains the early extension here."


def test_the_walk_goes_by_the_order_of_the_swing_and_leaves_nothing_out():
    reading = judge_swing(_study(FACE, sway=8.0), known().school("centred"))
    stops = walk(reading)
    order = [stop.at for stop in stops]
    assert order[0] == "address" and order.index("top") < order.index("impact")
    there = [f.key for stop in stops for f in (*stop.work, *stop.fine, *stop.untold)]
    assert sorted(there) == sorted(f.key for f in reading.findings if f.asked)
    sway = next(stop for stop in stops if any(f.key == "sway" for f in stop.work))
    assert sway.at in ("half_back", "top") and sway.fine


# Felt and real; names of our own.


def test_felt_stands_beside_what_it_was():
    one = Cue(
        "Turn the hip back",
        START,
        "sway",
        "pelvis_shift",
        "top",
        "cm",
        "up",
        -6.0,
        0.5,
        -2.0,
        0.5,
        felt="a hand’s width",
    )
    assert "Felt like a hand’s width; it was 4.0 cm" in cue_words(tried([one])[0])
    words = felt_and_real(one)
    assert (
        words.startswith("One swing each: −6.0 ± 0.5 cm before, −2.0 ± 0.5 cm after") and "it moved" in words
    )


def test_earlier_keys_are_read_as_what_they_are_called_now():
    keys = {*known().faults, *drills_in_use().all}
    assert set(RENAMED.values()) <= keys and not set(RENAMED) & keys
    assert as_now("sway") == "sway"
    assert Override("crunch", "rejected").fault == Root("crunch").fault == "low_back_load"
    assert Root("sway", drill="fenced_leg").drill == "trail_knee_between_sticks"
    assert "fault" in Plan.__struct_fields__
