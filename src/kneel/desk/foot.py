"""The line at the foot of the window: hints, what is under way, and what was said."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from kneel.desk.context import Context
from kneel.desk.words import tr
from kneel.disk import shown


class Message(QLabel):
    """One line that is cut at its end where there is no room, never at its beginning."""

    def __init__(self) -> None:
        super().__init__()
        self._whole = ""
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def text(self) -> str:
        """All that is said, shown or not."""
        return self._whole

    def say(self, words: str) -> None:
        self._whole = words
        self.setToolTip(words)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()
        super().resizeEvent(event)

    def _fit(self) -> None:
        room = self.contentsRect().width()
        self.setText(self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, room))


class Foot(QWidget):
    """A warning stands until it is settled, work under way before what was last said.

    ``elsewhere_wanted`` asks for another place for what cannot be saved.
    """

    elsewhere_wanted = pyqtSignal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self._context = context
        self._said = self._warning = self._filling = ""
        self._passing = False
        self._hints = QLabel()
        self.message = Message()
        self.stop, self._elsewhere = QPushButton(tr("Stop")), QPushButton(tr("Save elsewhere …"))
        self.stop.setAccessibleName(tr("Stop the work in the background"))
        self.stop.clicked.connect(context.jobs.stop)
        self._elsewhere.clicked.connect(self.elsewhere_wanted)
        for button in (self.stop, self._elsewhere):
            button.setFixedHeight(22)
            button.setStyleSheet("padding: 1px 10px;")
            button.hide()
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 6)
        row.addWidget(self._hints)
        row.addWidget(self.message, 1)
        row.addWidget(self._elsewhere)
        row.addWidget(self.stop)
        context.look.changed.connect(self._show)
        context.jobs.changed.connect(self._show)
        self._show()

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
        said = "" if work and self._passing else self._said
        words = "  ·  ".join(part for part in (self._warning or said, work) if part)
        c = self._context.look.colours
        self.message.say(words)
        styles = (
            (self.message, f"color: {c.watch if self._warning else c.secondary};"),
            (self._hints, f"color: {c.faint}; font-size: 11.5px;"),
        )
        for label, style in styles:
            # To set a style, the same one even, costs as much as to paint.
            if label.styleSheet() != style:
                label.setStyleSheet(style)
        self._hints.setVisible(not self._warning)
        self._elsewhere.setVisible(bool(self._warning))
        self.stop.setVisible(bool(running))
