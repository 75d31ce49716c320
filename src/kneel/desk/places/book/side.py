"""Beside a student's page: what is practised now, what was said so far, and what can be done."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from kneel.desk.places.book.lesson import Said
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.judge.records import CARE
from kneel.model import Lesson, Student
from kneel.practice.schedule import planned_days
from kneel.speech.book import practice_words
from kneel.speech.practice import brief_day

WIDE = 256


class Done(QWidget):
    """How much of a plan is done, as a bar."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look, self._share = look, 0.0
        self.setFixedHeight(6)

    def show_share(self, share: float) -> None:
        self._share = min(max(share, 0.0), 1.0)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for role, share in (("raised", 1.0), ("chosen_edge", self._share)):
            painter.setBrush(self._look.colour(role))
            painter.drawRoundedRect(QRectF(0, 0, share * self.width(), 6), 3, 3)


class Now(CardBackground):
    """The plan that runs, in a few lines; ``plan_wanted`` leads to it."""

    plan_wanted = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self._title, self._drill, self._dose = Label(tr("Now")), Label(), Label()
        self._count, self._moves, self._care = Label(), Label(), Label()
        self._bar = Done(look)
        self._title.setProperty("role", "title")
        self._drill.setProperty("role", "strong")
        for label in (self._dose, self._moves):
            label.setProperty("role", "secondary")
        self._care.setProperty("role", "watch")
        self._care.setText(tr(CARE))
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(5)
        for part in (self._title, self._drill, self._dose, self._count, self._bar, self._moves, self._care):
            if isinstance(part, QLabel):
                part.setWordWrap(True)
                part.setTextFormat(Qt.TextFormat.PlainText)
            column.addWidget(part)

    def show_student(self, student: Student, today: datetime.date) -> None:
        """Show what somebody practises."""
        words = practice_words(student, today)
        plan = student.plan
        running = [self._dose, self._count, self._bar, self._moves, self._care]
        for part in running:
            part.setVisible(bool(words))
        if not words or plan is None:
            self._drill.setText(tr("No plan runs. One is made from a swing, on the Plan (F3)."))
            return
        self._drill.setText(words[0])
        self._dose.setText(words[1])
        planned = len(planned_days(plan))
        self._count.setText(tr("%d of %d sessions done") % (len(plan.log), planned))
        self._bar.show_share(len(plan.log) / max(planned, 1))
        self._moves.setText("\n".join(words[2:]))


class SaidSoFar(CardBackground):
    """What was said, lesson by lesson, newest first, and the notes on the student.

    ``picked`` carries the lesson that was clicked.
    """

    picked = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        title = Label(tr("What was said"))
        title.setProperty("role", "title")
        self._inner = QWidget()
        self._rows = QVBoxLayout(self._inner)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(8)
        self.notes = Said(tr("Notes on the student"))
        self.notes.setFixedHeight(58)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 8, 12)
        column.setSpacing(6)
        column.addWidget(title)
        column.addWidget(scrolled(self._inner), 1)
        column.addWidget(self.notes)
        self._shown: object = None

    def show_lessons(self, lessons: Sequence[Lesson], chosen: str, today: datetime.date) -> None:
        """Show what was said in these lessons."""
        about = (tuple((one.id, one.day, one.said) for one in lessons), chosen)
        if about == self._shown:
            return
        self._shown = about
        while (item := self._rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for one in lessons:
            if one.said or one.id == chosen:
                self._rows.addWidget(_Row(one, today, chosen=one.id == chosen, picked=self.picked.emit))
        self._rows.addStretch(1)

    def sizeHint(self) -> QSize:
        return QSize(WIDE, 260)


class _Row(QPushButton):
    """One lesson's words; a click reads that lesson."""

    def __init__(self, lesson: Lesson, today: datetime.date, *, chosen: bool, picked: object) -> None:
        super().__init__()
        self.setProperty("role", "flat")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        day, words = Label(brief_day(lesson.day, today)), Label(lesson.said or tr("nothing yet"))
        day.setProperty("role", "strong" if chosen else "caption")
        words.setTextFormat(Qt.TextFormat.PlainText)
        words.setWordWrap(True)
        if not lesson.said:
            words.setProperty("role", "secondary")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(1)
        for label in (day, words):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(label)
        self.setAccessibleName(f"{day.text()}: {words.text()}")
        self.clicked.connect(lambda _=False: picked(lesson.id))  # type: ignore[operator]
        policy = self.sizePolicy()
        policy.setHeightForWidth(True)
        policy.setVerticalPolicy(policy.Policy.Minimum)
        self.setSizePolicy(policy)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        layout = self.layout()
        return 30 if layout is None else layout.heightForWidth(width)

    def sizeHint(self) -> QSize:
        wide = min(max(self.width(), 120), WIDE - 40)
        return QSize(wide, self.heightForWidth(wide))
