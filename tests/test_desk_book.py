"""The Book and the Hand-out on the desk, driven with keys and clicks: found, written, undone, carried."""

from __future__ import annotations

import datetime
import shutil
import threading
from contextlib import nullcontext
from dataclasses import replace as replace_dc
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pypdf
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QFileDialog

from kneel.book import Book, open_book
from kneel.book.index.versions import program_version
from kneel.book.repository import lessons, students, swings
from kneel.book.repository.records import Facts
from kneel.book.repository.swings import Versions
from kneel.book.sync.saving import save_student
from kneel.compare.difference import ChangeWord
from kneel.compare.trend import trend_of
from kneel.demo.place import demo_book, demo_lesson
from kneel.desk.places.book.axes import Axes
from kneel.desk.places.book.stills import _still as still_of
from kneel.desk.places.handout.beside import page_ready
from kneel.desk.records import Which
from kneel.desk.shell.window import Window
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.judge import at_hand
from kneel.model import Flag, Hand, Root, Stature, Student, UsageError
from kneel.practice.carried import Carried, RootStage, carried
from kneel.speech.book import carried_sentence, still_work_on
from tests.clips import make, number_of
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip, press, saved
from tests.filed import DAYS, DEMO, MAREN, filed_in
from tests.test_bench import SIZES, cut_off, longer_words, panel_of
from tests.test_book import rows_of

CTRL = Qt.KeyboardModifier.ControlModifier
TODAY = datetime.date(2026, 11, 27)


@pytest.fixture
def today(monkeypatch):
    monkeypatch.setattr("kneel.desk.records.practice.Practice.today", property(lambda self: TODAY))


@pytest.fixture
def book(tmp_path):
    """The user's Book with Maren's three lessons, and a second student."""
    made = open_book()
    filed_in(made, tmp_path / "range")
    with made.writing() as db:
        students.save(db, Student("Ebba Quill", goals="A draw"), 0)
        key = students.student_id(db, "Maren Tolhurst")
        for day, said in zip(DAYS, ("Old ankle sprain", "Feels on the lead side", ""), strict=True):
            lesson, revision = lessons.on_day(db, key, datetime.date.fromisoformat(day))
            lessons.save(db, replace(lesson, said=said), revision)
    yield made
    made.close()


@pytest.fixture
def on_book(qtbot, window, book, today):
    """The Book place on show, with a page read."""
    qtbot.waitUntil(window.isActiveWindow, timeout=PATIENCE_MS)
    press(qtbot, window, Qt.Key.Key_F7)
    assert window.place is window.book
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    return window.book


def clip_of(tmp_path, day=DAYS[2]):
    return tmp_path / "range" / day / CLIP


def click(qtbot, widget, at=None):
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at or widget.rect().center())


def in_book(book: Book, name="Maren Tolhurst"):
    with book.reading() as db:
        return students.named(db, name)[0]


def lesson_in(book: Book, day=DAYS[2]):
    with book.reading() as db:
        key = students.student_id(db, "Maren Tolhurst")
        return lessons.on_day(db, key, datetime.date.fromisoformat(day))[0]


def read_again(qtbot, window):
    """Wait until all is written, and the page on show is what the Book holds now."""
    in_step(qtbot, window)
    qtbot.wait(30)
    in_step(qtbot, window)


# The page of a student.


def turned(change):
    return replace_dc(change, before=change.after, after=change.before)


def test_the_page_shows_number_doubt_stills_and_words(qtbot, on_book):
    place = on_book
    assert place.name.text() == "Maren Tolhurst" and "Fat and thin" in place.complaint.text()
    trend = place.trend.trend
    assert (trend.measure, trend.at) == ("pelvis_shift", "top") and len(trend.line) == 3
    assert place.trend.words.claim()[0].endswith("since 4 Aug: within error"), (
        "two swings claim nothing of her"
    )
    assert trend.change.verdict is ChangeWord.ALIKE
    assert "−7.6 ± 0.8 cm" in place.trend.accessibleName() and place.trend.words.beside()[0].startswith(
        "cm, + is"
    )
    assert "worked on: sway" in place.lesson.facts_text().lower()
    # The band is the rule's own interval from a lesson: the first, or the one that is chosen.
    assert [found and round(found.detectable, 3) for _, found in trend.band] == [
        found and round(found.detectable, 3) for found in trend.against
    ]
    place._actions.hold_against()
    assert not place.student_page.since, "the newest is what the others lead to"
    place.student_page.show_lesson(trend.line[1].lesson)
    place._actions.table()["hold_against"]()
    qtbot.waitUntil(lambda: place.trend.trend.reference.lesson == trend.line[1].lesson, timeout=PATIENCE_MS)
    assert "since 29 Sep" in place.trend.words.claim()[0] and place.student_page.since
    place._actions.table()["hold_against"]()
    qtbot.waitUntil(lambda: "since 4 Aug" in place.trend.words.claim()[0], timeout=PATIENCE_MS)
    claimed = replace_dc(trend.change, verdict=ChangeWord.CHANGED)
    for change, word, colour in ((claimed, "better", "clear"), (turned(claimed), "worse", "fault")):
        place.trend.trend = replace_dc(trend, against=(*trend.against[:-1], change))
        assert place.trend.words.claim()[0].endswith(word) and place.trend.words.claim()[1] == colour
    place.trend.trend = trend
    qtbot.waitUntil(lambda: len(place.stills.found) == 3, timeout=PATIENCE_MS)
    stills = [place.stills.found[k] for k in range(3)]
    anew = replace_dc(trend, points=tuple(replace_dc(one, value=one.value + 0.001) for one in trend.line))
    place.stills.show_points(place.stills._which, anew, "")
    assert [place.stills.found[k] for k in range(3)] == stills, "a number alone was told anew"
    qtbot.waitUntil(
        lambda: all(place.stills.found[k] is not stills[k] for k in range(3)), timeout=PATIENCE_MS
    )
    place.stills.show_points(place.stills._which, replace_dc(trend, at="impact"), "")
    assert not place.stills.found, "another moment is another picture"
    place.stills.show_points(place.stills._which, trend, "")
    qtbot.waitUntil(lambda: len(place.stills.found) == 3, timeout=PATIENCE_MS)
    stills = [place.stills.found[k] for k in range(3)]
    before = [still.image.copy() for still in stills]
    assert len({still.cm_per_px for still in stills}) >= 1 and all(still.middle for still in stills)
    place.stills.setFocus()
    press(qtbot, place.stills, Qt.Key.Key_Right)
    qtbot.waitUntil(
        lambda: all(place.stills.found[k] is not stills[k] for k in range(3)), timeout=PATIENCE_MS
    )
    assert all(place.stills.found[k].image != before[k] for k in range(3)), "all step together"
    press(qtbot, place.stills, Qt.Key.Key_Home)
    assert place.stills.offset_s == 0.0


def test_a_point_a_still_and_a_sentence_lead_to_their_lesson(qtbot, on_book):
    place = on_book
    axes: Axes = place.trend.axes()
    first = place.trend.trend.line[0]
    click(qtbot, place.trend, axes.at(first.day, first.value).toPoint())
    assert place.lesson._title.text() == "Lesson of 4 August"
    assert place.lesson.words.toPlainText() == "Old ankle sprain"
    boxes = place.stills.boxes()
    click(qtbot, place.stills, boxes[1].center().toPoint())
    assert place.lesson._title.text() == "Lesson of 29 September"
    wanted = []
    place.lesson_wanted.connect(wanted.append)
    click(qtbot, place.lesson.open)
    qtbot.waitUntil(lambda: bool(wanted), timeout=PATIENCE_MS)
    assert wanted == [
        clip_of(Path(first.swings[0].document).parents[2], DAYS[1]).with_name(f"{MAREN}{SUFFIX}")
    ] or (wanted[0].parent.name == DAYS[1])


def test_students_are_found_by_any_word_and_lessons_opened(qtbot, window, on_book):
    place = on_book
    press(qtbot, window, Qt.Key.Key_B, CTRL)
    qtbot.keyClicks(place.people.line, "ankle sway")
    qtbot.waitUntil(
        lambda: [one.name for one in place.student_page.students] == ["Maren Tolhurst"], timeout=PATIENCE_MS
    )
    place.people.line.setText("draw")
    qtbot.waitUntil(
        lambda: [one.name for one in place.student_page.students] == ["Ebba Quill"], timeout=PATIENCE_MS
    )
    place.people.line.clear()
    qtbot.waitUntil(lambda: len(place.student_page.students) == 2, timeout=PATIENCE_MS)
    place.people.list.setFocus()
    press(qtbot, place.people.list, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Ebba Quill", timeout=PATIENCE_MS)
    assert "No lesson yet" in place.trend.nothing and not place.stills.isVisible()
    press(qtbot, place.people.list, Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Maren Tolhurst", timeout=PATIENCE_MS)
    press(qtbot, place.people.list, Qt.Key.Key_F9)
    qtbot.waitUntil(lambda: window.place is window.bench, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    assert window.on_desk.swing.golfer == "Maren Tolhurst"


def test_what_is_written_is_kept_and_taken_back(qtbot, window, on_book, book):
    place = on_book
    place.lesson.words.setFocus()
    qtbot.keyClicks(place.lesson.words, "Trail toe out")
    place.lesson.words.keep()
    in_step(qtbot, window)
    assert lesson_in(book).said == "Trail toe out"
    read_again(qtbot, window)
    place.words.notes.setPlainText("Back stiff in the mornings")
    place.words.notes.keep()
    in_step(qtbot, window)
    assert in_book(book).notes == "Back stiff in the mornings"
    read_again(qtbot, window)
    place.facts._choose_several("flags", Flag, none=False).pick("back")
    in_step(qtbot, window)
    assert in_book(book).flags == (Flag.BACK,)
    read_again(qtbot, window)
    entry = place.facts._type("stature_cm", (170, 80, 250, 1), "cm")
    entry.field.setValue(171.5)
    entry.accept()
    in_step(qtbot, window)
    assert in_book(book).stature_cm == 171.5
    read_again(qtbot, window)
    for _ in range(3):
        press(qtbot, window, Qt.Key.Key_Z, CTRL)
        read_again(qtbot, window)
    in_step(qtbot, window)
    assert (in_book(book).notes, in_book(book).flags) == ("", ())
    in_step(qtbot, window)
    assert lesson_in(book).said == "Trail toe out"
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    in_step(qtbot, window)
    assert lesson_in(book).said == ""
    read_again(qtbot, window)
    press(qtbot, window, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    in_step(qtbot, window)
    assert lesson_in(book).said == "Trail toe out"


def test_what_is_typed_belongs_to_whom_it_was_typed_for(qtbot, window, on_book, book):
    """Another page comes on show while the hands are at it: nothing is lost or goes to another."""
    place = on_book
    place.words.notes.setFocus()
    qtbot.keyClicks(place.words.notes, "Maren only")
    place.lesson.words.setPlainText("Said to Maren")
    place.student_page.show_student(in_book(book, "Ebba Quill").id)
    qtbot.waitUntil(lambda: place.name.text() == "Ebba Quill", timeout=PATIENCE_MS)
    place.words.notes.keep()
    in_step(qtbot, window)
    assert (in_book(book).notes, in_book(book, "Ebba Quill").notes) == ("Maren only", "")
    assert place.words.notes.toPlainText() == "" and lesson_in(book).said == "Said to Maren"


def test_a_student_is_written_down_renamed_archived_deleted_and_brought_back(
    qtbot, window, on_book, book, tmp_path
):
    place = on_book
    click(qtbot, place.people.new)
    entry = panel_of(window, Entry)
    entry.field.setText("Ida  Fenn")
    entry.accept()
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Ida Fenn", timeout=PATIENCE_MS)
    click(qtbot, place.name)
    entry = panel_of(window, Entry)
    entry.field.setText("Maren Tolhurst")
    entry.accept()
    qtbot.waitUntil(lambda: "already" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert place.name.text() == "Ida Fenn" and place.steps()[0] == "New student"
    assert in_book(book, "Ida Fenn").id
    place.student_page.show_student(in_book(book).id)
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Maren Tolhurst", timeout=PATIENCE_MS)
    place._actions.archive()
    qtbot.waitUntil(lambda: len(place.student_page.students) == 2, timeout=PATIENCE_MS)
    place.undo()
    qtbot.waitUntil(lambda: len(place.student_page.students) == 3, timeout=PATIENCE_MS)
    place.student_page.show_student(in_book(book).id)
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Maren Tolhurst", timeout=PATIENCE_MS)
    place._actions.delete_student()
    left = panel_of(window, Chooser)
    assert "stay where they are" in left.accessibleName() or left.isVisible()
    left.close()
    in_step(qtbot, window)
    assert not in_book(book).id
    place.undo()
    in_step(qtbot, window)
    assert in_book(book).id and lesson_in(book).root.fault == "sway"
    place.redo()
    in_step(qtbot, window)
    window.close()
    document = clip_of(tmp_path).with_name(f"{MAREN}{SUFFIX}")
    assert not document.exists() and clip_of(tmp_path).exists(), "closing purges; clips outside stay"
    with book.reading() as db:
        assert [one.name for one in students.listed(db)] == ["Ebba Quill", "Ida Fenn"]


def test_what_another_desk_changed_is_told_and_ours_can_be_taken(qtbot, window, on_book, book):
    place = on_book
    page = place.student_page.page
    save_student(
        book, page.student, replace(page.student, minutes=30, goals="From the other desk"), page.revision
    )
    place.student_page.set_student("Change", minutes=45, notes="Mine")
    qtbot.waitUntil(lambda: "changed at another desk" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert (in_book(book).minutes, in_book(book).goals, in_book(book).notes) == (
        30,
        "From the other desk",
        "Mine",
    )
    qtbot.waitUntil(place.declined.isVisible, timeout=PATIENCE_MS)
    place._actions.look_at_declined().pick("Take yours: minutes")
    qtbot.waitUntil(lambda: in_book(book).minutes == 45, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not place.declined.isVisible(), timeout=PATIENCE_MS)


def test_numbers_of_an_older_version_are_made_anew_when_the_trend_is_opened(qtbot, window, book, today):
    with book.writing() as db:
        key = students.student_id(db, "Maren Tolhurst")
        for one in rows_of(db, key, ("pelvis_shift", "top"))[:2]:
            from dataclasses import replace as again

            swings.put(db, one.lesson, again(one, versions=Versions("0.0", "old")))
    press(qtbot, window, Qt.Key.Key_F7)
    place = window.book
    qtbot.waitUntil(
        lambda: place.student_page.page is not None and place.student_page.page.trend is not None,
        timeout=PATIENCE_MS,
    )
    qtbot.waitUntil(lambda: not place.student_page.page.stale, timeout=PATIENCE_MS)
    assert len(place.student_page.page.trend.line) == 3


def test_a_lesson_can_be_sent_taken_in_and_the_book_copied(
    qtbot, window, on_book, book, tmp_path, monkeypatch
):
    place = on_book
    place.moving.export(Which.OWN, place.student_page.student, tmp_path / "out")
    qtbot.waitUntil(lambda: "All of it lies in" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert len(list((tmp_path / "out").glob("maren-tolhurst-*/student.kneel.json"))) == 1
    place.moving.take_in(Which.OWN, tmp_path / "out")
    qtbot.waitUntil(lambda: "3 lessons, 3 swings taken in" in window.status_bar.text(), timeout=PATIENCE_MS)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "copy.sqlite"), ""))
    place._actions.copy()
    qtbot.waitUntil(lambda: "read back" in window.status_bar.text(), timeout=PATIENCE_MS)
    (tmp_path / "copy.sqlite").write_bytes(b"x")
    place.moving.take_in(Which.OWN, tmp_path / "copy.sqlite")
    qtbot.waitUntil(lambda: "no zip" in window.status_bar.text(), timeout=PATIENCE_MS)


@pytest.mark.parametrize("long", [False, True], ids=["english", "longer"])
def test_no_word_of_book_and_hand_out_is_cut_off(qtbot, window, book, today, long, tmp_path):
    """At three sizes, in words a third longer too."""
    with longer_words() if long else nullcontext():
        other = window
        if long:
            other = Window(window._look, window._settings)
            qtbot.addWidget(other)
            other.show()
        open_clip(qtbot, other, clip_of(tmp_path))
        for place in (other.book, other.handout):
            other.go_to(place)
            page = other.book
            qtbot.waitUntil(lambda page=page: page.student_page.page is not None, timeout=PATIENCE_MS)
            qtbot.waitUntil(lambda page=page: len(page.stills.found) == 3, timeout=PATIENCE_MS)
            for size in SIZES:
                other.resize(*size)
                qtbot.waitUntil(lambda: cut_off(other) == [], timeout=PATIENCE_MS)
        other.close()


# A lesson opens with the last one.


def test_a_lesson_opens_with_what_the_last_one_left(qtbot, window, book, today, tmp_path):
    """Root, number then and now, drill, words; another root only once that is given up, and that is kept."""
    open_clip(qtbot, window, clip_of(tmp_path))
    last = window.bench.reading.last
    qtbot.waitUntil(
        lambda: window.practice.last.carried is not None and last.isVisible(), timeout=PATIENCE_MS
    )
    assert last.text_shown() == "Last time, 29 Sep: sway −6.2 → −5.9 cm, within error ▾"
    click(qtbot, last.line)
    said = last.text_shown()
    assert (
        said.startswith("Last time, 29 Sep: sway")
        and "−6.2 ± 0.7 cm, now −5.9 ± 0.7 cm (within error)" in said
    )
    assert "no more than 1.4 cm away from the target" in said and "“Feels on the lead side”" in said
    assert window.bench.reading.head.words.text().startswith("Still work on: sway")
    assert window.practice.offer.proposal.finding.key == "sway"
    click(qtbot, last.give_up)
    entry = panel_of(window, Entry)
    entry.field.setText("She has a bad hip")
    entry.accept()
    in_step(qtbot, window)
    assert lesson_in(book, DAYS[1]).root.given_up == "She has a bad hip"
    assert "given up (She has a bad hip)" in last.text_shown() and not last.give_up.isVisible()
    assert window.bench.reading.head.words.text().startswith("Work on first: sway")
    click(qtbot, last.book)
    assert window.place is window.book


def test_the_first_lesson_of_a_student_has_none_before_it(qtbot, window, book, today, tmp_path):
    open_clip(qtbot, window, clip_of(tmp_path, DAYS[0]))
    qtbot.waitUntil(lambda: window.practice.student.name == "Maren Tolhurst", timeout=PATIENCE_MS)
    assert not window.bench.reading.last.isVisible() and window.practice.last.known is None


@pytest.mark.parametrize(
    ("limit", "stage"),
    [(-8.0, RootStage.HELD), (-6.0, RootStage.OPEN), (-1.5, RootStage.OPEN), (None, RootStage.OPEN)],
)
def test_a_root_binds_until_it_is_inside_by_more_than_its_error(tmp_path, limit, stage):
    """Swing told as −5.9 ± 0.7 cm: inside −6.0 by less than its error, inside −8.0 by more."""
    from kneel.evidence.kept import kept_swing
    from kneel.judge.numbers import OfSwing

    numbers = OfSwing(kept_swing(DEMO / DAYS[2] / f"{MAREN}{SUFFIX}").study)
    root = Root("sway", "fault", "pelvis_shift", "top", "cm", -7.6, 0.7, limit, "up")
    found = carried(root, numbers)
    assert found.stage is stage and found.binds is (stage is RootStage.OPEN)
    assert "now −5.9 ± 0.7 cm" in carried_sentence(found)
    assert carried(replace(root, measure="pelvis_thrust"), numbers).stage is RootStage.UNTOLD
    assert not Carried(replace(root, verdict="watch"), RootStage.OPEN).binds, "a watch binds nobody"
    assert "sway" in still_work_on(found)


def test_a_swing_is_filed_once_it_is_named_and_takes_what_the_book_knows(
    qtbot, window, book, today, tmp_path
):
    """A clip from the student's own telephone: stature, hand and school come from the Book."""
    with book.writing() as db:
        student, revision = students.named(db, "Ebba Quill")
        known = replace(student, stature_cm=181.5, hand=Hand.LEFT, school="loading")
        students.save(db, known, revision)
    window.filing._soon.setInterval(200)
    phone = tmp_path / "2026-11-20"
    phone.mkdir()
    for ending in ("", ".evidence"):
        shutil.copy(f"{clip_of(tmp_path)}{ending}", phone / f"phone.mp4{ending}")
    marked = load_swing(clip_of(tmp_path).with_name(f"{MAREN}{SUFFIX}"))
    open_clip(qtbot, window, phone / "phone.mp4")
    assert "scale" in window.on_desk.swing.guessed
    window.on_desk.set("Name the student", golfer="ebba quill")
    qtbot.waitUntil(lambda: window.on_desk.swing.scale == Stature(181.5), timeout=PATIENCE_MS)
    assert (window.on_desk.swing.hand, window.on_desk.swing.school) == (Hand.LEFT, "loading")
    assert "scale" not in window.on_desk.swing.guessed
    window.on_desk.set("Marks", marks=marked.marks)
    saved(qtbot, window.on_desk)
    qtbot.waitUntil(lambda: window.filing.last is not None, timeout=PATIENCE_MS)
    with book.reading() as db:
        ((lesson, _),) = lessons.of_student(db, in_book(book, "Ebba Quill").id)
        (row,) = swings.of_lesson(db, lesson.id)
    assert lesson.day == datetime.date(2026, 11, 20) and row.clip == phone / "phone.mp4"


def test_what_the_ball_did_is_noted_and_found(qtbot, window, book, today, tmp_path):
    open_clip(qtbot, window, clip_of(tmp_path))
    press(qtbot, window.bench.stage, Qt.Key.Key_J, CTRL)
    panel_of(window, Chooser).pick("Struck: fat")
    panel_of(window, Chooser).pick("Starts: left")
    panel_of(window, Chooser).close()
    ball = window.on_desk.swing.ball
    assert (ball.strike, ball.start, ball.curve) == ("fat", "left", "")
    saved(qtbot, window.on_desk)
    window.filing.file_now()
    qtbot.waitUntil(lambda: window.filing.last is not None, timeout=PATIENCE_MS)
    with book.reading() as db:
        assert [one.name for one in students.listed(db, "left fat")] == ["Maren Tolhurst"]
    window.on_desk.document.undo()
    assert window.on_desk.swing.ball.start == ""


def test_what_the_book_says_of_a_student_is_known_on_the_plan(qtbot, window, book, today, tmp_path):
    """And back: one record, whichever place writes it."""
    open_clip(qtbot, window, clip_of(tmp_path))
    window.go_to(window.book)
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    window.book.facts._choose_several("flags", Flag, none=False).pick("hip")
    assert window.practice.student.flags == (Flag.HIP,), "at once, whichever place wrote it"
    window.practice.set("Minutes", minutes=40)
    assert window.practice.record.undoing.steps()[0] == "Minutes"
    qtbot.waitUntil(lambda: window.book.student_page.page.student.minutes == 40, timeout=PATIENCE_MS)
    window.practice.record.undoing.undo()
    in_step(qtbot, window)
    assert in_book(book).minutes == 15 and in_book(book).flags == (Flag.HIP,)


def test_clips_dropped_on_a_page_are_of_that_student(qtbot, window, on_book, tmp_path):
    place = on_book
    place.student_page.show_student(
        next(one.id for one in place.student_page.students if one.name == "Ebba Quill")
    )
    qtbot.waitUntil(lambda: place.student_page.page.student.name == "Ebba Quill", timeout=PATIENCE_MS)
    (tmp_path / "new").mkdir()
    clip = Path(shutil.copy(clip_of(tmp_path), tmp_path / "new" / "a.mp4"))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(clip))])
    action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    event = QDropEvent(QPointF(600, 300), action, data, button, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)
    assert window.place is window.bench
    qtbot.waitUntil(lambda: window.on_desk.swing.golfer == "Ebba Quill", timeout=PATIENCE_MS)


# What goes home.


def test_the_page_is_seen_before_it_goes_and_the_lesson_knows_it_went(qtbot, window, book, today, tmp_path):
    open_clip(qtbot, window, clip_of(tmp_path))
    press(qtbot, window, Qt.Key.Key_F12)
    place = window.handout
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)
    assert place.sheets.count == 1 and place.made.fault == "sway"
    place.sheets.grab()
    qtbot.keyClicks(place.academy, "Saltmarsh Links")
    place.note.setText("Slowly")
    before = place.made
    place._typed()
    qtbot.waitUntil(lambda: place.made is not before, timeout=PATIENCE_MS)
    place.buttons["save_pdf"].setFocus()
    press(qtbot, place.buttons["save_pdf"], Qt.Key.Key_P, CTRL)
    target = clip_of(tmp_path).parent / "kept" / f"{MAREN} page.pdf"
    qtbot.waitUntil(lambda: "Saved as" in window.status_bar.text(), timeout=PATIENCE_MS)
    text = pypdf.PdfReader(target).pages[0].extract_text()
    assert "Saltmarsh Links" in text and "Slowly" in text
    assert [(one.what, one.name) for one in lesson_in(book).handed] == [("page", target.name)]
    assert target.stat().st_mode & 0o077 == 0
    place._actions.choose_fault().pick("Slide")
    qtbot.waitUntil(lambda: place.made is not None and place.made.fault == "slide", timeout=PATIENCE_MS)


def test_a_page_is_saved_for_nobody_it_was_not_made_for(qtbot, window, book, today, tmp_path, monkeypatch):
    """Another name, or Stop, while a page is made: what is on show is said, and nothing goes out."""
    open_clip(qtbot, window, clip_of(tmp_path))
    in_step(qtbot, window)
    window.go_to(window.handout)
    place, real, gate = window.handout, window._context.beside.call, threading.Event()
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)

    def late(*args, **more):
        gate.wait(60)
        return real(*args, **more)

    monkeypatch.setattr(window._context.beside, "call", late)
    window.on_desk.set("Name", golfer="Ebba Quill")
    assert place.made is None
    place._actions.save_pdf()
    assert not place._actions._writers.busy
    qtbot.waitUntil(lambda: place._makers.busy, timeout=PATIENCE_MS)
    assert "is being made" in place.sheets.words
    window.jobs.stop()
    assert "was not made" in place.sheets.words and not place.buttons["save_pdf"].isEnabled()
    gate.set()
    place.refresh()
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)
    assert "Ebba Quill" in place.made.html and "Maren" not in place.made.html


def test_without_a_swing_the_hand_out_says_what_to_do(qtbot, window):
    press(qtbot, window, Qt.Key.Key_F12)
    qtbot.waitUntil(
        lambda: "open one on the Bench" in window.handout.sheets.accessibleName(), timeout=PATIENCE_MS
    )
    assert not window.handout.buttons["save_pdf"].isEnabled()


def test_what_lays_out_a_page_is_loaded_once_and_only_while_nobody_waits(qtbot, window, demo, monkeypatch):
    asked, loads, ready = [], {"busy": True}, window.handout.ready
    monkeypatch.setattr(window._context.beside, "call", lambda work, **more: asked.append(work))
    monkeypatch.setattr(type(window.on_desk.gathering), "busy", property(lambda self: loads["busy"]))
    ready._still.setInterval(0)
    open_clip(qtbot, window, demo / CLIP)
    qtbot.wait(50)
    assert not asked and ready._still.isActive()
    loads["busy"] = False
    qtbot.waitUntil(lambda: bool(asked), timeout=PATIENCE_MS)
    window.on_desk.set("Set scale", scale=Stature(170.0))
    qtbot.wait(50)
    assert asked == [page_ready] and not ready._still.isActive()

    def without_pango(html):
        raise UsageError("A PDF needs the system library Pango.")

    monkeypatch.setattr("kneel.handout.page.pdf_of", without_pango)
    assert page_ready() is None


def test_stills_step_in_seconds_of_the_swing(tmp_path, monkeypatch):
    """Of a clip filmed at 240 and stored at 30 frames a second a sixtieth of a second is four frames."""
    clip = make(tmp_path / "slow.mp4", [round(k * 1000 / 30) for k in range(120)])
    monkeypatch.setattr("kneel.desk.places.book.stills.find_clip", lambda book, one: clip)
    for rate, steps in ((240.0, 4), (None, 0.5)):
        row = SimpleNamespace(facts=Facts(moments={"top": 60}, rate=rate))
        shown = []
        for offset in (0.0, 2 / 60):
            image = still_of(None, row, "top", offset).image
            bits = image.constBits().asstring(image.sizeInBytes())
            pixels = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
            shown.append(number_of(pixels[:, : image.width(), :3]))
        assert shown == [60, 60 + 2 * steps]


# The demo.


def test_the_demos_book_is_of_this_version_and_apart_from_the_users_own(qtbot):
    """Shipped numbers are those of this program: ``python -m kneel.demo --booked`` makes them anew."""
    first = demo_lesson()
    demo, own = demo_book(), open_book()
    with demo.reading() as db, own.reading() as mine:
        listed = students.listed(db)
        assert len(listed) == 7 and students.listed(mine) == []
        rows = [row for one in listed for row in swings.of_student(db, one.id)]
        assert {row.versions.program for row in rows} == {program_version()}
        assert all(row.document.is_file() and row.clip.is_file() for row in rows)
        maren = students.named(db, "Maren Tolhurst")[0]
        row = next(r for r in rows_of(db, maren.id, ("pelvis_shift", "top")) if r.clip == first)
        trend = trend_of([row], "pelvis_shift", "top", maren, at_hand()[0], program_version())
        assert trend.line[0].value == pytest.approx(-5.88, abs=0.02)
        assert maren.plan is not None and len(maren.plan.log) >= 3
        said = [one.said for key in listed for one, _ in lessons.of_student(db, key.id)]
        assert len(said) == 18 and all(said)
    demo.close()
    own.close()
