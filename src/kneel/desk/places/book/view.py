"""The Book place: the students, and the page of one."""

from __future__ import annotations

import datetime
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.places.book.actions import BookActions, BookParts
from kneel.desk.places.book.facts import FactTokens
from kneel.desk.places.book.lesson import LessonCard
from kneel.desk.places.book.moving import Moving
from kneel.desk.places.book.people import WIDE as PEOPLE_WIDE
from kneel.desk.places.book.people import People
from kneel.desk.places.book.side import WIDE, Now, SaidSoFar
from kneel.desk.places.book.stills import Stills
from kneel.desk.places.book.student_page import StudentPage
from kneel.desk.places.book.subject import Subjects
from kneel.desk.places.book.trend import TrendChart
from kneel.desk.places.book.wanted import Wanted
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers
from kneel.desk.records import Which
from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import RecordsUndo
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.card import scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import font
from kneel.disk import shown
from kneel.model import Lesson, Student
from kneel.speech.words import capital, checkpoint_words

NARROW, PEOPLE_NARROW, SIDE_NARROW = 1000, 158, 186


class BookPlace(BookParts):
    """Students, lessons and trends. ``lesson_wanted`` carries what is to be opened on the Bench,
    ``clip_wanted`` of whom clips are.

    ``said`` carries a sentence, ``failed`` one about what could not be done.
    """

    key, title = "book", "Book"
    failed = pyqtSignal(str)
    lesson_wanted = pyqtSignal(object)
    clip_wanted = pyqtSignal(str)
    stepped = pyqtSignal()

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(
            RecordsUndo(context.records, lambda: (self.student_page.which, self.student_page.student))
        )
        self._open, self._context, self._practice = opened, context, practice
        look = context.look
        self.student_page = StudentPage(context, self)
        self.people, self.trend, self.stills = (
            People(look),
            TrendChart(look),
            Stills(look, context.records.books),
        )
        self.lesson, self.now, self.words = LessonCard(look), Now(look), SaidSoFar(look)
        self.facts = FactTokens(self.student_page, look)
        self.name = QPushButton()
        self.name.setProperty("role", "flat")
        self.name.setToolTip(tr("Rename the student"))
        self.complaint, self._under = Wanted(), Label()
        self.declined = QPushButton()
        self.declined.setProperty("small", "true")
        self.film = QPushButton()
        self.film.setProperty("primary", "true")
        self.nobody = Label(
            tr(
                "Nobody is in your Book yet. Write a new student down, or open a clip on the Bench and name "
                "its student: the lesson files itself."
            )
        )
        self.nobody.setWordWrap(True)
        self.nobody.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.moving = Moving(context, self)
        self._stale = True
        self._build()
        self._actions = BookActions(self.student_page, context, self)
        self.subjects = Subjects(self.student_page, practice, self.isVisible)
        self._connect()

    def _build(self) -> None:
        self.name.setFont(font(20, 600))
        for label in (self.complaint, self._under):
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setWordWrap(True)
            label.setProperty("role", "secondary")
        head = QHBoxLayout()
        head.addWidget(self.name)
        head.addStretch(1)
        inner = QWidget()
        middle = scrolled(inner)
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(8)
        column.addLayout(head)
        column.addWidget(self.facts)
        column.addWidget(self.complaint)
        column.addWidget(self.declined, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.film, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.trend, 10)
        column.addWidget(self._under)
        column.addWidget(self.stills, 8)
        column.addWidget(self.lesson)
        right = QWidget()
        right.setFixedWidth(WIDE)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(10)
        side.addWidget(self.now)
        side.addWidget(self.words, 1)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(12, 0, 12, 6)
        outer.setSpacing(14)
        outer.addWidget(self.people)
        outer.addWidget(middle, 1)
        outer.addWidget(self.nobody, 1)
        outer.addWidget(right)
        self._page_parts = (middle, right)

    def _connect(self) -> None:
        student_page, handlers = self.student_page, self._actions
        student_page.listed.connect(self._on_listed)
        student_page.changed.connect(self._refresh)
        student_page.failed.connect(self.failed)
        self.people.chosen.connect(student_page.show_student)
        self.people.searched.connect(student_page.search)
        self.people.new_wanted.connect(handlers.new_student)
        self.people.other_wanted.connect(self._to_other_book)
        self.people.list.doubleClicked.connect(lambda _: handlers.open_lesson())
        self.complaint.clicked.connect(handlers.write_wants)
        self.name.clicked.connect(lambda _=False: handlers.rename())
        self.trend.picked.connect(student_page.show_lesson)
        self.trend.against_wanted.connect(handlers.hold_against)
        self.trend.measure_wanted.connect(handlers.choose_measure)
        self.stills.picked.connect(student_page.show_lesson)
        self.words.picked.connect(student_page.show_lesson)
        notes, said = self.words.notes, self.lesson.words
        notes.kept.connect(partial(student_page.write, tr("Write notes"), Student, "notes"))
        said.kept.connect(partial(student_page.write, tr("Write what was said"), Lesson, "said"))
        for typed in (notes, said):
            typed.refused.connect(self.failed)
        self.lesson.open_wanted.connect(handlers.open_lesson)
        self.lesson.beside_wanted.connect(handlers.hold_lesson)
        self.lesson.more_wanted.connect(lambda _: handlers.more())
        self.film.clicked.connect(lambda _=False: self.clip_wanted.emit(self.student_name))
        self.declined.clicked.connect(lambda _=False: handlers.look_at_declined())
        self.moving.said.connect(self.said)
        self.moving.failed.connect(self.failed)
        self.moving.taken_in.connect(student_page.show_student)
        context = self._context
        context.records.changed.connect(self._on_book)
        context.records.stepped.connect(self.stepped)
        self._open.opened.connect(self._on_opened)

    # The place

    @property
    def today(self) -> datetime.date:
        return self._practice.today

    def handlers(self) -> Handlers:
        return self.subjects.about(self._actions.table())

    def hints(self) -> str:
        return tr("F2 Bench    Ctrl+B search    ← → step the stills    Ctrl+Z undo    F1 all keys")

    def enter(self) -> None:
        self.people.list.setFocus()

    def leave(self) -> None:
        self.subjects.forget()
        self._keep_typed()

    def _keep_typed(self) -> None:
        self.lesson.words.keep()
        self.words.notes.keep()

    @property
    def student_name(self) -> str:
        """Whose page is open."""
        return self.student_page.page.student.name if self.student_page.page is not None else ""

    def close_down(self) -> None:
        """Keep what is being typed, and give up what is under way."""
        self.leave()
        self.student_page.close_down()
        self.stills.close_down()
        self.moving.close_down()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The page in the middle comes first where the window is narrow."""
        super().resizeEvent(event)
        narrow = self.width() < NARROW
        self.people.setFixedWidth(PEOPLE_NARROW if narrow else PEOPLE_WIDE)
        self._page_parts[1].setFixedWidth(SIDE_NARROW if narrow else WIDE)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self._stale = False
            self._use_book()

    def _on_book(self) -> None:
        """The Book has changed: read again, now or when it comes on show."""
        if self.isVisible():
            self.student_page.refresh()
        else:
            self._stale = True

    def _on_opened(self) -> None:
        """Another swing is on the desk: its student is the one to show."""
        self.student_page.student = ""
        self._on_book()

    def _use_book(self) -> None:
        store = self._open.store
        which = self._context.records.books.which(store.info.path if store else None)
        self._keep_typed()
        self.student_page.use(
            which, self._practice.record.key if which is self._practice.record.which else ""
        )

    # Showing

    def _to_other_book(self) -> None:
        """From the demo's students to the instructor's own, or back."""
        self._keep_typed()
        self.student_page.turn_to(Which.OWN if self.student_page.which is Which.DEMO else Which.DEMO, "")

    def _on_listed(self) -> None:
        self.people.show_people(self.student_page.students, self.student_page.student)

    def _refresh(self) -> None:
        """Show the page that was read."""
        page, today = self.student_page.page, self.today
        demo = self.student_page.which is Which.DEMO
        self.people.show_book(demo=demo, other=Which.DEMO in self._context.records.books.opened())
        self.people.show_people(self.student_page.students, self.student_page.student)
        for part in self._page_parts:
            part.setVisible(page is not None)
        self.nobody.setVisible(page is None and not self.student_page.query)
        self.stepped.emit()
        if page is None:
            return
        student = page.student
        self.film.setText(tr("Open a clip of %s …") % shown(student.name).replace("&", "&&"))
        self.film.setVisible(not page.lessons)
        self.name.setText(shown(student.name).replace("&", "&&"))
        self.facts.refresh()
        last = page.lessons[0][0] if page.lessons else None
        said = [f"“{last.complaint}”"] if last is not None and last.complaint else []
        wants = student.goals or tr("What does the student want?")
        self.complaint.setText("  ".join([*said, wants]))
        self.declined.setText(tr("Kept of yours: %d ▾") % len(page.declined))
        self.declined.setVisible(bool(page.declined))
        nothing = (
            tr("No lesson yet. Open or drop a clip on the Bench and name %s as its student.")
            % shown(student.name)
            if last is None
            else tr("No swing of this student tells a number yet: open its lesson on the Bench.")
        )
        self.trend.show_trend(
            page.trend,
            self.student_page.lesson,
            drills=self._practice.offer.drills,
            today=today,
            nothing=nothing,
        )
        self.stills.show_points(self.student_page.which, page.trend, self.student_page.lesson)
        self.stills.setVisible(page.trend is not None)
        self._under.setVisible(page.trend is not None)
        if page.trend is not None:
            at = page.trend.at
            where = capital(tr("at %s") % checkpoint_words(at)) if at != "once" else tr("At address")
            self._under.setText(tr("%s, on one scale. Arrow keys step all of them together.") % where)
        known = page.lesson(self.student_page.lesson)
        swings = page.swings.get(self.student_page.lesson, ())
        self.lesson.show_lesson(self.student_page.which, known[0] if known else None, swings, today)
        self.now.show_student(student, today)
        self.words.show_lessons([one for one, _ in page.lessons], self.student_page.lesson, today)
        self.words.notes.show_text((self.student_page.which, student.id), student.notes)
