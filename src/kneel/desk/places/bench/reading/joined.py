"""One sentence that joins the open clip with one of another view; a press goes there."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded


class Joined(QWidget):
    """The sentence, and a button that goes to the other clip; hidden where there is none."""

    clicked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.words = worded("secondary", selectable=True)
        self.button = QPushButton(tr("Go there"))
        self.button.setProperty("small", "true")
        self.button.setCursor(Qt.CursorShape.PointingHandCursor)
        self.button.setToolTip(tr("Open the other clip where it shows this"))
        self.button.clicked.connect(lambda _=False: self.clicked.emit())
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 0, 2)
        row.setSpacing(8)
        row.addWidget(self.words, 1)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def show_words(self, words: str) -> None:
        """Say it, or nothing."""
        self.words.setText(words)
        self.button.setAccessibleName(f"{tr('Go there')}: {words}")
        self.setVisible(bool(words))
