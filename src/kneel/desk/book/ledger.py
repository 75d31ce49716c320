"""What the Book place shows, read in a worker; and its changes, each a step that can be taken back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book import Book, declined, lessons, removal, students
from kneel.book.declined import Declined
from kneel.book.page import Asked, Page, page_of
from kneel.book.records import told
from kneel.book.saving import save_lesson, save_student
from kneel.book.students import Listed
from kneel.desk.book.beside import renew_beside
from kneel.desk.context import Context
from kneel.desk.jobs import Job
from kneel.desk.tasks import Task, Workers
from kneel.desk.words import tr
from kneel.judge import at_hand
from kneel.model import KneelError, Lesson, Student


@dataclass(frozen=True)
class Step:
    """Something that was done: what, and how it is undone and done again."""

    label: str
    back: Callable[[], None]
    again: Callable[[], None]


class Ledger(QObject):
    """The list and the page on show. ``listed`` and ``changed`` tell that either is another.

    ``failed`` carries a sentence about what could not be read or written.
    """

    listed = pyqtSignal()
    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, context: Context, parent: QObject) -> None:
        super().__init__(parent)
        self._context = context
        self._workers, self._renewers = Workers(self), Workers(self)
        self._job = context.jobs.add(Job(tr("making a student’s numbers anew"), self._renewers.give_up))
        self.book: Book | None = None
        self.query, self.archived = "", False
        self.students: tuple[Listed, ...] = ()
        self.student = ""
        self.page: Page | None = None
        self.lesson = ""
        """The lesson that is read."""

        self.deleted: set[str] = set()
        """What was deleted here, and goes for good when the desk is closed."""

        self.since = ""
        """The lesson that the trend holds all others against; without one the first."""

        self._asked: Asked | None = None
        self._reading: list[Task] = []
        self._renewed: set[str] = set()
        self._done: list[Step] = []
        self._undone: list[Step] = []

    # Reading

    def use(self, book: Book | None, student: str) -> None:
        """Show another Book, or the same again; ``student`` is whom to show where nobody is shown."""
        if book is not self.book:
            self.book, self.student, self.page, self.students = book, "", None, ()
            self._done.clear()
            self._undone.clear()
        self.student = self.student or student
        self.refresh()

    def refresh(self) -> None:
        """Read the list and the page again."""
        book = self.book
        if book is None:
            self.listed.emit()
            self.changed.emit()
            return
        query, archived = self.query, self.archived
        student, asked, since = self.student, self._asked, self.since

        def work(_: Task) -> tuple[list[Listed], Page | None]:
            with book.reading() as db:
                found = students.listed(db, query, archived=archived)
                key = student or (found[0].id if found else "")
                try:
                    return found, page_of(db, key, asked, at_hand()[0], since) if key else None
                except KneelError:
                    if not student:
                        raise
                    return found, page_of(db, found[0].id, None, at_hand()[0]) if found else None

        for old in self._reading:
            old.stop()
        self._reading = [self._workers.start(Task(work, done=self._take, failed=self._on_failed))]

    def _take(self, found: tuple[list[Listed], Page | None]) -> None:
        listed, page = found
        if tuple(listed) != self.students:
            self.students = tuple(listed)
            self.listed.emit()
        self.page = page
        self.student = page.student.id if page is not None else ""
        if page is None or page.lesson(self.lesson) is None:
            self.lesson = page.lessons[0][0].id if page is not None and page.lessons else ""
        self.changed.emit()
        if page is not None and page.stale and page.student.id not in self._renewed:
            self._renew(page.student.id)

    def search(self, query: str) -> None:
        """Narrow the list to students of whom all these words are written."""
        self.query = query
        self.refresh()

    def show_archived(self, on: bool) -> None:
        """Show those who are archived too, or not."""
        self.archived = on
        self.refresh()

    def show_student(self, key: str) -> None:
        """Show another student."""
        if key != self.student:
            self.student, self._asked, self.lesson, self.since = key, None, "", ""
            self.refresh()

    def show_measure(self, asked: Asked) -> None:
        """Show the trend of another number."""
        self._asked = asked
        self.refresh()

    def hold_against(self, lesson: str) -> None:
        """Hold the trend against another lesson than the first; asked for the same again, the first."""
        self.since = "" if lesson == self.since else lesson
        self.refresh()

    def show_lesson(self, key: str) -> None:
        """Read another lesson."""
        if key != self.lesson:
            self.lesson = key
            self.changed.emit()

    def _renew(self, student: str) -> None:
        """Numbers of one version: those of an older one are made anew, beside the desk."""
        book = self.book
        if book is None:
            return
        self._renewed.add(student)
        url = book.url

        def work(task: Task) -> Any:
            return self._context.aside.call(
                renew_beside, url, student, progress=task.progress, stopped=task.stopped
            )

        def done(made: int | None) -> None:
            self._context.jobs.tell(self._job, 0, 0)
            if made:
                self.refresh()

        task = Task(
            work,
            done=done,
            failed=lambda _: self._context.jobs.tell(self._job, 0, 0),
            progressed=lambda k, of: self._context.jobs.tell(self._job, k, of),
        )
        self._renewers.start(task)

    def close_down(self) -> None:
        """Give up what is under way."""
        self._workers.give_up()
        self._renewers.give_up()

    # Changing

    @property
    def steps(self) -> tuple[str | None, str | None]:
        """What would be taken back and what taken again."""
        return (
            self._done[-1].label if self._done else None,
            self._undone[-1].label if self._undone else None,
        )

    def undo(self) -> None:
        if self._done:
            step = self._done.pop()
            self._undone.append(step)
            self._try(step.back)

    def redo(self) -> None:
        if self._undone:
            step = self._undone.pop()
            self._done.append(step)
            self._try(step.again)

    def set_student(self, label: str, **fields: object) -> None:
        """Change what is written of the student on show."""
        page = self.page
        if page is None:
            return
        key, mine = page.student.id, replace(page.student, **fields)
        old = {name: getattr(page.student, name) for name in fields}
        if mine == page.student:
            return
        self._save_student(page.student, mine, page.revision)
        self._step(
            label, lambda: self._change_student(key, **old), lambda: self._change_student(key, **fields)
        )

    def set_notes(self, label: str, key: str, notes: str) -> None:
        """Keep what was typed of a student, also where another page has come on show meanwhile."""
        if self.page is not None and self.page.student.id == key:
            self.set_student(label, notes=notes)
        elif key:
            self._try(lambda: self._change_student(key, notes=notes))

    def set_lesson(self, label: str, key: str, **fields: object) -> None:
        """Change what is written of a lesson, also of one whose page is not on show any more."""
        known = self.page.lesson(key) if self.page is not None else None
        if known is None:
            if key:
                self._try(lambda: self._change_lesson(key, **fields))
            return
        lesson, revision = known
        mine = replace(lesson, **fields)
        if mine == lesson:
            return
        old = {name: getattr(lesson, name) for name in fields}
        self._save_lesson(lesson, mine, revision)
        self._step(label, lambda: self._change_lesson(key, **old), lambda: self._change_lesson(key, **fields))

    def take_declined(self, one: Declined) -> None:
        """What was lost to another desk is taken after all, over what stands now."""
        page = self.page
        if page is None:
            return
        record = told(one.record, Student if one.about == "student" else Lesson)
        fields = {name: getattr(record, name) for name in one.fields}
        if isinstance(record, Lesson):
            self.set_lesson(tr("Take yours"), record.id, **fields)
        else:
            self.set_student(tr("Take yours"), **fields)
        self.drop_declined(one)

    def drop_declined(self, one: Declined) -> None:
        """It is not wanted any more."""
        self._try(lambda: self._write(lambda db: declined.let_go(db, one.id)))

    def new_student(self, name: str) -> None:
        """Write a new student down."""
        book = self.book
        if book is None or not name.strip():
            return
        try:
            with book.writing() as db:
                student, _ = students.save(db, Student(" ".join(name.split())), 0)
        except KneelError as error:
            self.failed.emit(str(error))
            return
        self.student, self.query = student.id, ""
        self._step(tr("New student"), *self._hiding("student", student.id))
        self._context.books.changed.emit()
        self.refresh()

    def delete(self, what: str, key: str, label: str) -> None:
        """Take a student or a lesson out of sight; it is purged when the desk is closed."""
        hide, show = self._hiding(what, key)
        if self._try(hide):
            self._step(label, show, hide)

    def _hiding(self, what: str, key: str) -> tuple[Callable[[], None], Callable[[], None]]:
        """How something is put out of sight, and how it is brought back."""

        def hide() -> None:
            self._write(lambda db: removal.hide(db, what, key))
            self.deleted.add(key)
            if key == self.student:
                self.student = ""

        def show() -> None:
            self._write(lambda db: removal.show(db, what, key))
            self.deleted.discard(key)

        return hide, show

    def _write(self, act: Callable[[Any], None]) -> None:
        assert self.book is not None
        with self.book.writing() as db:
            act(db)
        self._context.books.changed.emit()

    def _step(self, label: str, back: Callable[[], None], again: Callable[[], None]) -> None:
        self._done.append(Step(label, back, again))
        self._undone.clear()
        self.refresh()

    def _try(self, act: Callable[[], None]) -> bool:
        try:
            act()
        except KneelError as error:
            self.failed.emit(str(error))
            return False
        finally:
            self.refresh()
        return True

    def _change_student(self, key: str, **fields: object) -> None:
        assert self.book is not None
        with self.book.reading() as db:
            student, revision = students.load(db, key)
        self._save_student(student, replace(student, **fields), revision)

    def _change_lesson(self, key: str, **fields: object) -> None:
        assert self.book is not None
        with self.book.reading() as db:
            lesson, revision = lessons.load(db, key)
        self._save_lesson(lesson, replace(lesson, **fields), revision)

    def _save_student(self, base: Student, mine: Student, revision: int) -> None:
        self._save(lambda book: save_student(book, base, mine, revision).lost)

    def _save_lesson(self, base: Lesson, mine: Lesson, revision: int) -> None:
        self._save(lambda book: save_lesson(book, base, mine, revision).lost)

    def _save(self, save: Callable[[Book], tuple[str, ...]]) -> None:
        if self.book is None:
            return
        try:
            lost = save(self.book)
        except KneelError as error:
            self.failed.emit(str(error))
            return
        if lost:
            self.failed.emit(
                tr("Another desk changed it meanwhile (%s): that stands, and yours is kept.")
                % ", ".join(tr(name) for name in lost)
            )
        self._context.books.changed.emit()

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))
