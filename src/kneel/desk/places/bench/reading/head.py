"""The head of the reading: what the golfer tells, and what to do first in one sentence."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFormLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.entry import TextLine
from kneel.desk.widgets.fold import Fold
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, worded
from kneel.desk.widgets.theme import Look
from kneel.judge import Reading
from kneel.model.student import LONGEST_TEXT
from kneel.speech.balls import ball_words, balls_said
from kneel.speech.book import still_work_on
from kneel.speech.headline import headline
from kneel.vision.landmarks.lying import lies


class GolferLines(QWidget):
    """Complaint, ball flight and balls in one row that opens: they come first, and order the roots.

    ``ball_wanted`` asks for what the ball of this swing did.
    """

    ball_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open = opened
        self.row = Fold(look, tr("Complaint, ball flight, balls"))
        self.row.toggled.connect(self._unfold)
        self.lines = {
            field: self._told(field, title, prompt)
            for field, title, prompt in (
                ("complaint", tr("Complaint"), tr("pain, or what bothers")),
                ("flight", tr("Ball flight"), tr("fat, slice, weak …")),
            )
        }
        self._fields = QWidget()
        form = QFormLayout(self._fields)
        form.setContentsMargins(0, 2, 0, 2)
        form.setVerticalSpacing(6)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
        for line in self.lines.values():
            label = Label(line.accessibleName())
            label.setProperty("role", "caption")
            label.setBuddy(line)
            form.addRow(label, line)
        self.ball = QPushButton()
        self.ball.setProperty("small", "true")
        self.ball.clicked.connect(lambda _=False: self.ball_wanted.emit())
        form.addRow(self.ball)
        self._fields.hide()
        self.balls = worded("small", selectable=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.row)
        column.addWidget(self._fields)
        column.addWidget(self.balls)

    def _told(self, field: str, title: str, prompt: str) -> TextLine:
        """A line for what the golfer tells, kept in the document."""
        line = TextLine(LONGEST_TEXT)
        line.setAccessibleName(title)
        line.setPlaceholderText(prompt)

        def keep() -> None:
            if self._open.store is not None and line.text() != getattr(self._open.swing, field):
                self._open.set("Note what the student tells", **{field: line.text()})
            line.setModified(False)

        line.editingFinished.connect(keep)
        return line

    def _unfold(self, opened: bool) -> None:
        self._fields.setVisible(opened)
        self.refresh()
        if opened:
            next(iter(self.lines.values())).setFocus()

    def refresh(self, reading: Reading | None = None) -> None:
        """Say what is told in one line, and what the balls of the set did."""
        swing = self._open.swing
        if reading is not None:
            self.balls.setText(balls_said(reading))
            self.balls.setVisible(bool(reading.balls))
        self.ball.setText(tr("This ball: %s …") % (ball_words(swing.ball) or tr("not noted")))
        flight = shorten(tr("ball: %s") % swing.flight, LONGEST_FLIGHT) if swing.flight else ""
        complaint = shorten(swing.complaint, LONGEST_ROW - len(flight))
        told = " · ".join(part for part in (complaint, flight) if part)
        self.row.say(told or tr("What does the student tell?"))
        for field, line in self.lines.items():
            now = getattr(swing, field)
            if not (line.hasFocus() and line.isModified()) and line.text() != now:
                line.setText(now)


LONGEST_ROW, LONGEST_FLIGHT = 38, 24


def shorten(words: str, most: int) -> str:
    """Words on one line, cut between two of them where they are too many."""
    if len(words) <= most:
        return words
    cut = words[:most]
    return f"{cut.rpartition(' ')[0].rstrip(' ,;·') or cut[:-1]}…"


class Headline(QWidget):
    """One sentence of what to do now. ``turn_wanted`` asks for the clip to be turned."""

    turn_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, practice: Practice) -> None:
        super().__init__()
        self._open, self._practice = opened, practice
        self.words = worded("strong")
        self.turn = QPushButton(tr("Turn the clip …"))
        self.turn.setProperty("small", "true")
        self.turn.clicked.connect(lambda _=False: self.turn_wanted.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.words)
        column.addWidget(self.turn, 0, Qt.AlignmentFlag.AlignLeft)

    def refresh(self, reading: Reading) -> None:
        """Say it anew."""
        last = self._practice.last.carried
        bound = still_work_on(last) if last is not None and last.binds else ""
        words = headline(reading, self._open.analysis, bound=bound, main=self._practice.main)
        if not words and not reading.told:
            # Why there is nothing to say, where that is known: nobody is seen, or the film lies on its side.
            words = next(iter(self._open.looked.warnings), "")
        self.words.setText(words)
        self.words.setVisible(bool(words))
        self.turn.setVisible(lies(words))

    def text_shown(self) -> str:
        return self.words.text()
