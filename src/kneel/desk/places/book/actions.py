"""What each action of the Book does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton

from kneel.book import Book
from kneel.book.exchange.importing import FOLDER
from kneel.book.index.clips import lies
from kneel.book.repository import students
from kneel.book.repository.records import Seen
from kneel.book.repository.students import Listed
from kneel.book.views.student_page import Page
from kneel.desk.places.book.lesson import LessonCard
from kneel.desk.places.book.moving import Moving
from kneel.desk.places.book.people import People
from kneel.desk.places.book.student_page import StudentPage
from kneel.desk.places.book.subject import Subjects
from kneel.desk.places.book.trend import TrendChart
from kneel.desk.places.book.wanted import Wanted
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import several, tr
from kneel.disk import shown
from kneel.judge import in_use
from kneel.model import View
from kneel.model.student import LONGEST_NAME, LONGEST_TEXT
from kneel.speech.practice import measure_words
from kneel.speech.words import capital


class BookParts(Place):
    """What the actions ask of the Book."""

    people: People
    lesson: LessonCard
    trend: TrendChart
    moving: Moving
    subjects: Subjects
    name: QPushButton
    complaint: Wanted
    declined: QPushButton
    lesson_wanted = pyqtSignal(object)
    beside_wanted = pyqtSignal(object)

    @property
    def student_name(self) -> str:
        """Whose page is open."""
        raise NotImplementedError


class BookActions:
    """The actions on students and lessons."""

    def __init__(self, student_page: StudentPage, context: Context, place: BookParts) -> None:
        self._student_page, self._context, self._place = student_page, context, place

    def table(self) -> Handlers:
        """Every key with its deed."""
        return {
            "find_in_book": self.find,
            "new_student": self.new_student,
            "rename_student": self.rename,
            "student_wants": self.write_wants,
            "book_measure": self.choose_measure,
            "hold_against": self.hold_against,
            "open_lesson": self.open_lesson,
            "hold_lesson": self.hold_lesson,
            "choose_root": self.choose_root,
            "give_up_root": self.give_up,
            "archive_student": self.archive,
            "show_archived": lambda: self._student_page.show_archived(not self._student_page.archived),
            "join_students": self.choose_other,
            "export_student": self.export,
            "take_in": self.take_in,
            "copy_book": self.copy,
            "delete_lesson": self.delete_lesson,
            "delete_student": self.delete_student,
        }

    def hold_against(self, lesson: str = "") -> None:
        """Hold all lessons against one, the one that is read where none is named; or the first again."""
        lesson, page = lesson or self._student_page.lesson, self._student_page.page
        line = page.trend.line if page is not None and page.trend is not None else ()
        if lesson not in [point.lesson for point in line[:-1]]:
            self._place.said.emit(tr("Only an earlier lesson that tells this number can be held against."))
            return
        self._student_page.hold_against(lesson)

    def find(self) -> None:
        """Put the hands on the search, wherever one stands."""
        if not self._place.isVisible():
            self._place.subjects.wanted.emit()
        self._place.people.line.setFocus()
        self._place.people.line.selectAll()

    def new_student(self) -> Entry:
        """Write a new student down."""
        entry = Entry(
            self._place,
            self._context.look,
            tr("Name of the student"),
            lambda v: self._student_page.steps.new_student(str(v)),
            most=LONGEST_NAME,
        )
        entry.open(self._place.people.new)
        return entry

    def rename(self) -> Entry | None:
        """Give the student another name; older swings find their student by the old one."""
        page = self._student_page.page
        if page is None:
            return None
        entry = Entry(
            self._place,
            self._context.look,
            tr("Name of the student"),
            lambda v: (
                self._student_page.set_student(tr("Rename"), name=" ".join(str(v).split()))
                if str(v).strip()
                else None
            ),
            words=page.student.name,
            most=LONGEST_NAME,
            remark=tr("Swings filed under the old name stay this student’s."),
        )
        entry.open(self._place.name)
        return entry

    def write_wants(self) -> Entry | None:
        """Write down what the student wants."""
        page = self._student_page.page
        if page is None:
            return None
        entry = Entry(
            self._place,
            self._context.look,
            tr("What does the student want?"),
            lambda value: self._student_page.set_student(tr("Write what is wanted"), goals=str(value)),
            words=page.student.goals,
            most=LONGEST_TEXT,
        )
        entry.open(self._place.complaint)
        return entry

    def choose_measure(self) -> Chooser | None:
        """Show the trend of another number."""
        page = self._student_page.page
        if page is None or not page.told:
            return None
        now = (page.trend.measure, page.trend.at) if page.trend else None
        choices = [
            Choice(
                capital(measure_words(*asked)),
                lambda a=asked: self._student_page.show_measure(a),
                checked=asked == now,
            )
            for asked in page.told
        ]
        chooser = Chooser(self._place, self._context.look, tr("Which number over the lessons?"), choices)
        chooser.open(self._place.trend)
        return chooser

    def open_lesson(self, key: str = "") -> None:
        """Open the lesson that is read on the Bench."""
        page = self._student_page.page
        swings = page.swings.get(key or self._student_page.lesson, ()) if page is not None else ()
        if not swings:
            self._place.said.emit(tr("Nothing was filmed in this lesson."))
            return
        first, records = swings[0], self._context.records

        def found(book: Book) -> Path:
            return lies(book, first)

        records.read(
            self._student_page.which,
            found,
            subject=lambda: self._student_page.student,
            done=self._place.lesson_wanted.emit,
        )

    def hold_lesson(self, key: str = "") -> None:
        """Hold a swing of the lesson that is read beside the one on the desk."""
        page = self._student_page.page
        swings = page.swings.get(key or self._student_page.lesson, ()) if page is not None else ()

        def found(book: Book) -> dict[View, Path]:
            # The last of each view is the one the lesson ended with.
            return {one.view: lies(book, one) for one in swings}

        self._context.records.read(
            self._student_page.which,
            found,
            # What was asked for is that lesson, whosever page is read meanwhile.
            subject=lambda: None,
            done=self._place.beside_wanted.emit,
        )

    def choose_root(self) -> Chooser | None:
        """Say what the lesson works on."""
        page, key = self._student_page.page, self._student_page.lesson
        known = page.lesson(key) if page is not None else None
        if page is None or known is None:
            return None
        lesson = known[0]
        faults = in_use().faults
        seen = {one.fault: one for swing in page.swings.get(key, ()) for one in swing.facts.seen}
        rest = [one for one in faults.values() if not one.consequence and one.key not in seen]
        choices = []
        for fault in [*(faults[k] for k in seen if k in faults), *rest]:
            one = seen.get(fault.key)
            root = (one or Seen(fault.key, "unknown")).root(by_hand=True)
            choices.append(
                Choice(
                    fault.title,
                    lambda r=root: self._student_page.set_lesson(tr("Choose what to work on"), key, root=r),
                    detail=tr(one.verdict) if one else "",
                    checked=lesson.root is not None and lesson.root.fault == fault.key,
                )
            )
        chooser = Chooser(self._place, self._context.look, tr("What does this lesson work on?"), choices)
        chooser.open(self._place.lesson.more)
        return chooser

    def give_up(self) -> Entry | None:
        """Say that what was worked on is not pursued any more, and why."""
        page, key = self._student_page.page, self._student_page.lesson
        known = page.lesson(key) if page is not None else None
        if known is None or known[0].root is None:
            self._place.said.emit(tr("Nothing was worked on in this lesson."))
            return None
        root = known[0].root

        def take(value: object) -> None:
            reason = str(value).strip()
            if reason:
                self._student_page.set_lesson(tr("Give up"), key, root=replace(root, given_up=reason))

        entry = Entry(
            self._place,
            self._context.look,
            tr("Why is it not pursued any more?"),
            take,
            most=LONGEST_TEXT,
        )
        entry.open(self._place.lesson.more)
        return entry

    def archive(self) -> None:
        """Lay the student aside, or take them up again."""
        page = self._student_page.page
        if page is not None:
            label = tr("Take up again") if page.student.archived else tr("Archive")
            self._student_page.set_student(label, archived=not page.student.archived)
            self._place.said.emit(
                tr("%s stands on the list again") % shown(page.student.name)
                if page.student.archived
                else tr("%s is archived; a search with archived students shown finds them")
                % shown(page.student.name)
            )

    def choose_other(self) -> None:
        """Choose with whom the student on show is one."""
        page = self._student_page.page
        if page is None:
            return

        def others(book: Book) -> list[Listed]:
            with book.reading() as db:
                return [one for one in students.listed(db, archived=True) if one.id != page.student.id]

        def choose(found: list[Listed]) -> None:
            if not found:
                self._place.said.emit(tr("There is nobody else in this Book."))
                return
            choices = [
                Choice(
                    shown(one.name),
                    lambda o=one: self._join(o),
                    detail=several(one.lessons, "one lesson", "%d lessons"),
                )
                for one in found
            ]
            title = tr("Who is %s too? All lessons come together; undo parts them.") % shown(
                page.student.name
            )
            Chooser(self._place, self._context.look, title, choices, typing=True).open(self._place.name)

        self._context.records.read(
            self._student_page.which, others, subject=lambda: self._student_page.student, done=choose
        )

    def _join(self, other: Listed) -> None:
        name = self._place.student_name
        self._student_page.steps.join(other)
        self._place.said.emit(
            tr("%s and %s are one now. Undo parts them.") % (shown(name), shown(other.name))
        )

    def delete_lesson(self) -> None:
        """Delete the lesson that is read; undone by undo until the desk is closed."""
        page, key = self._student_page.page, self._student_page.lesson
        known = page.lesson(key) if page is not None else None
        if known is not None:
            day = known[0].day.isoformat()
            self._student_page.steps.delete(
                "lesson", key, tr("Delete the lesson"), f"{page.student.name}, {day}"
            )
            self._place.said.emit(tr("The lesson is deleted. Undo brings it back until Kneel is closed."))
            self._list_left([key], page)

    def delete_student(self) -> None:
        """Delete the student with all lessons; undone by undo until the desk is closed."""
        page = self._student_page.page
        if page is not None:
            name = shown(page.student.name)
            self._student_page.steps.delete(
                "student", page.student.id, tr("Delete the student"), page.student.name
            )
            self._place.said.emit(tr("%s is deleted. Undo brings all back until Kneel is closed.") % name)
            self._list_left([lesson.id for lesson, _ in page.lessons], page)

    def _list_left(self, days: list[str], page: Page) -> None:
        """Name the clips that stay, since they lie in folders that are not Kneel’s own."""
        own = self._context.records.books.lies(self._student_page.which).folder / FOLDER
        clips = [row.clip for key in days for row in page.swings.get(key, ())]
        left = [clip for clip in dict.fromkeys(clips) if not clip.is_relative_to(own)]
        if left:
            choices = [Choice(shown(clip), lambda: None, enabled=False) for clip in left]
            title = tr("These clips stay where they are; Kneel deletes only what it made")
            Chooser(self._place, self._context.look, title, choices, typing=False).open(None)

    def export(self) -> None:
        """Write all that is known of the student into a folder."""
        page = self._student_page.page
        if page is not None:
            self._place.moving.browse_export(self._student_page.which, page.student.id)

    def take_in(self) -> None:
        """Take in lessons that were sent."""
        self._place.moving.browse_in(self._student_page.which)

    def copy(self) -> None:
        """Save a copy of the Book."""
        self._place.moving.browse_copy(self._student_page.which)

    def look_at_declined(self) -> Chooser | None:
        """What was changed here and lost to another desk: take it after all, or let it go."""
        page = self._student_page.page
        if page is None or not page.declined:
            return None
        choices = []
        for one in page.declined:
            fields = ", ".join(tr(name) for name in one.fields)
            take = Choice(
                tr("Take yours: %s") % fields, lambda o=one: self._student_page.steps.take_declined(o)
            )
            drop = Choice(
                tr("Let it go: %s") % fields, lambda o=one: self._student_page.steps.drop_declined(o)
            )
            choices += [take, drop]
        title = tr("Changed here, while another desk changed the same")
        chooser = Chooser(self._place, self._context.look, title, choices, typing=False)
        chooser.open(self._place.declined)
        return chooser

    def more(self) -> Chooser:
        """What else can be done with the lesson."""
        handlers = self.table()
        titles = {
            "choose_root": tr("Choose what it works on …"),
            "give_up_root": tr("Give that up, with a reason …"),
            "delete_lesson": tr("Delete the lesson"),
        }
        choices = [Choice(title, handlers[key]) for key, title in titles.items()]  # type: ignore[arg-type]
        chooser = Chooser(self._place, self._context.look, tr("More"), choices, typing=False)
        chooser.open(self._place.lesson.more)
        return chooser
