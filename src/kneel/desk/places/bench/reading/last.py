"""What the last lesson left, over everything new: its root with its number then and now, drill, and words."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.records.practice import Practice
from kneel.desk.widgets.fold import Fold
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.theme.look import restyle
from kneel.practice.carried import RootStage
from kneel.speech.book import carried_sentence, last_line, last_words

ROLES = {RootStage.HELD: "clear", RootStage.OPEN: "fault"}


class LastLesson(QWidget):
    """One line under the findings that opens.

    ``give_up_wanted`` asks for a reason, ``book_wanted`` for more.
    """

    give_up_wanted = pyqtSignal()
    book_wanted = pyqtSignal()

    def __init__(self, look: Look, practice: Practice) -> None:
        super().__init__()
        self._look, self._practice = look, practice
        self._edge = "chosen_edge"
        self.line = Fold(look, tr("What the last lesson worked on"))
        self.line.toggled.connect(lambda _: self.refresh())
        self._words, self._said = Label(), Label()
        restyle(self._said, "secondary")
        for label in (self._words, self._said):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.give_up = QPushButton(tr("Give it up …"))
        self.book = QPushButton(tr("In the Book"))
        for button in (self.give_up, self.book):
            button.setProperty("small", "true")
        self.give_up.clicked.connect(lambda _=False: self.give_up_wanted.emit())
        self.book.clicked.connect(lambda _=False: self.book_wanted.emit())
        self._buttons = QWidget()
        row = QHBoxLayout(self._buttons)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.give_up)
        row.addWidget(self.book)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 0, 2)
        column.setSpacing(4)
        for part in (self.line, self._words, self._said, self._buttons):
            column.addWidget(part)
        practice.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say what the last lesson left."""
        last, carried = self._practice.last.known, self._practice.last.carried
        self.setVisible(last is not None)
        if last is None:
            return
        # What binds may be of an earlier lesson than the last: a day of putting lets nothing go.
        lesson = last.worked or last.lesson
        change = self._practice.last.since
        self.line.say(last_line(lesson, carried, change, self._practice.today))
        words = carried_sentence(carried, change) if carried is not None else tr("Nothing was at fault.")
        self._words.setText(words)
        plans, day = self._practice.student.plans, self._practice.record.day
        since = dict.fromkeys(last_words(one, plans, day) for one in (lesson, last.lesson))
        said = " · ".join(words for words in since if words)
        self._said.setText(said)
        opened = self.line.isChecked()
        self._words.setVisible(opened)
        self._said.setVisible(opened and bool(said))
        self._buttons.setVisible(opened)
        self.give_up.setVisible(carried is not None and carried.binds)
        self._edge = ROLES.get(carried.stage, "chosen_edge") if carried is not None else "chosen_edge"
        self.update()

    def text_shown(self) -> str:
        """All that stands there."""
        parts = (self.line, self._words, self._said)
        return " ".join(part.text() for part in parts if not part.isHidden())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(0, 2, 3, self.height() - 4, self._look.colour(self._edge))
