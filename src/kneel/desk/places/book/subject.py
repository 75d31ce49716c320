"""Whom an action of the Book means, said in the menu, and gone to before anything is done."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.places.book.student_page import StudentPage
from kneel.desk.places.place import Handlers
from kneel.desk.records import Which
from kneel.desk.records.practice import Practice
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.speech.practice import brief_day

OF_STUDENT = {
    "rename_student": "Rename %s …",
    "student_wants": "Write what %s wants …",
    "book_measure": "Another number over the lessons of %s …",
    "archive_student": "Archive %s, or take up again",
    "export_student": "Save all of %s in a folder …",
    "join_students": "Make %s and another student one …",
    "delete_student": "Delete %s",
}
OF_LESSON = {
    "hold_against": "Hold the other lessons against that of %s",
    "open_lesson": "Open the lesson of %s on the Bench",
    "hold_lesson": "Hold the lesson of %s beside the swing on the desk",
    "choose_root": "Choose what the lesson of %s works on …",
    "give_up_root": "Give up what the lesson of %s works on …",
    "delete_lesson": "Delete the lesson of %s",
}
LONGEST_NAME = 28


@dataclass(frozen=True)
class Subject:
    """A student of a Book, and the day of one of their lessons, None where there is none."""

    which: Which
    student: str
    name: str
    day: datetime.date | None


class Subjects(QObject):
    """The student on show in the Book, or the one on the desk; ``wanted`` asks for the Book to be shown."""

    wanted = pyqtSignal()

    def __init__(self, student_page: StudentPage, practice: Practice, on_show: Callable[[], bool]) -> None:
        super().__init__(student_page)
        self._student_page, self._practice, self._on_show = student_page, practice, on_show
        self._waiting: tuple[Subject, Callable[[], object]] | None = None
        student_page.changed.connect(self._arrived)
        student_page.failed.connect(self.forget)

    def now(self) -> Subject | None:
        """Who is meant now; None where nobody is."""
        page, student_page = self._student_page.page, self._student_page
        if self._on_show():
            if page is None:
                return None
            known = page.lesson(student_page.lesson)
            return Subject(
                student_page.which,
                page.student.id,
                page.student.name,
                known[0].day if known is not None else None,
            )
        record = self._practice.record
        if not record.key:
            return None
        return Subject(record.which, record.key, record.now.name, record.day)

    def titles(self) -> dict[str, str | None]:
        """What each action is called now, with whom it means; None for one that can do nothing."""
        subject = self.now()
        if subject is None:
            return dict.fromkeys((*OF_STUDENT, *OF_LESSON))
        name = shown(subject.name)
        name = name if len(name) <= LONGEST_NAME else f"{name[: LONGEST_NAME - 1].rstrip()}…"
        found: dict[str, str | None] = {key: tr(title) % name for key, title in OF_STUDENT.items()}
        day = subject.day
        about = f"{name}, {brief_day(day, self._practice.today)}" if day is not None else ""
        return found | {key: tr(title) % about if about else None for key, title in OF_LESSON.items()}

    def about(self, handlers: Handlers) -> Handlers:
        """The same handlers, each done only once whom it means is on show."""
        named = {*OF_STUDENT, *OF_LESSON}
        return {
            key: (lambda d=deed: self.do(d)) if key in named else deed  # type: ignore[misc]
            for key, deed in handlers.items()
        }

    def do(self, deed: Callable[[], object]) -> None:
        """Go to whom it means, and do it there."""
        subject = self.now()
        if subject is None:
            return
        if self._on_show():
            deed()
            return
        self._waiting = subject, deed
        self._student_page.turn_to(subject.which, subject.student)
        self.wanted.emit()

    def forget(self, _: object = None) -> None:
        """What was asked for is not wanted any more: the Book cannot be read, or was left."""
        self._waiting = None

    def _arrived(self) -> None:
        """The page of whoever is meant is read: the lesson of that day is the one that is read there."""
        page = self._student_page.page
        if self._waiting is None or page is None or not self._on_show():
            return
        subject, deed = self._waiting
        self._waiting = None
        if (self._student_page.which, page.student.id) != (subject.which, subject.student):
            # Whoever was meant is not there any more: nothing is done to anybody, now or later.
            return
        lesson = next((one.id for one, _ in page.lessons if one.day == subject.day), "")
        if lesson:
            self._student_page.show_lesson(lesson)
        deed()
