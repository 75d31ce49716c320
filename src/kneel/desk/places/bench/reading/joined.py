"""One sentence about another clip of the lesson, with a button for what can be done about it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip, worded


class Joined(QWidget):
    """The sentence, and a button; hidden where there is none."""

    clicked = pyqtSignal()

    def __init__(self, told: str = "") -> None:
        super().__init__()
        self.words = worded("secondary", selectable=True)
        self.button = QPushButton(tr("Go there"))
        self.button.setProperty("small", "true")
        self.button.setCursor(Qt.CursorShape.PointingHandCursor)
        self.button.setToolTip(tip(told))
        self.button.clicked.connect(lambda _=False: self.clicked.emit())
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 0, 2)
        row.setSpacing(8)
        row.addWidget(self.words, 1)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def show_words(self, words: str, deed: str = "", why: str = "") -> None:
        """Say it with what the button does and why, or nothing."""
        self.words.setText(words)
        if deed:
            self.button.setText(deed)
            self.button.setToolTip(tip(why))
        self.button.setAccessibleName(f"{self.button.text()}: {words}")
        self.setVisible(bool(words))
