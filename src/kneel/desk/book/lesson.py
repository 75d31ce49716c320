"""The lesson that is read: what was worked on, what was overruled, what went home, and what was said."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout

from kneel.book.swings import Indexed
from kneel.desk.ground import Ground
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.model import Lesson
from kneel.model.student import LONGEST_TEXT
from kneel.speech.book import lesson_facts, lesson_title

KEEP_MS = 900


class Said(QPlainTextEdit):
    """What was said, as it is typed; ``kept`` carries whom or what it is about, and the text, once the hands
    rest, the field is left, or it is to show something else.
    """

    kept = pyqtSignal(str, str)

    def __init__(self, words: str) -> None:
        super().__init__()
        self.setPlaceholderText(words)
        self.setAccessibleName(words)
        self.setTabChangesFocus(True)
        self._about = self._known = ""
        self._soon = QTimer(self, singleShot=True, interval=KEEP_MS)
        self._soon.timeout.connect(self.keep)
        self.textChanged.connect(self._soon.start)

    def show_text(self, about: str, text: str) -> None:
        """Show what is known about something, unless just that is being typed."""
        if about != self._about:
            self.keep()
            self._about = about
        if text == self._known or (self.hasFocus() and self.toPlainText() != self._known):
            return
        self._known = text
        self.blockSignals(True)
        self.setPlainText(text)
        self.blockSignals(False)

    def keep(self) -> None:
        """Have it kept."""
        self._soon.stop()
        text = self.toPlainText()[:LONGEST_TEXT]
        if text != self._known:
            self._known = text
            self.kept.emit(self._about, text)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.keep()


class LessonCard(Ground):
    """One lesson. ``said`` carries its id and what was typed, ``open_wanted`` and ``more_wanted`` its id."""

    said = pyqtSignal(str, str)
    open_wanted = pyqtSignal(str)
    more_wanted = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.lesson: Lesson | None = None
        self._title, self._facts = QLabel(), QLabel()
        self._title.setProperty("role", "strong")
        self._facts.setProperty("role", "secondary")
        self._facts.setTextFormat(Qt.TextFormat.PlainText)
        self._facts.setWordWrap(True)
        self.words = Said(tr("What was said in this lesson"))
        self.words.setFixedHeight(52)
        self.words.kept.connect(self.said)
        self.open = QPushButton(tr("Open on the Bench"))
        self.more = QPushButton(tr("More …"))
        for button in (self.open, self.more):
            button.setProperty("small", "true")
        self.open.clicked.connect(lambda _=False: self._tell(self.open_wanted))
        self.more.clicked.connect(lambda _=False: self._tell(self.more_wanted))
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addStretch(1)
        head.addWidget(self.open)
        head.addWidget(self.more)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.setSpacing(6)
        column.addLayout(head)
        column.addWidget(self.words)
        column.addWidget(self._facts)

    def show_lesson(self, lesson: Lesson | None, swings: Sequence[Indexed], today: datetime.date) -> None:
        """Show a lesson with its swings."""
        if lesson is None:
            self.words.keep()
        self.lesson = lesson
        self.setVisible(lesson is not None)
        if lesson is None:
            return
        title, beside = lesson_title(lesson.day, swings, today)
        self._title.setText(title)
        self._facts.setText("  ·  ".join(part for part in (beside, lesson_facts(lesson, swings)) if part))
        self.open.setEnabled(bool(swings))
        self.words.show_text(lesson.id, lesson.said)

    def facts_text(self) -> str:
        """What stands under the words."""
        return self._facts.text()

    def _tell(self, signal: object) -> None:
        if self.lesson is not None:
            signal.emit(self.lesson.id)  # type: ignore[attr-defined]
