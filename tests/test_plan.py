"""The Plan on the desk: from a finding to weeks of practice, driven with keys and clicks, kept and undone."""

from __future__ import annotations

import datetime
import shutil
import threading
from contextlib import nullcontext
from importlib.resources import files
from pathlib import Path

import msgspec
import pytest
from icalendar import Calendar
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLineEdit

from kneel.book import open_book
from kneel.book.repository import students
from kneel.compare.check_in import Outcome
from kneel.desk.records import Which
from kneel.desk.records.sides import AnswerTold, ask
from kneel.desk.shell.window import Window
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import load_swing, save_swing
from kneel.judge.roots import ADDED
from kneel.model import BookError, Club, Flag, Override, Practised, Prop, Rung, Student
from kneel.practice.ladder import RungHeld
from kneel.practice.ladder import held as stands_at
from kneel.practice.schedule import State
from kneel.speech import units
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip, press
from tests.test_bench import SIZES, cut_off, longer_words, panel_of
from tests.test_practice import plan

CTRL = Qt.KeyboardModifier.ControlModifier
DAY = datetime.timedelta(days=1)
TODAY = datetime.date(2026, 11, 4)


@pytest.fixture
def today(monkeypatch):
    """The day it is taken to be, which a test may move on."""
    now = [TODAY]
    monkeypatch.setattr("kneel.desk.records.practice.Practice.today", property(lambda self: now[0]))
    return now


@pytest.fixture
def opened(qtbot, window, demo, today):
    open_clip(qtbot, window, demo / CLIP)
    qtbot.waitUntil(lambda: window.practice.offer.drills is not None, timeout=PATIENCE_MS)
    in_step(qtbot, window)
    return window


def on_plan(qtbot, window):
    """Go to the Plan by its key."""
    press(qtbot, window, Qt.Key.Key_F3)
    assert window.place is window.plan and window.frame.tabs[window.places.index(window.plan)].isChecked()
    return window.plan


def click(qtbot, widget):
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)


def kept(qtbot, window, name="Maren Tolhurst"):
    in_step(qtbot, window)
    book = open_book()
    with book.reading() as db:
        found, _ = students.named(db, name)
    book.close()
    return found


def cell_of(place, day):
    return next(cell for cell in place.calendar.cells if cell.day == day and cell.isVisible())


def test_from_what_to_work_on_to_a_plan_that_is_kept(qtbot, opened, demo, today):
    """The drill under what to work on first leads to the Plan; the plan begins, is kept, and is undone."""
    first = opened.bench.reading.first
    assert first.isVisible() and first.text_shown().startswith("Drill: Turn inside the gate")
    click(qtbot, first)
    place = opened.plan
    assert opened.place is place and "−6.4 ± 0.7 cm" in place._number.text()
    assert place.cards.cards[0].key == "turn_inside_the_gate"
    assert "licensed medical professional" in place.how.text()
    click(qtbot, place.check_in.buttons["begin_plan"])
    made = opened.practice.plan
    assert made is not None and made == kept(qtbot, opened).plan and made.start == TODAY
    assert [one.path for one in made.before] == [str((demo / CLIP).with_suffix(".swing.json"))]
    press(qtbot, place, Qt.Key.Key_Z, CTRL)
    assert opened.practice.plan is None and kept(qtbot, opened).plan is None
    press(qtbot, place, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert kept(qtbot, opened).plan == made
    press(qtbot, opened, Qt.Key.Key_F2)
    assert opened.place is opened.bench and first.text_shown().startswith("In the plan: Turn inside the gate")


def test_sessions_are_checked_off_and_the_ladder_follows(qtbot, opened, demo, today):
    """Two that hold climb a rung; a missed one moves on; the check-in stays where it is."""
    place = on_plan(qtbot, opened)
    place._actions.begin()
    check_in = opened.practice.plan.check_in
    days = [c.day for c in place.calendar.cells if c.session is not None and c.isVisible()]
    for day, held in ((days[0], True), (days[1], True)):
        today[0] = day
        place.refresh()
        press(qtbot, place, Qt.Key.Key_F4)
        chooser = panel_of(opened, Chooser)
        assert any("pelvis shift no more than" in one.detail for one in chooser.choices)
        chooser.pick("Done, and it held" if held else "Done, it did not hold")
    assert [card.state for card in place.ladder.rungs[:2]] == ["held", "now"]
    assert cell_of(place, days[0]).session.state is State.DONE
    today[0] = days[3]
    place.refresh()
    assert cell_of(place, days[2]).session.state is State.MISSED
    assert opened.practice.plan.check_in == check_in and cell_of(place, check_in).film
    # Said wrongly: the day is opened again, and it is taken back.
    click(qtbot, cell_of(place, days[1]))
    panel_of(opened, Chooser).pick("Take it back")
    assert place.ladder.rungs[0].state == "now" and len(kept(qtbot, opened).plan.log) == 1


def test_a_swing_of_another_kind_gives_no_number_to_a_rung(qtbot, opened, today):
    """The demo's full swing is no rehearsal without a ball; as one, it is a number on that rung."""
    place = on_plan(qtbot, opened)
    place._actions.begin()
    chooser = place._actions.note_today()
    assert [one.enabled for one in chooser.choices if one.title.startswith("Filmed")] == [False]
    chooser.close()
    told = opened.practice.offer.now(opened.practice.plan)
    opened.practice.log(Practised(TODAY, Rung.NO_BALL, 12, value=told.value, sigma=told.sigma))
    assert place.ladder.rungs[0].state == "now −6.4 ± 0.7 cm, not past it"


def test_tokens_say_what_is_at_hand_and_the_drills_follow(qtbot, opened, demo):
    place = on_plan(qtbot, opened)
    click(qtbot, place.tokens.tokens["props"])
    panel_of(opened, Chooser).pick("wall")
    opened.findChildren(Chooser)[-1].close()
    assert kept(qtbot, opened).props == (Prop.WALL,)
    assert "Needs a stick" in place.cards.cards[-1]._why or any("Needs" in c._why for c in place.cards.cards)
    assert place.check_in.buttons["begin_plan"].isVisible() is (
        opened.practice.offer.proposal.chosen is not None
    )
    press(qtbot, place, Qt.Key.Key_Z, CTRL)
    assert kept(qtbot, opened).props is None
    opened.practice.flag(Flag.HIP, True)
    click(qtbot, next(card for card in place.cards.cards if card.key == "turn_inside_the_gate"))
    assert "which has to be spared" in place.how.text()
    entry = place.tokens.choose_minutes()
    entry.field.setValue(40)
    entry.accept()
    before = cell_words(place)
    assert kept(qtbot, opened).minutes == 40 and any("half swings 15" in words for words in before)
    chooser = place.tokens.choose_days()
    chooser.pick("Mon")
    assert 0 not in opened.practice.student.weekdays
    assert all(cell.day.weekday() != 0 for cell in place.calendar.cells if cell.session is not None)


def cell_words(place):
    return [cell._words for cell in place.calendar.cells if cell.session is not None]


def test_another_drill_is_read_about_and_taken(qtbot, opened, demo):
    opened.on_desk.set("See it", overrides=(Override("no_shift", ADDED, "late"),))
    qtbot.waitUntil(lambda: "no_shift" in opened.on_desk.numbers.reading.priority, timeout=PATIENCE_MS)
    place = on_plan(qtbot, opened)
    place._actions.begin()
    other = place.cards.cards[1]
    key = other.key
    click(qtbot, other)
    assert opened.practice.plan.drill != key and place.looked_at.drill.key == key
    click(qtbot, place.check_in.buttons["change_drill"])
    assert kept(qtbot, opened).plan.drill == key
    # A cell of the calendar is reached by arrows.
    enabled = [cell for cell in place.calendar.cells if cell.isEnabled() and cell.isVisible()]
    enabled[0].setFocus()
    press(qtbot, enabled[0], Qt.Key.Key_Down)
    assert QApplication.focusWidget() in place.calendar.cells
    place._actions.choose_end().pick("It holds")
    ended = kept(qtbot, opened)
    assert ended.plan is None and ended.plans[-1].ended == "held"
    # What was queued is what is looked at next.
    assert opened.practice.offer.proposal.finding.key == ended.plans[-1].queued[0].fault


def test_a_golfer_without_a_name_is_asked_for_one_first(qtbot, opened, demo, today):
    opened.on_desk.set("Name", golfer="")
    place = on_plan(qtbot, opened)
    opened.practice.set("Props", props=(Prop.STICK,))
    click(qtbot, place.check_in.buttons["begin_plan"])
    assert opened.practice.plan is None
    entry = panel_of(opened, Entry)
    assert isinstance(entry.field, QLineEdit)
    entry.field.setText("Ebba Quill")
    entry.accept()
    student = kept(qtbot, opened, "Ebba Quill")
    assert student.plan is not None and student.props == (Prop.STICK,)


def test_what_goes_out_lies_beside_the_clips(qtbot, opened, demo):
    place = on_plan(qtbot, opened)
    place._actions.save_calendar()
    place._actions.save_page()
    folder = demo / "kept"
    names = ("maren-tolhurst-iron plan.ics", "maren-tolhurst-iron plan.pdf")
    qtbot.waitUntil(lambda: all((folder / name).is_file() for name in names), timeout=PATIENCE_MS)
    calendar = Calendar.from_ical((folder / names[0]).read_bytes())
    assert len(calendar.walk("VEVENT")) > 8
    page = (folder / names[1]).read_bytes()
    assert page.startswith(b"%PDF") and page.rstrip().endswith(b"%%EOF")


def test_the_check_in_asks_the_swings_of_another_day(qtbot, opened, demo, today, tmp_path):
    """The plan is held against the same student's clip of another lesson, beside the desk."""
    place = on_plan(qtbot, opened)
    place._actions.begin()
    place._actions.ask()
    assert "Open a face-on full swing" in opened.status_bar.text()
    later = tmp_path / "2099-01-05"
    later.mkdir()
    for name in (CLIP, f"{CLIP}.evidence"):
        shutil.copy(demo / name, later / name)
    document = load_swing((demo / CLIP).with_suffix(".swing.json"))
    clip = msgspec.structs.replace(document.clip, path=str(later / CLIP))
    save_swing((later / CLIP).with_suffix(".swing.json"), document.given(clip=clip))
    made = opened.practice.plan
    told = ask(made, [(demo / CLIP).with_suffix(".swing.json")], [(later / CLIP).with_suffix(".swing.json")])
    assert told.answer.outcome is Outcome.FEW and told.stood and told.counts == (1, 1)
    place.show_answer(told)
    assert "film three a side" in place.check_in.text()
    nothing = ask(made, [tmp_path / "gone.swing.json"], [(demo / CLIP).with_suffix(".swing.json")])
    assert nothing.answer is None and "open it once" in nothing.reason
    early = ask(made, *[[(demo / CLIP).with_suffix(".swing.json")]] * 2)
    assert early.answer is None and "since the plan began" in early.reason


def test_an_answer_is_written_into_no_other_students_plan(qtbot, opened, demo, today, monkeypatch):
    """The check-in, and a cue's number, come while somebody else is on the desk."""
    place, gate, asked = on_plan(qtbot, opened), threading.Event(), []

    def call(function, *args, **more):
        asked.append(function.__name__)
        assert gate.wait(60)
        return AnswerTold(None, (1, 1), reason="late")

    monkeypatch.setattr(opened._context.beside, "call", call)
    place._actions.begin()
    maren = kept(qtbot, opened)
    opened.practice.beside = lambda: [demo / "other.swing.json"]
    place._actions.ask()
    cueing = opened.bench._actions._cueing
    cueing._take("Late", "", demo / "other.swing.json", maren.plan.fault, maren.plan.aim)
    qtbot.waitUntil(lambda: sorted(asked) == ["ask", "number_before"], timeout=PATIENCE_MS)
    opened.on_desk.set("Name", golfer="Ebba Quill")
    in_step(qtbot, opened)
    place._actions.begin()
    gate.set()
    qtbot.waitUntil(lambda: not place._actions._askers.busy and not cueing._askers.busy, timeout=PATIENCE_MS)
    ebba = kept(qtbot, opened, "Ebba Quill")
    assert (ebba.plan.after, ebba.tried, place.answer) == ((), (), None)
    assert kept(qtbot, opened).plan.after == () and not opened.jobs.running


def test_what_is_kept_is_metric_whatever_is_told(qtbot, opened, demo, monkeypatch):
    """With inches on, plan and ladder are kept in centimetres, said in inches, and ask the same."""
    monkeypatch.setitem(units._told, "cm", "cm")
    place = on_plan(qtbot, opened)
    opened.preferences.switch_inches()
    place._actions.begin()
    made = kept(qtbot, opened).plan
    assert made.aim.unit == "cm" and made.aim.start == pytest.approx(-6.4, abs=0.1)
    limit = made.aim.limit / 2.54
    assert (
        f"no more than {abs(limit):.1f} in away" in place.check_in.text()
        and " cm" not in place.check_in.text()
    )
    opened.go_to(opened.bench)
    ribbon = opened.bench.ribbon.grab().toImage()
    opened.preferences.switch_inches()
    assert opened.bench.ribbon.grab().toImage() != ribbon
    opened.go_to(opened.plan)
    assert f"no more than {abs(made.aim.limit):.1f} cm away" in place.check_in.text()
    told = opened.practice.offer.now(made)
    assert stands_at(made.aim, told.value, told.sigma) is RungHeld.NOT_HELD


def test_a_cue_is_held_against_the_swing_before(qtbot, opened, demo):
    """Two swings in one folder: the words, the number before and after, kept with student and swing."""
    earlier = Path(str(files("kneel.demo") / "data" / "2026-09-29"))
    for name in (CLIP, f"{CLIP}.evidence"):
        shutil.copy(earlier / name, demo / name.replace("iron", "iron2"))
    swing = load_swing((earlier / CLIP).with_suffix(".swing.json"))
    again = demo / CLIP.replace("iron", "iron2")
    clip = msgspec.structs.replace(swing.clip, path=str(again))
    save_swing(again.with_suffix(".swing.json"), swing.given(clip=clip))
    opened.bench._actions._cueing.ask()
    assert "a swing like it before it" in opened.status_bar.text()
    open_clip(qtbot, opened, again)
    qtbot.waitUntil(lambda: opened.on_desk.path == again.with_suffix(".swing.json"), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: again in [one.clip for one in opened.bench.rack.entries], timeout=PATIENCE_MS)
    press(qtbot, opened.bench.stage, Qt.Key.Key_U, CTRL)
    entry = panel_of(opened, Entry)
    entry.field.setText("Turn in a barrel")
    entry.accept()
    felt = panel_of(opened, Entry)
    assert "own words" in felt.field.accessibleName()
    felt.field.setText("as if nothing moved")
    felt.accept()
    qtbot.waitUntil(lambda: bool(opened.practice.student.tried), timeout=PATIENCE_MS)
    (cue,) = kept(qtbot, opened).tried
    assert (cue.words, cue.fault, cue.measure) == ("Turn in a barrel", "sway", "pelvis_shift")
    assert (cue.before, cue.after) == pytest.approx((-6.4, -6.8), abs=0.1)
    assert opened.on_desk.swing.ball.cue == "Turn in a barrel"
    assert "One swing each" in opened.status_bar.text() and "no clear move" in opened.status_bar.text()
    assert cue.felt == opened.on_desk.swing.ball.felt == "as if nothing moved"


def test_nothing_to_plan_for_says_so_and_lets_a_fault_be_chosen(qtbot, window, demo, today):
    assert on_plan(qtbot, window)._blank.isVisible() and "open one" in window.plan._empty.text()
    open_clip(qtbot, window, demo / "idris-vale-iron.mp4")
    qtbot.waitUntil(lambda: window.practice.offer.drills is not None, timeout=PATIENCE_MS)
    place = on_plan(qtbot, window) if window.place is not window.plan else window.plan
    qtbot.waitUntil(lambda: window.on_desk.numbers.reading is not None, timeout=PATIENCE_MS)
    place.refresh()
    assert "sure enough" in place._empty.text() and not place.calendar.isVisible()
    click(qtbot, place.other)
    panel_of(window, Chooser).pick("Sway")
    assert place.calendar.isVisible() and place.fault.text() == "Sway"


@pytest.mark.parametrize("long", [False, True], ids=["english", "longer"])
def test_no_word_of_the_plan_is_cut_off(qtbot, opened, demo, today, long):
    """Before it has begun and after, at three sizes, in words a third longer too."""
    with longer_words() if long else nullcontext():
        other = opened
        if long:
            other = Window(opened._look, opened._settings)
            qtbot.addWidget(other)
            other.show()
            open_clip(qtbot, other, demo / CLIP)
            qtbot.waitUntil(lambda: other.practice.offer.drills is not None, timeout=PATIENCE_MS)
        place = on_plan(qtbot, other)
        for begun in (False, True):
            if begun:
                place._actions.begin()
            for size in SIZES:
                other.resize(*size)
                # Labels that wrap take more than one turn to find their height.
                qtbot.waitUntil(lambda: cut_off(other) == [], timeout=PATIENCE_MS)
        other.close()


def test_a_record_that_cannot_be_read_is_written_over_by_nothing(qtbot, opened, demo):
    """It is said at once, and when something would have been kept; small letters are the same golfer."""
    opened.practice.set("Props", props=(Prop.STICK,))
    in_step(qtbot, opened)
    opened.on_desk.set("Name", golfer="maren tolhurst")
    in_step(qtbot, opened)
    assert opened.practice.student.props == (Prop.STICK,)
    opened.on_desk.set("Set club", club=Club.WEDGE)
    assert opened.practice.record.undoing.steps()[0] == "Props", "a step stays with its Book"
    opened.practice.set("Props", props=(Prop.WALL,))
    opened.on_desk.set("Set club", club=Club.IRON)
    assert opened.practice.record.undoing.steps()[0] == "Props"
    in_step(qtbot, opened)
    with opened.practice.record.records.books.open(Which.OWN).writing() as db:
        strange = msgspec.structs.replace(plan().aim, measure="yips")
        students.save(db, Student("Ebba Quill", plans=(msgspec.structs.replace(plan(), aim=strange),)), 0)
    opened.on_desk.set("Name", golfer="Ebba Quill")
    qtbot.waitUntil(lambda: not opened.practice.record.readable, timeout=PATIENCE_MS)
    assert "numbers that this Kneel does not know" in opened.status_bar.text()
    opened.practice.set("Props", props=(Prop.WALL,))
    qtbot.waitUntil(
        lambda: "wrote of Ebba Quill is kept here" in opened.status_bar.text(), timeout=PATIENCE_MS
    )
    book = open_book()
    with book.reading() as db, pytest.raises(BookError, match="yips"):
        students.named(db, "Ebba Quill")
    book.close()
