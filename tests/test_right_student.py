"""Whom the desk means: named in the menu, gone to first, undone everywhere; names, drops, two made one."""

from __future__ import annotations

import datetime

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from sqlalchemy import select

from kneel.book.db import tables
from kneel.book.db.tables import metadata
from kneel.book.maintenance import purge
from kneel.book.repository import lessons, students, swings
from kneel.book.sync.uniting import part, unite
from kneel.desk.records import Which
from kneel.desk.records.sides import ask
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.finding import documents_of
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.model import Flag, Hand, Kind, Stature, UsageError
from tests.book_on_desk import CTRL, clip_of, in_book, lesson_in, read_again
from tests.clips import STEADY, make
from tests.desk import PATIENCE_MS, in_step, open_clip, press
from tests.filed import DAYS, DEMO, MAREN
from tests.test_bench import panel_of
from tests.test_book import plan_of_shift


def all_rows(made):
    """Everything in a Book but how often it was written."""
    with made.reading() as db:
        found = {}
        for table in metadata.sorted_tables:
            rows = [dict(row) for row in db.execute(select(table)).mappings()]
            found[table.name] = sorted(
                repr(sorted((k, v) for k, v in row.items() if k not in ("revision", "words"))) for row in rows
            )
        return found


def test_two_students_are_made_one_and_parted_again(book):
    """Lessons of one day become one, every name leads to who stays; parted, all is as it was."""
    day = datetime.date.fromisoformat(DAYS[1])
    with book.writing() as db:
        other, revision = students.named(db, "Ebba Quill")
        other = replace(other, hand=Hand.LEFT, flags=(Flag.KNEE,), notes="Slow", stature_cm=171.0)
        students.save(db, other, revision)
        maren = students.student_id(db, "Maren Tolhurst")
        for of, said in ((day, "Late bus"), (day + datetime.timedelta(1), "Alone")):
            lesson, at = lessons.on_day(db, other.id, of)
            lessons.save(db, replace(lesson, said=said), at)
    before = all_rows(book)
    with book.writing() as db:
        with pytest.raises(UsageError):
            unite(db, maren, maren)
        made = unite(db, maren, other.id)
    with book.reading() as db:
        one, _ = students.named(db, "Ebba Quill")
        assert one.id == maren and one.name == "Maren Tolhurst" and one.flags == (Flag.KNEE,)
        # What was said of who stays stands; what nobody had said of her comes along.
        assert one.goals == "A draw" and "Slow" in one.notes
        held = [lesson for lesson, _ in lessons.of_student(db, maren)]
        assert len(held) == 4 and len(swings.of_student(db, maren)) == 3
        assert "Late bus" in lessons.on_day(db, maren, day)[0].said
        assert "Feels on the lead side" in lessons.on_day(db, maren, day)[0].said
    with book.writing() as db:
        noted, revision = students.load(db, maren)
        students.save(db, replace(noted, minutes=25), revision)
        part(db, made)
    after = all_rows(book)
    assert in_book(book).minutes == 25
    with book.writing() as db:
        noted, revision = students.load(db, maren)
        students.save(db, replace(noted, minutes=15), revision)
    assert all_rows(book) == before != after


def test_the_menu_names_whom_it_means_and_goes_there_first(qtbot, window, book, today, tmp_path):
    """From the Bench it means the golfer on the desk, not whose page was read last; undone from the Bench."""
    window.go_to(window.book)
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    window.book.student_page.show_student(in_book(book, "Ebba Quill").id)
    qtbot.waitUntil(lambda: window.book.student_name == "Ebba Quill", timeout=PATIENCE_MS)
    actions = window.actions_by_key
    assert actions["delete_student"].text() == "Delete Ebba Quill"
    assert not actions["delete_lesson"].isEnabled()
    window.go_to(window.bench)
    open_clip(qtbot, window, clip_of(tmp_path))
    in_step(qtbot, window)
    assert actions["delete_student"].text() == "Delete Maren Tolhurst"
    assert actions["delete_lesson"].text() == "Delete the lesson of Maren Tolhurst, 3 Nov"
    actions["delete_lesson"].trigger()
    qtbot.waitUntil(lambda: lesson_in(book).id == "", timeout=PATIENCE_MS)
    assert window.place is window.book and window.book.student_name == "Maren Tolhurst"
    assert in_book(book, "Ebba Quill").id and lesson_in(book, DAYS[1]).id
    window.go_to(window.bench)
    in_step(qtbot, window)
    assert "Delete the lesson".lower() in actions["undo"].text()
    press(qtbot, window.bench.stage, Qt.Key.Key_Z, CTRL)
    qtbot.waitUntil(lambda: bool(lesson_in(book).id), timeout=PATIENCE_MS)
    # A mark set since is the last step, and taken back before anything of the Book.
    window.practice.set("Write", goals="Draw")
    window.on_desk.document.place("left_hip", 3, 10.0, 10.0)
    press(qtbot, window.bench.stage, Qt.Key.Key_Z, CTRL)
    assert not [m for m in window.on_desk.swing.marks if (m.point, m.frame) == ("left_hip", 3)]
    assert window.practice.student.goals == "Draw"
    window.go_to(window.handout)
    in_step(qtbot, window)
    assert window.actions_by_key["undo"].isEnabled()
    press(qtbot, window.handout, Qt.Key.Key_Z, CTRL)
    assert window.practice.student.goals != "Draw"


def test_what_was_asked_of_somebody_who_is_gone_is_done_to_nobody(qtbot, window, book, today, tmp_path):
    """Deleted at another desk meanwhile: neither whoever is shown instead is deleted, nor anybody later."""
    open_clip(qtbot, window, clip_of(tmp_path))
    in_step(qtbot, window)
    with book.writing() as db:
        purge.hide(db, "student", students.student_id(db, "Maren Tolhurst"), "another")
    window.actions_by_key["delete_student"].trigger()
    qtbot.waitUntil(lambda: window.book.student_name == "Ebba Quill", timeout=PATIENCE_MS)
    in_step(qtbot, window)
    with book.writing() as db:
        key = students.named(db, "Ebba Quill")[0].id
        assert key
        lost = db.execute(
            select(tables.students.c.id).where(tables.students.c.name == "Maren Tolhurst")
        ).scalar()
        purge.show(db, "student", lost)
    window.book.student_page.show_student(lost)
    qtbot.waitUntil(lambda: window.book.student_name == "Maren Tolhurst", timeout=PATIENCE_MS)
    in_step(qtbot, window)
    assert in_book(book).id and in_book(book, "Ebba Quill").id == key


def test_two_are_made_one_from_the_menu(qtbot, window, on_book, book):
    assert on_book.student_name == "Maren Tolhurst"
    window.actions_by_key["join_students"].trigger()
    qtbot.waitUntil(lambda: any(c.isVisible() for c in window.findChildren(Chooser)), timeout=PATIENCE_MS)
    panel_of(window, Chooser).pick("Ebba Quill")
    read_again(qtbot, window)
    assert in_book(book, "Ebba Quill").name == "Maren Tolhurst"
    assert "A draw" in on_book.complaint.text()
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    read_again(qtbot, window)
    assert in_book(book, "Ebba Quill").name == "Ebba Quill" and in_book(book).goals == ""


def test_the_demo_is_labelled_and_who_is_new_is_in_the_real_book(qtbot, window, book, today, tmp_path):
    window.opener.open_demo()
    qtbot.waitUntil(lambda: window.practice.record.which is Which.DEMO, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: bool(window.practice.record.key), timeout=PATIENCE_MS)
    for place in window.places:
        window.go_to(place)
        if place is window.book:
            qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
        assert window.frame.demo.isVisible(), place.title
    window.go_to(window.book)
    qtbot.mouseClick(window.book.people.new, Qt.MouseButton.LeftButton)
    entry = panel_of(window, Entry)
    qtbot.keyClicks(entry.field, "Nils Amsel")
    qtbot.keyClick(entry.field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.book.student_name == "Nils Amsel", timeout=PATIENCE_MS)
    assert window.book.student_page.which is Which.OWN and not window.frame.demo.isVisible()
    assert in_book(book, "Nils Amsel").id
    qtbot.mouseClick(window.book.people.other, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(window.frame.demo.isVisible, timeout=PATIENCE_MS)
    # Nobody's own clip is of somebody made up.
    own = make(tmp_path / "own.mp4", STEADY[:20])
    drop(window, [own])
    qtbot.waitUntil(lambda: window.on_desk.store.info.path == own, timeout=PATIENCE_MS)
    assert window.on_desk.swing.golfer == "" and not window.frame.demo.isVisible()


def drop(window, files):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in files])
    window.dropEvent(
        QDropEvent(
            QPointF(9, 9),
            Qt.DropAction.CopyAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )


def test_clips_dropped_on_a_page_are_hers(qtbot, window, on_book, tmp_path):
    folder = tmp_path / "dropped"
    folder.mkdir()
    clips = [make(folder / f"{name}.mp4", STEADY[: 20 + k]) for k, name in enumerate(("a", "b", "c"))]
    assert on_book.student_name == "Maren Tolhurst"
    drop(window, clips)
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    assert window.place is window.bench and window.on_desk.swing.golfer == "Maren Tolhurst"
    for clip in clips:
        (document,) = documents_of(clip)
        assert load_swing(document).golfer == "Maren Tolhurst"
    later = make(folder / "later.mp4", STEADY[:30])
    open_clip(qtbot, window, later)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path == later, timeout=PATIENCE_MS)
    assert window.on_desk.swing.golfer == ""


def test_naming_one_swing_of_a_drop_names_all_of_it(qtbot, window, tmp_path):
    folder = tmp_path / "dropped"
    folder.mkdir()
    clips = [make(folder / f"{name}.mp4", STEADY[: 20 + k]) for k, name in enumerate(("a", "b"))]
    stranger = make(folder / "z.mp4", STEADY[:40])
    drop(window, clips)
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    rack = window.bench.rack
    qtbot.waitUntil(lambda: len(rack.entries) == 3 and len(rack.with_open()) == 1, timeout=PATIENCE_MS)
    press(qtbot, window.bench.stage, Qt.Key.Key_G, CTRL)
    entry = panel_of(window, Entry)
    qtbot.keyClicks(entry.field, "Tove Lind")
    qtbot.keyClick(entry.field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: load_swing(documents_of(clips[1])[0]).golfer == "Tove Lind", timeout=PATIENCE_MS)
    assert window.on_desk.swing.golfer == "Tove Lind" and not documents_of(stranger)


def test_a_height_typed_later_reaches_the_clips_already_there(qtbot, window, book, today, tmp_path):
    """From the open swing to the record, and from there to every document in which it is only guessed."""
    others = [tmp_path / "range" / day / f"{MAREN}{SUFFIX}" for day in DAYS[:2]]
    guessed, said = (load_swing(path) for path in others)
    save_swing(others[0], guessed.given(guessed=("scale", "hand")))
    with book.writing() as db:
        known, revision = students.named(db, "Maren Tolhurst")
        students.save(db, replace(known, stature_cm=None, hand=None), revision)
    open_clip(qtbot, window, clip_of(tmp_path))
    in_step(qtbot, window)
    assert window.practice.student.stature_cm is None
    window.on_desk.set("Set scale", scale=Stature(164.0))
    qtbot.waitUntil(lambda: in_book(book).stature_cm == 164.0, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: load_swing(others[0]).scale == Stature(164.0), timeout=PATIENCE_MS)
    assert load_swing(others[1]).scale == said.scale and "scale" not in load_swing(others[0]).guessed
    # Typed once more, it is put right in the record too; what the Book knows from elsewhere stands.
    window.on_desk.set("Set scale", scale=Stature(165.0))
    qtbot.waitUntil(lambda: in_book(book).stature_cm == 165.0, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: load_swing(others[0]).scale == Stature(165.0), timeout=PATIENCE_MS)
    assert load_swing(others[1]).scale == said.scale
    window.practice.set("Write the height", stature_cm=170.0)
    window.on_desk.set("Set scale", scale=Stature(150.0))
    in_step(qtbot, window)
    assert window.practice.student.stature_cm == 170.0


def test_only_swings_of_the_plans_kind_and_club_answer_whether_it_changed(tmp_path):
    documents = [DEMO / day / f"{MAREN}{SUFFIX}" for day in DAYS]
    plan = replace(plan_of_shift(), start=datetime.date(2026, 8, 5), check_in=datetime.date(2026, 8, 19))
    told = ask(plan, documents[:1], documents[1:])
    assert told.counts == (1, 2)
    half = ask(replace(plan, kind=Kind.HALF), documents[:1], documents[1:])
    assert half.counts == (0, 0) and half.answer is None
