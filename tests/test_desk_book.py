"""The Book on the desk, driven with keys and clicks: found, written, undone."""

from __future__ import annotations

from contextlib import nullcontext
from dataclasses import replace as replace_dc
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog

from kneel.book import open_book
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
from kneel.desk.records import Which
from kneel.desk.shell.window import Window
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import SUFFIX
from kneel.judge import at_hand
from kneel.model import Flag
from tests.book_on_desk import CTRL, click, clip_of, in_book, lesson_in, read_again
from tests.clips import make, number_of
from tests.desk import PATIENCE_MS, in_step, open_clip, press
from tests.filed import DAYS, MAREN
from tests.test_bench import SIZES, cut_off, longer_words, panel_of
from tests.test_book import rows_of


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
