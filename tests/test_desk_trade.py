"""The trade on the desk: balls, two clips as one, the walk, kinds and poses, what was measured elsewhere."""

from __future__ import annotations

import shutil
from dataclasses import replace
from datetime import timedelta

import cv2
import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import Qt

from kneel.desk.timeline.lane import corridor_shown
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import load_swing
from kneel.handout.making import Home, make_content
from kneel.judge import Verdict, known
from kneel.model import Aim, Kind, Plan, Queued, Student, Swing, TypedValue, View
from kneel.motion.viewed import Question
from kneel.practice.judging import judge_swing
from tests.desk import PATIENCE_MS, open_clip, press, saved
from tests.filed import DEMO, MAREN
from tests.test_bench import panel_of
from tests.test_practice import START
from tests.test_trade import _study

FACE, LINE = f"{MAREN}.mp4", f"{MAREN}-line.mp4"
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def lesson(tmp_path):
    """The demo's first lesson: a sway face-on, an early extension down the line, a ball noted with each."""
    folder = tmp_path / "first"
    folder.mkdir()
    for path in (DEMO / "2026-08-04").glob(f"{MAREN}*"):
        shutil.copy(path, folder)
    return folder


def read_together(qtbot, window):
    qtbot.waitUntil(lambda: not window.on_desk.gathering.busy, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: len(window.bench.rack.entries) > 1, timeout=PATIENCE_MS)
    window.bench.rack.others.read_now()
    qtbot.waitUntil(lambda: not window.bench.reading.joined.isHidden(), timeout=PATIENCE_MS)


def judged(qtbot, window, ready):
    qtbot.waitUntil(
        lambda: not window.on_desk.numbers.busy and ready(window.on_desk.numbers.reading), timeout=PATIENCE_MS
    )


def test_balls_of_the_set_stand_first_and_one_sentence_goes_to_the_other_clip(qtbot, window, lesson):
    open_clip(qtbot, window, lesson / FACE)
    session, pane = window.on_desk, window.bench.reading
    assert pane.golfer.balls.text() == "Of one ball: 1 fat and 0 good."
    read_together(qtbot, window)
    judged(qtbot, window, lambda reading: len(reading.balls) == 2)
    assert pane.golfer.balls.text() == "Of 2 balls: 1 fat, 1 thin and 0 good."
    places = [pane.golfer.balls, pane.head, pane.findings, pane.joined]
    tops = [one.mapTo(pane, one.rect().topLeft()).y() for one in places]
    assert tops == sorted(tops), "balls stand before the findings"
    assert pane.joined.words.text() == "The sway here explains the early extension in the clip down the line."
    qtbot.mouseClick(pane.joined.button, LEFT)
    qtbot.waitUntil(lambda: session.path == lesson / f"{MAREN}-line.swing.json", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: session.selection.fault == "early_extension", timeout=PATIENCE_MS)
    assert session.checkpoint == "impact"
    assert pane.joined.words.text() == "The sway in the clip face-on explains the early extension here."
    # Noted in the window: one press each, taken back by the same; it is saved with the swing.
    press(qtbot, window.bench.stage, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    panel_of(window, Chooser).pick("Struck: clean")
    panel_of(window, Chooser).pick("Carried: not noted …")
    entry = panel_of(window, Entry)
    entry.field.setValue(128)
    entry.accept()
    judged(qtbot, window, lambda reading: reading.good_balls == 1)
    assert "This ball: clean, 128 m" in pane.golfer.ball.text()
    saved(qtbot, session)
    assert load_swing(session.path).ball.carry == 128.0


def test_the_reading_is_walked_by_checkpoint_and_stays_so(qtbot, window, lesson):
    open_clip(qtbot, window, lesson / FACE)
    session, pane = window.on_desk, window.bench.reading
    chosen = session.selection.finding
    press(qtbot, window.bench.stage, Qt.Key.Key_O)
    assert pane.walk.isVisible() and not pane.findings.isVisible()
    assert pane.walk.at == chosen.checkpoint
    session.selection.choose(None)
    pane.walk.at = ""
    press(qtbot, window.bench.stage, Qt.Key.Key_F)
    assert pane.walk.at == "address" == session.checkpoint, "set-up first"
    step = pane.walk.steps[0]
    assert step.fine.isVisible() and "knees stand over the feet" in step.fine.text()
    assert not pane.walk.steps[1].fine.isVisible()
    for _ in range(len(pane.walk.stops)):
        press(qtbot, window.bench.stage, Qt.Key.Key_F)
    assert pane.walk.at == "address"
    qtbot.mouseClick(pane.walk.steps[2].row, LEFT)
    assert pane.walk.at == pane.walk.stops[2].at == session.checkpoint
    assert pane._settings.value("reading/order") == "swing", "the next desk reads in the same order"
    press(qtbot, window.bench.stage, Qt.Key.Key_O)
    assert pane.findings.isVisible() and not pane.walk.isVisible()


def test_the_kind_is_chosen_with_what_it_is_about(qtbot, window, lesson):
    open_clip(qtbot, window, lesson / FACE)
    session, token = window.on_desk, window.bench.strip.tokens["kind"]
    qtbot.mouseClick(token, LEFT)
    panel_of(window, Chooser).pick("Exaggerated …")
    panel_of(window, Chooser).pick("Against: Sway")
    judged(qtbot, window, lambda reading: reading.aimed is not None)
    assert (session.swing.kind, session.swing.drill) == (Kind.EXAGGERATION, "sway")
    assert "Not yet far enough" in window.bench.reading.head.words.text()
    qtbot.mouseClick(token, LEFT)
    panel_of(window, Chooser).pick("Punch")
    judged(qtbot, window, lambda reading: reading.aimed is None)
    assert session.swing.drill == "" and session.analysis.kind is Kind.PUNCH
    # The ribbon's corridor is that of the kind: a half swing has none at the top.
    assert session.analysis.checkpoints["top"].frame in corridor_shown(session, "pelvis_shift").frames
    session.hold("impact")
    qtbot.mouseClick(token, LEFT)
    panel_of(window, Chooser).pick("Half swing")
    judged(qtbot, window, lambda _: session.analysis.kind is Kind.HALF)
    assert session.swing.pinned == {}
    assert session.analysis.checkpoints["top"].frame not in corridor_shown(session, "pelvis_shift").frames


def test_a_held_position_dropped_as_a_photograph_gets_its_verdict(qtbot, window, lesson, tmp_path):
    """One picture, marked by hand: which position it is, is asked on it, and it is judged by that."""
    swing = load_swing(lesson / f"{MAREN}.swing.json")
    impact = sorted({mark.frame for mark in swing.marks})[-2]
    film = cv2.VideoCapture(str(lesson / FACE))
    film.set(cv2.CAP_PROP_POS_FRAMES, impact)
    photo = tmp_path / "held.jpg"
    cv2.imwrite(str(photo), film.read()[1])
    open_clip(qtbot, window, photo)
    session = window.on_desk
    session.set("Set scale", scale=swing.scale, hand=swing.hand, view=swing.view)
    for mark in swing.marks:
        if mark.frame == impact:
            session.document.place(mark.point, 0, mark.x, mark.y)
    judged(qtbot, window, lambda _: session.question is Question.POSE)
    asking = window.bench.asking
    assert asking.isVisible() and asking.words.text() == "Which position is held?"
    qtbot.mouseClick(asking.buttons[2], LEFT)
    judged(qtbot, window, lambda reading: reading.of("slide").value is not None)
    reading = session.numbers.reading
    assert reading.of("slide").verdict is Verdict.CLEAR and reading.of("slide").checkpoint == "impact"
    assert session.swing.pinned == {"impact": 0.0} and not asking.isVisible()
    saved(qtbot, session)
    open_clip(qtbot, window, lesson / FACE)
    open_clip(qtbot, window, photo)
    assert session.numbers.reading.of("slide").verdict is Verdict.CLEAR


def test_what_was_measured_elsewhere_has_its_actions(qtbot, window, lesson, tmp_path):
    open_clip(qtbot, window, lesson / FACE)
    session, handlers = window.on_desk, window.bench._actions.elsewhere
    window.actions_by_key["type_value"].trigger()
    panel_of(window, Chooser).pick("Lead foot flare …")
    entry = panel_of(window, Entry)
    entry.field.setValue(3.0)
    entry.accept()
    judged(qtbot, window, lambda reading: reading.of("toes_straight").verdict is Verdict.FAULT)
    assert session.swing.typed[0].checkpoint == "address"
    trace = tmp_path / "plate.csv"
    times = np.linspace(-1, 4, 60)
    trace.write_text("time_s,lead_percent,toe_percent\n" + "".join(f"{t:.3f},55,50\n" for t in times))
    handlers.read_plate(trace)
    judged(qtbot, window, lambda reading: reading.of("pressure_at_impact").verdict is Verdict.FAULT)
    saved(qtbot, session)
    assert load_swing(session.path).take.plate.path == str(trace)
    handlers.read_plate(lesson / FACE)
    qtbot.waitUntil(lambda: "plate's trace" in window.status_bar.text(), timeout=PATIENCE_MS)
    trace.unlink()
    session.judge_anew()
    judged(qtbot, window, lambda reading: reading.of("pressure_at_impact").verdict is Verdict.UNKNOWN)
    assert any("left out" in note for note in session.numbers.notes)
    handlers.add_moment("hands at hip height, down")
    handlers.add_moment("My look")
    judged(qtbot, window, lambda _: "my_look" in session.analysis.checkpoints)
    waist = session.analysis.checkpoints["hands_at_hip_height_down"]
    assert session.analysis.checkpoints["half_down"].time_s < waist.time_s
    handlers.add_moment("impact")
    assert "checkpoint already" in window.status_bar.text()
    window.actions_by_key["own_moment"].trigger()
    panel_of(window, Chooser).pick("Take away: My look")
    judged(qtbot, window, lambda _: "my_look" not in session.analysis.checkpoints)


def test_the_page_carries_a_line_of_the_set_up_and_what_comes_next():
    """One movement is the page's; the set-up may go home beside it, and what comes once it holds."""
    school = known().school("centred")
    typed = tuple(
        TypedValue(f"{side}_foot_flare", 2.0, 1.0, "address", "typed") for side in ("lead", "trail")
    )
    study = _study(View.FACE_ON, sway=9.0)
    study = replace(study, setup=replace(study.setup, typed=typed), _known={}, _ways={})
    reading = judge_swing(study, school)
    assert reading.of("toes_straight").verdict is Verdict.FAULT
    aim = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.0, -9.0, 0.7)
    ladder = (-6.0, -4.0, -3.0, -1.5)
    plan = Plan("sway", "turn_inside_the_gate", aim, ladder, START, 21, (0, 2), 15, START + timedelta(10))
    plan = msgspec.structs.replace(plan, queued=(Queued("flat_turn"),))
    home = Home(Swing(), study, reading, None, START, Student("Ida Fenn", plans=(plan,)))
    content = make_content(home)
    assert content.aim == "Let the hips turn where they are."
    assert content.setup == "Before you swing: turn both toes out a little."
    assert content.then.startswith("Next, when this holds: let the left hip sink")
    assert make_content(home, fault="toes_straight").setup == ""
