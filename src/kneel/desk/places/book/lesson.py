"""The lesson that is read: what was worked on, what was overruled, what went home, and what was said."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QTextCursor
from PyQt6.QtWidgets import QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout

from kneel.book.repository.swings import Indexed
from kneel.desk.records import Which
from kneel.desk.widgets.card import CardBackground
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.model import Lesson
from kneel.model.student import LONGEST_TEXT
from kneel.speech.book import lesson_facts, lesson_title

KEEP_MS, AT_LAST_MS = 900, 3000
"""What is typed is kept once the hands rest for so long, and so often while they do not."""


class Said(QPlainTextEdit):
    """What was said, as it is typed; ``kept`` carries whom or what it is about, the text that was kept before
    and the text, every few seconds, once the hands rest, the field is left, or it is to show something else.
    ``refused`` carries a sentence.
    """

    kept = pyqtSignal(object, str, str)
    refused = pyqtSignal(str)

    def __init__(self, words: str) -> None:
        super().__init__()
        self.setPlaceholderText(words)
        self.setAccessibleName(words)
        self.setTabChangesFocus(True)
        self._about: object = None
        self._known = ""
        self._soon = QTimer(self, singleShot=True, interval=KEEP_MS)
        self._at_last = QTimer(self, singleShot=True, interval=AT_LAST_MS)
        for timer in (self._soon, self._at_last):
            timer.timeout.connect(self.keep)
        self.textChanged.connect(self._on_typed)

    def show_text(self, about: object, text: str) -> None:
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
        self._at_last.stop()
        text, was = self.toPlainText(), self._known
        if text != was and self._about is not None:
            self._known = text
            self.kept.emit(self._about, was, text)

    def _on_typed(self) -> None:
        self._soon.start()
        if not self._at_last.isActive():
            self._at_last.start()
        over = len(self.toPlainText()) - LONGEST_TEXT
        if over > 0:
            # The end of what has just come is not taken; what stood there stays.
            cursor = self.textCursor()
            start = max(cursor.position() - over, 0)
            cursor.setPosition(start, QTextCursor.MoveMode.KeepAnchor)
            cursor.removeSelectedText()
            words = tr("At most %d letters can be kept here: the last %d were not taken.")
            self.refused.emit(words % (LONGEST_TEXT, over))

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.keep()


class LessonCard(CardBackground):
    """One lesson. ``open_wanted``, ``beside_wanted`` and ``more_wanted`` carry its id."""

    open_wanted = pyqtSignal(str)
    beside_wanted = pyqtSignal(str)
    more_wanted = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.lesson: Lesson | None = None
        self._title, self._facts = Label(), Label()
        self._title.setProperty("role", "strong")
        self._facts.setProperty("role", "secondary")
        self._facts.setTextFormat(Qt.TextFormat.PlainText)
        self._facts.setWordWrap(True)
        self.words = Said(tr("What was said in this lesson"))
        self.words.setFixedHeight(52)
        self.open = QPushButton(tr("Open on the Bench"))
        self.beside = QPushButton(tr("Hold beside"))
        self.beside.setToolTip(tr("Hold a swing of this lesson beside the one on the desk: then and now"))
        self.more = QPushButton(tr("More …"))
        for button in (self.open, self.beside, self.more):
            button.setProperty("small", "true")
        self.open.clicked.connect(lambda _=False: self._tell(self.open_wanted))
        self.beside.clicked.connect(lambda _=False: self._tell(self.beside_wanted))
        self.more.clicked.connect(lambda _=False: self._tell(self.more_wanted))
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addStretch(1)
        head.addWidget(self.open)
        head.addWidget(self.beside)
        head.addWidget(self.more)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.setSpacing(6)
        column.addLayout(head)
        column.addWidget(self.words)
        column.addWidget(self._facts)

    def show_lesson(
        self, which: Which, lesson: Lesson | None, swings: Sequence[Indexed], today: datetime.date
    ) -> None:
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
        for button in (self.open, self.beside):
            button.setEnabled(bool(swings))
        self.words.show_text((which, lesson.id), lesson.said)

    def facts_text(self) -> str:
        """What stands under the words."""
        return self._facts.text()

    def _tell(self, signal: object) -> None:
        if self.lesson is not None:
            signal.emit(self.lesson.id)  # type: ignore[attr-defined]
