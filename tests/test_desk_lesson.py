"""A lesson on the desk opens with the last one, and what is done in it is filed."""

from __future__ import annotations

import datetime
import shutil
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent

from kneel.book.repository import lessons, students, swings
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.model import Flag, Hand, Root, Stature
from kneel.practice.carried import Carried, RootStage, carried
from kneel.speech.book import carried_sentence, still_work_on
from tests.book_on_desk import CTRL, click, clip_of, in_book, lesson_in
from tests.desk import PATIENCE_MS, in_step, open_clip, press, saved
from tests.filed import DAYS, DEMO, MAREN
from tests.test_bench import panel_of


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
