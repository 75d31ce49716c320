"""The line at the foot of the window: hints, what is under way, and what was said."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from kneel.desk.context import Context
from kneel.desk.words import tr
from kneel.disk import shown


class Foot(QWidget):
    """A warning stands until it is settled, work under way before what was last said."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self._context = context
        self._said = self._warning = self._filling = ""
        self._passing = False
        self._hints = QLabel()
        self._hints.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.message = QLabel()
        self.message.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.message.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.message.setTextFormat(Qt.TextFormat.PlainText)
        self.stop = QPushButton(tr("Stop"))
        self.stop.setAccessibleName(tr("Stop the work in the background"))
        self.stop.setFixedHeight(22)
        self.stop.setStyleSheet("padding: 1px 10px;")
        self.stop.clicked.connect(context.jobs.stop)
        self.stop.hide()
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 6)
        row.addWidget(self._hints, 5)
        row.addWidget(self.message, 6)
        row.addWidget(self.stop)
        context.jobs.changed.connect(self._show)

    def tell(self, sentence: str) -> None:
        """Say something; it stands until something else is said."""
        self._said, self._passing = shown(sentence), False
        self._show()

    def pass_on(self, sentence: str) -> None:
        """Say something that may be said over, and does not itself say over what matters."""
        if self._passing or not self._said:
            self._said, self._passing = sentence, bool(sentence)
            self._show()

    def warn(self, sentence: str) -> None:
        """Say that work is not safe; an empty sentence tells that it is again."""
        self._warning = shown(sentence)
        self._show()

    def hint(self, words: str) -> None:
        """The keys worth knowing now."""
        self._hints.setText(words)

    def _show(self) -> None:
        running = self._context.jobs.running
        work = running[-1].sentence if running else ""
        words = self._warning or work or self._said
        if self._warning and work:
            words = f"{self._warning}  ·  {work}"
        c = self._context.look.colours
        self.message.setText(words)
        self.message.setToolTip(words)
        self.message.setStyleSheet(f"color: {c.watch if self._warning else c.secondary};")
        self._hints.setStyleSheet(f"color: {c.faint}; font-size: 11.5px;")
        self.stop.setVisible(bool(running))
