"""The user's Book with a student of three lessons, and how the tests read and drive it."""

from __future__ import annotations

import datetime

from PyQt6.QtCore import Qt

from kneel.book import Book
from kneel.book.repository import lessons, students
from tests.desk import CLIP, in_step
from tests.filed import DAYS

CTRL = Qt.KeyboardModifier.ControlModifier
TODAY = datetime.date(2026, 11, 27)


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
