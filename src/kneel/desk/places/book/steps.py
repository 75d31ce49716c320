"""Steps that change who and what is in the Book: each can be taken back."""

from __future__ import annotations

import uuid
from typing import Any, Protocol

from kneel.book import Book
from kneel.book.maintenance import purge
from kneel.book.repository import students
from kneel.book.repository.records import told
from kneel.book.repository.students import Listed
from kneel.book.sync import conflicts
from kneel.book.sync.conflicts import Declined
from kneel.book.sync.merging import taken
from kneel.book.sync.uniting import United, part, unite
from kneel.book.views.student_page import Page
from kneel.desk.records import Records, Which
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import Lesson, Student


class OnShow(Protocol):
    """The Book, list and page on show."""

    which: Which
    query: str
    student: str
    page: Page | None

    def turn_to(self, which: Which, student: str) -> None:
        """Show a student of a Book."""


class BookSteps:
    """What is done to students and lessons of the Book whose page is on show."""

    def __init__(self, page: OnShow, records: Records) -> None:
        self._page, self._records = page, records

    def take_declined(self, one: Declined) -> None:
        """What was lost to another desk is taken after all, over what stands now."""
        record = told(one.record, Student if one.about == "student" else Lesson)

        def mine(now: Any) -> dict[str, object]:
            made = taken(now, record, one.fields)
            return {name: getattr(made, name) for name in one.fields}

        self._records.change_of(self._page.which, type(record), record.id, tr("Take yours"), made=mine)
        self.drop_declined(one)

    def drop_declined(self, one: Declined) -> None:
        """It is not wanted any more."""

        def drop(book: Book) -> None:
            with book.writing() as db:
                conflicts.let_go(db, one.id)

        self._records.write(self._page.which, drop)

    def new_student(self, name: str) -> None:
        """Write a new student down: in the instructor's own Book, also beside the demo's."""
        words = " ".join(name.split())
        if not words:
            return
        if self._page.which is not Which.OWN:
            self._page.turn_to(Which.OWN, "")
        key, deleted = uuid.uuid4().hex, self._records.deleted[self._page.which]

        def write(book: Book) -> None:
            with book.writing() as db:
                if not purge.show(db, "student", key):
                    students.save(db, Student(words, id=key), 0)
            deleted.discard(key)

        def hide(book: Book) -> None:
            self._hide(book, "student", key)

        def show() -> None:
            self._page.student, self._page.query = key, ""

        self._records.act(self._page.which, tr("New student"), key, words, again=write, back=hide, done=show)

    def join(self, other: Listed) -> None:
        """Make another student and the one on show one; undo parts them again."""
        page, which = self._page.page, self._page.which
        if page is None:
            return
        keep, made = page.student.id, list[United]()

        def again(book: Book) -> None:
            with book.writing() as db:
                made.append(unite(db, keep, other.id))

        def back(book: Book) -> None:
            with book.writing() as db:
                part(db, made.pop())

        self._records.act(
            which, tr("Make one with %s") % shown(other.name), keep, page.student.name, again=again, back=back
        )

    def delete(self, what: str, key: str, label: str, name: str) -> None:
        """Take a student or a lesson out of sight; it is purged when the desk is closed."""
        deleted = self._records.deleted[self._page.which]
        whose = key if what == "student" else self._page.student

        def hide(book: Book) -> None:
            self._hide(book, what, key)

        def show(book: Book) -> None:
            with book.writing() as db:
                purge.show(db, what, key)
            deleted.discard(key)

        def leave() -> None:
            if key == self._page.student:
                self._page.student = ""

        self._records.act(self._page.which, label, whose, name, again=hide, back=show, done=leave)

    def _hide(self, book: Book, what: str, key: str) -> None:
        with book.writing() as db:
            purge.hide(db, what, key, self._records.books.desk.id)
        self._records.deleted[self._page.which].add(key)
