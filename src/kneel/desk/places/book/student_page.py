"""What the Book place shows: the list of students and the page of one, and the changes made there."""

from __future__ import annotations

from dataclasses import replace as exchanged
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book import Book
from kneel.book.repository import students
from kneel.book.repository.students import Listed
from kneel.book.sync.merging import merged_text
from kneel.book.views.student_page import Asked, Page, page_of
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.book.beside import renew_beside
from kneel.desk.places.book.steps import BookSteps
from kneel.desk.places.context import Context
from kneel.desk.records import Held, Which
from kneel.desk.widgets.language import tr
from kneel.judge import in_use
from kneel.model import KneelError, Lesson, Student


class StudentPage(QObject):
    """The list and the page on show. ``listed`` and ``changed`` tell that either is another.

    ``failed`` carries a sentence about what could not be read or written.
    """

    listed = pyqtSignal()
    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, context: Context, parent: QObject) -> None:
        super().__init__(parent)
        self._context, self._records = context, context.records
        self._renewers = Lane(self, context.jobs, tr("making a student’s numbers anew"), newest=True)
        self.which = Which.OWN
        self.query, self.archived = "", False
        self.students: tuple[Listed, ...] = ()
        self.student = ""
        self.page: Page | None = None
        self.lesson = ""
        """The lesson that is read."""

        self.since = ""
        """The lesson that the trend holds all others against; without one the first."""

        self._asked: Asked | None = None
        self._reading: Task | None = None
        self._renewed: set[str] = set()
        self.steps = BookSteps(self, context.records)
        self._records.shown.connect(self._on_shown)

    # Reading

    @property
    def whose(self) -> tuple[Which, str]:
        """The Book, and the student on show."""
        return self.which, self.student

    def use(self, which: Which, student: str) -> None:
        """Show another Book, or the same again; ``student`` is whom to show where nobody is shown."""
        if which is not self.which:
            self.which, self.student, self.page, self.students = which, "", None, ()
        self.student = self.student or student
        self.refresh()

    def turn_to(self, which: Which, student: str) -> None:
        """Show a student, of whichever Book, when the place comes on show next or at once."""
        if which is not self.which:
            self.which, self.page, self.students = which, None, ()
        if student != self.student:
            self.student, self._asked, self.lesson, self.since = student, None, "", ""
        self.page = None
        self.refresh()

    def refresh(self) -> None:
        """Read the list and the page again."""
        query, archived = self.query, self.archived
        student, asked, since = self.student, self._asked, self.since

        def work(book: Book) -> tuple[list[Listed], Page | None]:
            with book.reading() as db:
                found = students.listed(db, query, archived=archived)
                key = student or (found[0].id if found else "")
                try:
                    return found, page_of(db, key, asked, in_use(), since) if key else None
                except KneelError:
                    if not student:
                        raise
                    return found, page_of(db, found[0].id, None, in_use()) if found else None

        self._reading = self._records.read(
            self.which,
            work,
            subject=lambda: self.which,
            done=self._take,
            failed=self._on_failed,
            instead=self._reading,
        )

    def _take(self, found: tuple[list[Listed], Page | None]) -> None:
        listed, page = found
        if tuple(listed) != self.students:
            self.students = tuple(listed)
            self.listed.emit()
        self.page = None
        if page is not None:
            self._records.hold(self.which, page.student, page.revision)
            for lesson, revision in page.lessons:
                self._records.hold(self.which, lesson, revision)
            self.page = self._as_shown(page)
        self.student = page.student.id if page is not None else ""
        if page is None or page.lesson(self.lesson) is None:
            self.lesson = page.lessons[0][0].id if page is not None and page.lessons else ""
        self.changed.emit()
        if page is not None and page.stale and page.student.id not in self._renewed:
            self._renew(page.student.id)

    def _as_shown(self, page: Page) -> Page:
        """A page with what was changed here and is not in the Book yet."""
        now = self._records.now
        lessons = tuple((now(self.which, lesson), revision) for lesson, revision in page.lessons)
        return exchanged(page, student=now(self.which, page.student), lessons=lessons)

    def _on_shown(self, held: Held[Any]) -> None:
        page = self.page
        if page is not None and held.which is self.which and held.student == page.student.id:
            self.page = self._as_shown(page)
            self.changed.emit()

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
        self._renewed.add(student)
        books, which, beside = self._records.books, self.which, self._context.beside

        def work(task: Task) -> Any:
            return beside.call(
                renew_beside,
                books.open(which).url,
                student,
                long=True,
                progress=task.progress,
                stopped=task.stopped,
            )

        def done(made: int | None) -> None:
            if made:
                self.refresh()

        self._renewers.start(Operation(subject=lambda: self.which, work=work, done=done))

    def close_down(self) -> None:
        """Give up what is under way."""
        self._records.stop_reading(self._reading)
        self._renewers.stop()

    # Changing

    def set_student(self, label: str, **fields: object) -> None:
        """Change what is written of the student on show."""
        if self.page is not None:
            self._records.change_of(self.which, Student, self.page.student.id, label, **fields)

    def set_lesson(self, label: str, key: str, **fields: object) -> None:
        """Change what is written of a lesson, also of one whose page is not on show any more."""
        if key:
            self._records.change_of(self.which, Lesson, key, label, **fields)

    def write(
        self, label: str, kind: type, field: str, about: tuple[Which, str], was: str, text: str
    ) -> None:
        """Keep what was typed over ``was``, also where another page has come on show meanwhile; lines that
        another desk wrote there since stay.
        """

        def typed(record: Any) -> dict[str, object]:
            return {field: merged_text(was, text, getattr(record, field))[0]}

        which, key = about
        self._records.change_of(which, kind, key, label, made=typed)

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))
