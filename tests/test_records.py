"""The records at the desk: shown at once, written one after another, by two desks too, and never lost."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing, contextmanager

import msgspec
import pytest
from PyQt6.QtCore import QSettings, Qt

from kneel.book import open_book
from kneel.book.db.opening import lies_at
from kneel.book.repository import lessons, students
from kneel.book.sync import conflicts, unsaved
from kneel.book.sync.saving import save_student
from kneel.desk.operations import Jobs
from kneel.desk.places.book.lesson import Said
from kneel.desk.records import Books, Held, Records, Which
from kneel.desk.shell.app import make_application
from kneel.desk.shell.window import Window
from kneel.model import Lesson, Student
from kneel.model.student import LONGEST_TEXT
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip
from tests.test_practice import START

OTHER = "lorcan-mead-iron.mp4"


@pytest.fixture
def book():
    made = open_book()
    with made.writing() as db:
        for name in ("Ida Fenn", "Ebba Quill"):
            students.save(db, Student(name, notes="Ankle sprain"), 0)
    yield made
    made.close()


@pytest.fixture
def desks(qtbot):
    """Makes records of a desk, as many as are wanted; ``told`` is what each said."""
    made = []

    def desk():
        one = Records(Books())
        one.told = []
        one.failed.connect(one.told.append)
        one.said.connect(one.told.append)
        one.mended_ = []
        one.mended.connect(one.mended_.append)
        made.append(one)
        return one

    yield desk
    for one in made:
        one.close()
        one.books.close()


def stands(book, name="Ida Fenn"):
    with book.reading() as db:
        return students.named(db, name)


def held_of(records, book, name="Ida Fenn"):
    return records.hold(Which.OWN, *stands(book, name))


def settled(qtbot, *some):
    qtbot.waitUntil(lambda: not any(one.busy for one in some), timeout=PATIENCE_MS)


@contextmanager
def busy(book):
    """Another program writes, and does not end."""
    with closing(sqlite3.connect(book.path, timeout=30, check_same_thread=False)) as db:
        db.execute("BEGIN IMMEDIATE")
        yield
        db.rollback()


def test_what_is_changed_is_shown_at_once_and_quick_saves_are_one_desks(qtbot, book, desks):
    """Faster than it can be written: no text is doubled, and no change of one's own is called another's."""
    desk = desks()
    held = held_of(desk, book)
    with busy(book):
        for k in range(5):
            desk.change(held, "Write notes", notes="\n".join(["Ankle sprain", *map(str, range(k + 1))]))
            desk.change(held, "Minutes", minutes=20 + k)
            assert held.now.minutes == 20 + k
        qtbot.wait(50)
        assert stands(book)[0].minutes == 15
    settled(qtbot, desk)
    assert stands(book)[0] == held.now and held.now.notes == "Ankle sprain\n0\n1\n2\n3\n4"
    assert desk.told == [] and stands(book)[1] <= 3, "written together, once it could be"


def test_undo_takes_back_what_was_done_here_and_nothing_of_another_desk(qtbot, book, desks):
    desk = desks()
    held = held_of(desk, book)
    desk.change(held, "Write notes", notes="Ankle sprain\nSlow")
    desk.change(held, "Minutes", minutes=40)
    settled(qtbot, desk)
    now, revision = stands(book)
    theirs = msgspec.structs.replace(now, notes="Ankle sprain\nSlow\nTheirs", minutes=30)
    save_student(book, now, theirs, revision)
    desk.hold(Which.OWN, *stands(book))
    desk.undo(Which.OWN)
    assert "changed at another desk since" in desk.told[-1] and held.now.minutes == 30
    desk.undo(Which.OWN)
    settled(qtbot, desk)
    assert stands(book)[0].notes == "Ankle sprain\nTheirs"
    desk.redo(Which.OWN)
    settled(qtbot, desk)
    assert sorted(stands(book)[0].notes.split("\n")) == ["Ankle sprain", "Slow", "Theirs"]


def test_a_step_belongs_to_its_book_and_is_named_for_whom_it_is(qtbot, book, desks, monkeypatch, tmp_path):
    desk = desks()
    one = held_of(desk, book)
    other = desk.hold(Which.DEMO, Student("Maren Tolhurst", id="x" * 32), 1)
    monkeypatch.setattr(
        desk.books, "open", lambda which: book if which is Which.OWN else pytest.fail("another Book")
    )
    desk.change(one, "Minutes", minutes=40)
    settled(qtbot, desk)
    assert desk.labels(Which.OWN, one.key) == ("Minutes", None)
    assert desk.labels(Which.OWN, "somebody") == ("Minutes (Ida Fenn)", None)
    assert desk.labels(Which.DEMO, other.key) == (None, None)
    desk.undo(Which.DEMO)
    desk.undo(Which.OWN)
    settled(qtbot, desk)
    assert stands(book)[0].minutes == 15


def test_a_deletion_is_taken_off_the_list_once_its_undo_has_succeeded(qtbot, book, desks, monkeypatch):
    desk = desks()
    key = stands(book)[0].id

    def hidden(hide):
        def act(open_):
            with open_.writing() as db:
                db.exec_driver_sql(
                    "UPDATE students SET hidden = ? WHERE id = ?", (1.0 if hide else None, key)
                )

        return act

    desk.act(Which.OWN, "Delete", key, "Ida Fenn", again=hidden(True), back=hidden(False))
    settled(qtbot, desk)
    assert not stands(book)[0].id
    desk.books.open(Which.OWN)._engine.dispose()
    monkeypatch.setattr("kneel.book.db.opening.WAITS_S", 0.1)
    desk.books.opened()[Which.OWN]._engine.pool._creator = lambda *_: sqlite3.connect(book.path, timeout=0.1)
    with busy(book):
        desk.undo(Which.OWN)
        qtbot.waitUntil(lambda: any("busy" in words for words in desk.told), timeout=PATIENCE_MS)
        assert desk.labels(Which.OWN, key)[0] == "Delete", "it can be tried again"
    desk.undo(Which.OWN)
    settled(qtbot, desk)
    assert stands(book)[0].id == key and desk.labels(Which.OWN, key) == (None, "Delete")


def test_what_cannot_be_written_is_kept_and_written_later(qtbot, book, desks, monkeypatch):
    """Told once; a desk that closes meanwhile leaves it for the next, which merges it."""
    monkeypatch.setattr("kneel.book.db.opening.WAITS_S", 0.1)
    monkeypatch.setattr("kneel.desk.records.saver.AGAIN_MS", 50)
    desk, folder = desks(), book.folder / unsaved.FOLDER
    desk._saver.again.setInterval(50)
    held = held_of(desk, book)
    with busy(book):
        desk.change(held, "Write notes", notes="Ankle sprain\nSlow")
        qtbot.waitUntil(lambda: bool(desk.told), timeout=PATIENCE_MS)
        assert "kept here, and written as soon as it can be" in desk.told[0]
        qtbot.waitUntil(lambda: any(folder.glob("*")), timeout=PATIENCE_MS)
        (file,) = folder.iterdir()
        assert file.stat().st_mode & 0o777 == 0o600
        qtbot.wait(300)
        assert len(desk.told) == 1
    settled(qtbot, desk)
    qtbot.waitUntil(lambda: not any(folder.iterdir()), timeout=PATIENCE_MS)
    assert stands(book)[0].notes == "Ankle sprain\nSlow" and "is in the Book now" in desk.told[-1]
    assert desk.mended_ == desk.told[:1], "what stood there need not be read any more"
    with busy(book):
        desk.change(held, "Write notes", notes="Ankle sprain\nSlow\nTurn")
        # Returns though nobody lets the Book go.
        desk.close()
        desk.books.close()
    assert stands(book)[0].notes == "Ankle sprain\nSlow"
    now, revision = stands(book)
    save_student(book, now, msgspec.structs.replace(now, notes=now.notes + "\nTheirs"), revision)
    held_of(later := desks(), book)
    later.read(Which.OWN, lambda _: None, subject=lambda: None, done=lambda _: None)
    settled(qtbot, later)
    assert sorted(stands(book)[0].notes.split("\n")) == ["Ankle sprain", "Slow", "Theirs", "Turn"]
    qtbot.waitUntil(lambda: any("Ida Fenn" in words for words in later.told), timeout=PATIENCE_MS)
    assert not list(folder.iterdir())


def test_two_copies_begun_before_there_was_an_id_are_one(qtbot, book, desks):
    """The golfer on the desk is changed before the Book has answered, and the page of the Book is too: nobody
    else did anything, nothing is lost, and every step can be taken back.
    """
    desk = desks()
    draft = Held(Which.OWN, Student("Ida Fenn"), 0)
    with busy(book):
        desk.change(draft, "Minutes", minutes=40)
        page = held_of(desk, book)
        desk.change(page, "Minutes", minutes=50)
        desk.change(page, "Write notes", notes="Ankle sprain\nPage")
    settled(qtbot, desk)
    assert draft.joined is page and desk.told == []
    now = stands(book)[0]
    assert now == page.now and (now.minutes, now.notes) == (50, "Ankle sprain\nPage")
    for _ in range(3):
        desk.undo(Which.OWN)
    settled(qtbot, desk)
    assert (stands(book)[0].minutes, stands(book)[0].notes) == (15, "Ankle sprain")
    with book.reading() as db:
        assert conflicts.kept(db, now.id) == []


def test_a_record_deleted_elsewhere_is_written_no_more_and_a_lesson_is_kept_too(qtbot, book, desks):
    desk = desks()
    person = stands(book)[0]
    with book.writing() as db:
        lesson, at = lessons.save(db, Lesson(person.id, START), 0)
    held = desk.hold(Which.OWN, lesson, at)
    desk.change(held, "Said", said="Feels later")
    settled(qtbot, desk)
    with book.writing() as db:
        assert lessons.load(db, lesson.id)[0].said == "Feels later"
        db.exec_driver_sql("UPDATE lessons SET hidden = 1")
    desk.change(held, "Said", said="More")
    settled(qtbot, desk)
    assert "not in the Book any more" in desk.told[-1]


def test_a_value_that_cannot_be_is_refused_with_a_sentence(qtbot, book, desks):
    desk = desks()
    held = held_of(desk, book)
    assert not desk.change(held, "Stature", stature_cm=400.0)
    assert "80 to 250 cm. Nothing was changed" in desk.told[-1] and held.now == held.stands
    desk.change(held, "Rename", name="Ebba Quill")
    desk.change(held, "Write notes", notes="Said meanwhile")
    settled(qtbot, desk)
    assert "already" in desk.told[-1] and held.now.name == "Ida Fenn"
    assert stands(book)[0].notes == "Said meanwhile", "one thing refused takes nothing else along"
    desk.undo(Which.OWN)
    settled(qtbot, desk)
    assert desk.labels(Which.OWN, held.key) == (None, "Write notes")
    assert (stands(book)[0].notes, stands(book)[0].name) == ("Ankle sprain", "Ida Fenn")


def test_what_breaks_inside_loses_no_word(qtbot, book, desks, monkeypatch):
    monkeypatch.setattr("kneel.desk.records.saver.save_student", lambda *_: 1 / 0)
    desk = desks()
    desk._saver.again.setInterval(50)
    held = held_of(desk, book)
    desk.change(held, "Write notes", notes="Still here")
    qtbot.waitUntil(lambda: bool(desk.told), timeout=PATIENCE_MS)
    assert held.now.notes == "Still here" and "kept here" in desk.told[0]
    monkeypatch.setattr("kneel.desk.records.saver.save_student", save_student)
    settled(qtbot, desk)
    assert stands(book)[0].notes == "Still here"


def test_a_question_that_takes_its_time_is_told_and_can_be_given_up(qtbot, book):
    jobs, going_on, told = Jobs(), threading.Event(), []
    desk = Records(Books(), jobs)

    def ask(answer):
        def work(_):
            going_on.wait(PATIENCE_MS / 1000)
            return answer

        desk.read(Which.OWN, work, subject=lambda: None, done=told.append)

    ask("never wanted")
    qtbot.waitUntil(lambda: [job.sentence for job in jobs.running] == ["asking the Book …"])
    jobs.stop()
    assert not jobs.running and not desk.busy
    ask("wanted")
    going_on.set()
    settled(qtbot, desk)
    assert told == ["wanted"] and not jobs.running
    desk.close()
    desk.books.close()


def test_what_is_said_of_nobody_yet_goes_to_nobody_else(qtbot, window, book, demo):
    """Unnamed on one clip: another clip's golfer gets none of it; named, the one it was said of does."""
    practice = window.practice
    open_clip(qtbot, window, demo / CLIP)
    window.on_desk.set("Name", golfer="")
    practice.set("Minutes", minutes=40)
    open_clip(qtbot, window, demo / OTHER)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path.name == OTHER, timeout=PATIENCE_MS)
    in_step(qtbot, window)
    assert practice.student.minutes == 15 and practice.record.undoing.steps()[0] is None
    window.on_desk.set("Name", golfer="")
    practice.set("Minutes", minutes=50)
    window.on_desk.set("Name", golfer="Ida Fenn")
    assert practice.student.minutes == 50
    in_step(qtbot, window)
    now = stands(book)[0]
    assert (now.minutes, now.notes) == (50, "Ankle sprain"), "of whom the Book knows already"
    practice.record.undoing.undo()
    in_step(qtbot, window)
    assert stands(book)[0].minutes == 15


def test_typing_without_a_pause_is_kept_and_what_is_too_long_is_said(qtbot, monkeypatch):
    monkeypatch.setattr("kneel.desk.places.book.lesson.AT_LAST_MS", 200)
    field = Said("Notes")
    qtbot.addWidget(field)
    kept, refused = [], []
    field.kept.connect(lambda about, was, text: kept.append((about, was, text)))
    field.refused.connect(refused.append)
    field.show_text("Ida", "")
    field._at_last.setInterval(200)
    until = time.monotonic() + PATIENCE_MS / 1000
    while len(kept) < 2 and time.monotonic() < until:
        qtbot.keyClick(field, Qt.Key.Key_A)
        qtbot.wait(30)
    assert kept[1][1] == kept[0][2], "each over what was kept before"
    field.setPlainText("x" * LONGEST_TEXT)
    field.moveCursor(field.textCursor().MoveOperation.End)
    field.insertPlainText("too much")
    assert field.toPlainText() == "x" * LONGEST_TEXT and "the last 8 were not taken" in refused[-1]


OTHER_DESK = """
import sys
from kneel.desk.shell.app import end, make_application
from kneel.desk.records import Which
from kneel.desk.shell.window import Window
from kneel.model import Student
application, settings, look = make_application()
window = Window(look, settings)
window.show()
records, me = window.practice.record.records, sys.argv[1]
student_page = window.book.student_page
window.go_to(window.book)
def until(ready):
    while not ready():
        application.processEvents()
until(lambda: student_page.page is not None)
for k in range(20):
    now = records.now(Which.OWN, student_page.page.student)
    student_page.write("Write", Student, "notes", (Which.OWN, now.id), now.notes, now.notes + f"\\n{me} {k}")
    if k % 4 == 3:
        records.undo(Which.OWN)
        records.redo(Which.OWN)
    application.processEvents()
until(lambda: not records.busy)
window.close()
end(0, settings)
"""


def test_two_desks_write_into_one_record_and_every_word_stands_once(book, tmp_path):
    """Windows of two processes on one Book, as fast as they can."""
    words = [sys.executable, "-c", OTHER_DESK]
    running = [subprocess.Popen([*words, name], stderr=subprocess.PIPE, text=True) for name in "ab"]
    for one in running:
        _, error = one.communicate(timeout=PATIENCE_MS / 1000)
        assert one.returncode == 0 and "Traceback" not in error, error
    with book.reading() as db:
        shown = students.listed(db)[0]
        notes = students.load(db, shown.id)[0].notes.split("\n")
    assert sorted(notes) == sorted(["Ankle sprain", *(f"{name} {k}" for name in "ab" for k in range(20))])


def test_where_a_book_lies_is_told_without_asking_for_it(tmp_path, monkeypatch):
    monkeypatch.setenv("KNEEL_BOOK", str(tmp_path / "none" / "book.sqlite"))
    assert Books().lies(Which.OWN) == lies_at() and not (tmp_path / "none").exists()


def test_the_interface_thread_asks_no_database(qtbot, book, monkeypatch, tmp_path, demo):
    """Whatever is opened, typed, undone and shown: each connection is another thread's."""
    import threading

    from kneel.book.db.opening import Book

    mine, asked = threading.current_thread(), []
    for name in ("reading", "writing"):
        real = getattr(Book, name)

        def watched(self, real=real):
            if threading.current_thread() is mine:
                asked.append(real)
            return real(self)

        monkeypatch.setattr(Book, name, watched)
    _, _, look = make_application()
    window = Window(look, QSettings(str(tmp_path / "desk.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.show()
    window.go_to(window.book)
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    window.book.student_page.set_student("Minutes", minutes=35)
    window.book.student_page.steps.new_student("Noor Hale")
    window.open_path(demo / "maren-tolhurst-iron.mp4")
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)
    for place in window.places:
        window.go_to(place)
        qtbot.wait(100)
    window.practice.set("Minutes", minutes=25)
    window.practice.record.undoing.undo()
    settled(qtbot, window.practice.record.records)
    window.close()
    assert asked == []
