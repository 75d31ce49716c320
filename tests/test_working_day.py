"""A day at the desk, by real events: a new student to the page that goes home, the next lesson to its answer;
and what stands first, what the hand finds, and what is asked before anything is told.
"""

from __future__ import annotations

import datetime
import os
import shutil
from dataclasses import replace

import pytest
from PyQt6.QtCore import QPoint, QSettings, Qt
from PyQt6.QtWidgets import QApplication, QPushButton

from kneel.desk.places import keeping
from kneel.desk.places.bench.cutting import SHORTEST
from kneel.desk.places.bench.reading.findings import Knot
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.theme.size import FACTOR, KEY, OURS, chosen_size, take_size
from kneel.documents.finding import documents_of
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.handout.making import Home, finding_for
from kneel.judge import Verdict, judge, known
from kneel.judge.roots import Brief, Override
from kneel.model import Stature, Swing, TypedValue, UsageError, View
from kneel.motion.analysis import analyse
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.viewed import Question
from kneel.speech.headline import headline, missing_for_fault
from tests.desk import CLIP, LINE, PATIENCE_MS, in_step, open_clip, press, saved
from tests.filed import DAYS, DEMO, MAREN
from tests.test_bench import panel_of
from tests.test_judge import FLIPPED, SWAY, TIPPED, read
from tests.test_right_student import drop

CTRL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def day(monkeypatch):
    """Which day it is, to be moved on."""
    now = [datetime.date.fromisoformat(DAYS[0])]
    monkeypatch.setattr("kneel.desk.records.practice.Practice.today", property(lambda self: now[0]))
    return now


@pytest.fixture
def opened(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    return window


def lesson(tmp_path, which):
    """A day's clip in a folder of its own, of somebody who has no name yet."""
    folder = tmp_path / "range" / which
    folder.mkdir(parents=True)
    for path in (DEMO / which).glob(f"{MAREN}.*"):
        shutil.copy(path, folder)
    document = folder / f"{MAREN}{SUFFIX}"
    save_swing(document, load_swing(document).given(golfer="", guessed=()))
    return folder / CLIP


def typed(qtbot, window, words):
    entry = panel_of(window, Entry)
    qtbot.keyClicks(entry.field, words)
    qtbot.keyClick(entry.field, Qt.Key.Key_Return)


def read_again(qtbot, window):
    on_desk = window.on_desk
    qtbot.waitUntil(lambda: not on_desk.numbers.busy and not on_desk.gathering.busy, timeout=PATIENCE_MS)
    in_step(qtbot, window)


def test_a_day_from_a_new_student_to_the_answer_of_the_next_lesson(qtbot, window, tmp_path, day):
    """Every step by keys and clicks; only the file manager's drop is made by hand."""
    qtbot.waitUntil(window.isActiveWindow, timeout=PATIENCE_MS)
    press(qtbot, window, Qt.Key.Key_F7)
    qtbot.mouseClick(window.book.people.new, LEFT)
    typed(qtbot, window, "Nils Amsel")
    qtbot.waitUntil(lambda: window.book.student_name == "Nils Amsel", timeout=PATIENCE_MS)
    # The clip is dropped on the page: it is this student's, and read.
    drop(window, [lesson(tmp_path, DAYS[0])])
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    read_again(qtbot, window)
    bench, session = window.bench, window.on_desk
    assert session.swing.golfer == "Nils Amsel" and bench.reading.head.words.text().startswith(
        "Work on first: "
    )
    root = session.numbers.reading.priority[0]
    assert session.selection.fault == root and session.checkpoint == session.selection.finding.checkpoint
    # One finding is overruled by mouse, with a reason that is typed at once.
    knot = bench.reading.findings.findChildren(Knot)[-1]
    qtbot.mouseClick(knot, LEFT)
    overruled = session.selection.fault
    qtbot.mouseClick(bench.reading.explain.say["rejected"], LEFT)
    reason = bench.reading.explain.reason
    qtbot.waitUntil(reason.hasFocus, timeout=PATIENCE_MS)
    qtbot.keyClicks(QApplication.focusWidget(), "shirt moves")
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    read_again(qtbot, window)
    assert bench.stage.hasFocus()
    said = {one.fault: (one.verdict, one.reason) for one in session.swing.overrides}
    assert said[overruled] == ("rejected", "shirt moves")
    press(qtbot, bench.stage, Qt.Key.Key_Z, CTRL)
    press(qtbot, bench.stage, Qt.Key.Key_Z, CTRL)
    read_again(qtbot, window)
    assert overruled not in {one.fault for one in session.swing.overrides}
    # A plan, and the page that goes home with the student's name on it.
    saved(qtbot, session)
    window.filing.file_now()
    qtbot.waitUntil(lambda: window.filing.last is not None, timeout=PATIENCE_MS)
    in_step(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F3)
    qtbot.waitUntil(lambda: window.practice.offer.proposal is not None, timeout=PATIENCE_MS)
    qtbot.mouseClick(window.plan.check_in.buttons["begin_plan"], LEFT)
    in_step(qtbot, window)
    assert window.practice.plan is not None and window.practice.plan.fault == root
    press(qtbot, window, Qt.Key.Key_P, CTRL)
    assert window.place is window.handout
    qtbot.waitUntil(window.handout.saved.isVisible, timeout=PATIENCE_MS)
    kept = [path.name for path in (tmp_path / "range" / DAYS[0] / "kept").glob("*.pdf")]
    assert kept == [f"{MAREN} Nils Amsel page.pdf"]
    # The next lesson opens on what the plan is about, and says what became of it.
    day[0] = datetime.date.fromisoformat(DAYS[2])
    press(qtbot, window, Qt.Key.Key_F7)
    qtbot.waitUntil(lambda: window.book.student_name == "Nils Amsel", timeout=PATIENCE_MS)
    drop(window, [lesson(tmp_path, DAYS[2])])
    qtbot.waitUntil(lambda: session.path is not None and DAYS[2] in str(session.path), timeout=PATIENCE_MS)
    read_again(qtbot, window)
    qtbot.waitUntil(bench.reading.last.isVisible, timeout=PATIENCE_MS)
    assert session.selection.fault == root == window.practice.main
    assert bench.reading.last.line.text().startswith("Last time, ")
    press(qtbot, window, Qt.Key.Key_F3)
    press(qtbot, window.plan, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: "film three a side" in window.plan.check_in.text(), timeout=PATIENCE_MS)


SIZES = [(1280, 800), (1000, 640), (853, 533)]
"""The last is a screen of 1280 by 800 at one and a half times the size."""


@pytest.mark.parametrize("size", SIZES)
def test_headline_and_findings_stand_above_the_fold(qtbot, opened, size):
    opened.resize(*size)
    qtbot.wait(50)
    pane = opened.bench.reading
    assert (opened.width(), opened.height()) == size
    knots = [k for k in pane.findings.findChildren(Knot) if k.isVisible()]
    assert len(knots) == 2
    for part in (pane.head.words, *knots):
        corner = part.mapTo(pane, part.rect().bottomRight())
        assert pane.rect().contains(corner), (size, part)
    # What comes first is not pushed aside by praise, schools or the last time.
    tops = [
        p.mapTo(pane, QPoint()).y() for p in (pane.golfer, pane.head, pane.findings, pane.explain, pane.rest)
    ]
    assert tops == sorted(tops)


def test_while_how_it_was_filmed_is_open_nothing_is_surely_a_fault():
    values = SWAY | TIPPED | FLIPPED
    plain = read(values)
    assert plain.priority and plain.of("sway").verdict is Verdict.FAULT
    asked = read(values, brief=Brief(question=Question.BEHIND))
    assert not asked.priority and not asked.found(Verdict.FAULT)
    assert asked.of("sway").verdict is Verdict.WATCH and asked.of("sway").value == plain.of("sway").value
    assert headline(asked, None).startswith("Filmed from behind?")
    assert "Filmed from behind?".lower() in missing_for_fault(asked.of("sway")).lower()
    # The instructor's word stands over any question.
    seen = read(values, brief=Brief({"sway": Override("sway", "added")}, question=Question.BEHIND))
    assert seen.priority == ("sway",)


def test_a_question_on_the_picture_comes_first_and_its_answer_is_a_step(qtbot, opened):
    session, asking = opened.on_desk, opened.bench.asking
    assert not asking.isVisible()
    session.document.change("Guess", session.swing.given(view=View.REAR, guessed=("view",)))
    read_again(qtbot, opened)
    assert session.question is Question.BEHIND and asking.isVisible()
    assert opened.bench.stage.rect().contains(asking.geometry())
    assert opened.bench.reading.head.words.text().startswith("Filmed from behind?")
    assert not session.numbers.reading.found(Verdict.FAULT) and session.numbers.reading.chain
    face_on = next(b for b in asking.buttons if b.text() == "Face-on")
    qtbot.mouseClick(face_on, LEFT)
    read_again(qtbot, opened)
    assert not asking.isVisible() and session.numbers.reading.found(Verdict.FAULT)
    session.document.undo()
    read_again(qtbot, opened)
    assert asking.isVisible()


def test_a_clip_that_looks_slowed_is_asked_about_and_keeps_back_times_alone(qtbot, opened):
    session, asking = opened.on_desk, opened.bench.asking
    down = session.analysis.once("downswing_time").value
    slowed = session.swing.given(capture_rate=30.0, guessed=("capture_rate",))
    # What is asked next, in the same words, is answered by its own rates.
    session.document.change("Guess", slowed.given(capture_rate=25.0, guessed=("capture_rate",)))
    read_again(qtbot, opened)
    assert [button.text() for button in asking.buttons] == ["Filmed at 100 a second", "No: a slow swing"]
    for words, rate, times in (("Filmed at 120", 120.0, 1), ("No: a slow swing", 30.0, 4)):
        session.document.change("Guess", slowed)
        read_again(qtbot, opened)
        assert asking.isVisible() and asking.words.text() == "Slowed down?"
        assert "looks 4 times slowed" in opened.bench.strip.tokens["capture_rate"].accessibleName()
        assert not session.analysis.once("downswing_time") and session.numbers.reading.found(Verdict.FAULT)
        qtbot.mouseClick(next(b for b in asking.buttons if words in b.text()), LEFT)
        read_again(qtbot, opened)
        assert not asking.isVisible() and session.swing.capture_rate == rate
        assert session.analysis.once("downswing_time").value == pytest.approx(times * down, rel=0.15)


def test_a_watch_says_what_is_missing_can_be_confirmed_and_leads_on(qtbot, opened):
    session, pane = opened.on_desk, opened.bench.reading
    # A number that lies past its limit by less than its errors allow to call a fault.
    far = session.numbers.analysis.at("mass_side", "address")
    session.set("Type in a value", typed=(TypedValue("mass_side", 62.0, far.sigma, "address", "typed"),))
    read_again(qtbot, opened)
    session.selection.choose("stance_mass")
    assert session.selection.finding.verdict is Verdict.WATCH
    assert "3.3 of its errors" in pane.explain.missing.text() and pane.explain.means.isVisible()
    qtbot.mouseClick(pane.explain.say["added"], LEFT)
    read_again(qtbot, opened)
    assert session.numbers.reading.of("stance_mass").verdict is Verdict.FAULT
    assert session.selection.finding.root


def test_a_point_is_set_and_moved_by_keyboard_alone(qtbot, opened):
    session, stage = opened.on_desk, opened.bench.stage
    session.cursor.go(session.cursor.frame + 3)
    frame, first = session.cursor.frame, session.analysis.tracks["left_hip"].xy[session.cursor.frame].copy()
    press(qtbot, stage, Qt.Key.Key_M)
    assert stage.armed == "lead_hip"
    press(qtbot, stage, Qt.Key.Key_Return)
    press(qtbot, stage, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    press(qtbot, stage, Qt.Key.Key_Up)
    assert session.cursor.frame == frame and session.document.history.undo_label is None
    press(qtbot, stage, Qt.Key.Key_Return)
    mark = next(m for m in session.swing.marks if (m.point, m.frame) == ("left_hip", frame))
    assert (mark.x, mark.y) == pytest.approx((first[0] + 10, first[1] - 1), abs=0.3)
    assert stage.armed == "trail_hip"
    press(qtbot, stage, Qt.Key.Key_Return)
    press(qtbot, stage, Qt.Key.Key_Left)
    press(qtbot, stage, Qt.Key.Key_Escape)
    assert not [m for m in session.swing.marks if (m.point, m.frame) == ("right_hip", frame)]
    assert session.swing is session.document.now


def test_the_transport_comes_with_the_pointer_and_goes(qtbot, opened):
    session, stage, transport = opened.on_desk, opened.bench.stage, opened.bench.transport
    assert not transport.isVisible()
    qtbot.mouseMove(stage, QPoint(200, 200))
    qtbot.mouseMove(stage, QPoint(220, 210))
    assert transport.isVisible() and stage.rect().contains(transport.geometry())
    frame = session.cursor.frame
    qtbot.mouseClick(transport.buttons["on"], LEFT)
    assert session.cursor.frame == frame + 1
    qtbot.mouseClick(transport.buttons["play"], LEFT)
    assert opened.bench.player.playing and transport.buttons["play"].text() == "Pause"
    qtbot.mouseClick(transport.buttons["play"], LEFT)
    speed = opened.bench.player.speed
    qtbot.mouseClick(transport.buttons["speed"], LEFT)
    assert opened.bench.player.speed == speed / 2
    press(qtbot, stage, Qt.Key.Key_Right)
    assert not transport.isVisible()
    opened.bench.student.show(True)
    qtbot.mouseMove(stage, QPoint(240, 230))
    assert not transport.isVisible()
    opened.bench.student.show(False)


def test_the_empty_desk_is_opened_by_a_click_and_the_demo_is_one_away(qtbot, window):
    wanted = []
    window.bench.rack.browse.disconnect()
    window.bench.rack.browse.connect(lambda: wanted.append("clips"))
    window.bench.demo_wanted.disconnect()
    window.bench.demo_wanted.connect(lambda: wanted.append("demo"))
    qtbot.mouseClick(window.bench.stage, LEFT, pos=QPoint(40, 40))
    qtbot.mouseClick(window.bench.empty.clips, LEFT)
    qtbot.mouseClick(window.bench.empty.demo, LEFT)
    assert wanted == ["clips", "clips", "demo"]


def test_a_clip_is_trimmed_and_split_by_hand(qtbot, window, demo):
    open_clip(qtbot, window, demo / LINE)
    session, actions = window.on_desk, window.actions_by_key
    whole, here = session.frames, session.analysis.checkpoints["address"].shown - 5
    top = session.analysis.checkpoints["top"].shown
    session.cursor.go(here)
    actions["begin_here"].trigger()
    qtbot.waitUntil(lambda: session.frames == whole - here, timeout=PATIENCE_MS)
    read_again(qtbot, window)
    assert session.swing.span == (here, whole - 1)
    assert session.cursor.frame == 0 and session.first == here
    assert session.analysis.checkpoints["top"].shown == pytest.approx(top - here, abs=1)
    session.cursor.go(2)
    actions["end_here"].trigger()
    assert "no swing" in window.status_bar.text() and session.frames == whole - here
    press(qtbot, window.bench.stage, Qt.Key.Key_Z, CTRL)
    qtbot.waitUntil(lambda: session.frames == whole, timeout=PATIENCE_MS)
    assert session.swing.span is None
    read_again(qtbot, window)
    cut = session.analysis.checkpoints["impact"].shown + 4 * SHORTEST
    session.cursor.go(cut)
    actions["split_here"].trigger()
    qtbot.waitUntil(lambda: session.frames == cut, timeout=PATIENCE_MS)
    spans = sorted(load_swing(path).span for path in documents_of(demo / LINE))
    assert spans == [(0, cut - 1), (cut, whole - 1)]
    second = next(p for p in documents_of(demo / LINE) if load_swing(p).span[0] == cut)
    kept = load_swing(second)
    assert kept.golfer == "Maren Tolhurst" and all(cut <= m.frame + cut < whole for m in kept.marks)
    read_again(qtbot, window)
    press(qtbot, window.bench.stage, Qt.Key.Key_Z, CTRL)
    qtbot.waitUntil(lambda: session.frames == whole and not second.exists(), timeout=PATIENCE_MS)


def test_toggles_have_ticks_and_what_can_do_nothing_says_why(qtbot, opened):
    actions = opened.actions_by_key
    opened.frame.menus.actions()[-2].menu().aboutToShow.emit()
    assert not actions["trail"].isChecked() and not actions["light"].isChecked()
    press(qtbot, opened.bench.stage, Qt.Key.Key_Y)
    opened.frame.menus.actions()[-2].menu().aboutToShow.emit()
    assert actions["trail"].isChecked()
    saved(qtbot, opened.on_desk)
    for key, words in (
        ("save", "saved already"),
        ("lasting", "Nothing drawn is chosen"),
        ("unmark", "Nothing is chosen"),
        ("skip", "No point is being marked"),
        ("end_plan", "No plan runs"),
        ("note_today", "No plan runs"),
        ("ask_plan", "No plan runs"),
    ):
        opened.status_bar.tell("")
        actions[key].trigger()
        assert words in opened.status_bar.text(), key
    press(qtbot, opened, Qt.Key.Key_B, CTRL)
    assert opened.place is opened.book and opened.book.people.line.hasFocus()


def test_a_slow_clip_is_written_without_taking_the_picture_away(qtbot, opened, demo, monkeypatch):
    monkeypatch.setattr(keeping, "SLOWER", 1.0)
    session, seen = opened.on_desk, []
    session.cursor.moved.connect(seen.append)
    opened.actions_by_key["slow_clip"].trigger()
    qtbot.waitUntil(lambda: any((demo / "kept").glob("*.mp4")), timeout=PATIENCE_MS)
    frame = session.cursor.frame
    press(qtbot, opened.bench.stage, Qt.Key.Key_Right)
    assert session.cursor.frame == frame + 1 and seen == [frame + 1]
    opened.bench._actions._keeping.stop()


def test_esc_and_enter_lead_from_a_field_back_to_the_picture(qtbot, opened):
    session, golfer, stage = opened.on_desk, opened.bench.reading.golfer, opened.bench.stage
    qtbot.mouseClick(golfer.row, LEFT)
    line = golfer.lines["complaint"]
    assert line.hasFocus()
    before = session.swing.complaint
    qtbot.keyClicks(line, " and more")
    qtbot.keyClick(line, Qt.Key.Key_Escape)
    assert stage.hasFocus() and session.swing.complaint == before and line.text() == before
    line.setFocus()
    line.setText("Left knee aches")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert stage.hasFocus() and session.swing.complaint == "Left knee aches"


def test_the_size_of_text_is_a_setting_that_holds_from_the_next_start(qtbot, window, tmp_path, monkeypatch):
    chooser = window.preferences.choose_size()
    chooser.pick("Largest")
    assert chosen_size(window._settings) == 1.5
    again = [b for b in window.findChildren(QPushButton) if b.isVisible()] or window.findChildren(Chooser)
    assert again
    settings = QSettings(str(tmp_path / "size.ini"), QSettings.Format.IniFormat)
    monkeypatch.delenv(FACTOR, raising=False)
    monkeypatch.delenv(OURS, raising=False)
    take_size(settings)
    assert FACTOR not in os.environ
    settings.setValue(KEY, 1.3)
    take_size(settings)
    assert os.environ[FACTOR] == "1.3"
    # Started anew in another size: the factor of the one before does not stay.
    settings.setValue(KEY, 1.0)
    take_size(settings)
    assert FACTOR not in os.environ and OURS not in os.environ
    # A factor that the user gave stands, and nonsense counts as the system's size.
    monkeypatch.setenv(FACTOR, "2")
    settings.setValue(KEY, "huge")
    take_size(settings)
    assert os.environ[FACTOR] == "2" and OURS not in os.environ


def test_nothing_goes_home_before_the_question_is_answered(simulate):
    rows, _ = simulate(view=View.REAR, noise=0.5)
    said = Setup(view=View.REAR, scale=Stature(176.0))
    school, day = known().school("centred"), datetime.date(2026, 11, 3)
    for setup in (replace(said, supposed=("view",)), said):
        study = analyse(rows.times_s, from_rows(rows), setup)
        home = Home(Swing(), study, judge(study, school), None, day)
        if study.question is Question.BEHIND:
            with pytest.raises(UsageError, match="Filmed from behind"):
                finding_for(home)
            assert finding_for(home, "sway").key == "sway"
        else:
            assert study.question is Question.NONE and setup is said
