"""The status bar: what stands until it is read, hints, the work under way, and what was said last."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, Qt, QTime, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, tip
from kneel.desk.widgets.theme import restyle
from kneel.disk import shown

MOST_NOTICES = 4

FRESH_MS = 5000
"""What was said longer ago was of the place that is left, and is gone with it."""


class Message(Label):
    """One line that is cut at its end where there is no room, never at its beginning."""

    def __init__(self) -> None:
        super().__init__()
        self._whole = ""
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def whole(self) -> str:
        """All that is said, shown or not."""
        return self._whole

    def fits(self, words: str) -> bool:
        """Whether words stand here uncut."""
        return self.fontMetrics().horizontalAdvance(words) <= max(self.contentsRect().width(), 200)

    def say(self, words: str) -> None:
        self._whole = words
        self.setToolTip(tip(words))
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()
        super().resizeEvent(event)

    def _fit(self) -> None:
        room = self.contentsRect().width()
        self.setText(self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, room))


class Notice(QWidget):
    """A sentence that stands until it is read, and can be copied."""

    read = pyqtSignal()

    def __init__(self, context: Context, words: str) -> None:
        super().__init__()
        self._look = context.look
        self.words = words
        label = Label(words)
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
        label.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.TextSelectableByKeyboard
        )
        label.setAccessibleName(words)
        copy, read = QPushButton(tr("Copy")), QPushButton(tr("Read"))
        copy.clicked.connect(lambda: QApplication.clipboard().setText(words))
        read.clicked.connect(self.read)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 10, 6)
        row.setSpacing(8)
        row.addWidget(label, 1)
        for button in (copy, read):
            button.setProperty("small", True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(button)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("raised"))
        painter.drawRoundedRect(self.rect(), 6, 6)
        painter.setBrush(self._look.colour("watch"))
        painter.drawRoundedRect(0, 4, 4, self.height() - 8, 2, 2)


class StatusBar(QWidget):
    """A warning stands until it is settled, an error until it is read, work under way before what was last
    said.

    ``elsewhere_wanted`` asks for another place for what cannot be saved.
    """

    elsewhere_wanted = pyqtSignal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self._context = context
        self._said = self._warning = ""
        self._passing = False
        self._since = QElapsedTimer()
        self._notices: list[Notice] = []
        self._hints = Label()
        self._hints.setProperty("role", "faint")
        self._hints.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        self.message = Message()
        self.stop, self._elsewhere = QPushButton(tr("Stop")), QPushButton(tr("Save elsewhere …"))
        self.stop.setAccessibleName(tr("Stop the work in the background"))
        self.stop.clicked.connect(context.jobs.stop)
        self._elsewhere.clicked.connect(self.elsewhere_wanted)
        for button in (self.stop, self._elsewhere):
            button.setProperty("small", True)
            button.hide()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(12, 0, 12, 6)
        self._column.setSpacing(4)
        row = QHBoxLayout()
        row.addWidget(self._hints)
        row.addWidget(self.message, 1)
        row.addWidget(self._elsewhere)
        row.addWidget(self.stop)
        # A button that comes and goes must not move the desk above it.
        row.addStrut(self.stop.sizeHint().height())
        self._column.addLayout(row)
        context.look.changed.connect(self._show)
        context.jobs.changed.connect(self._show)
        self._show()

    def text(self) -> str:
        """All that stands here: notices first, then the line."""
        return "\n".join([*(one.words for one in self._notices), self.message.whole()])

    def tell(self, sentence: str) -> None:
        """Say something until something else is said. What is too long for the line stands above."""
        sentence = shown(sentence)
        if sentence and not self.message.fits(sentence):
            self.complain(sentence)
            sentence = ""
        self._said, self._passing = sentence, False
        self._since.start()
        self._show()

    def turn_page(self) -> None:
        """Another place comes on show: what was said in the one before, and was read, goes."""
        if self._said and not self._passing and self._since.hasExpired(FRESH_MS):
            self.tell("")

    def complain(self, sentence: str) -> None:
        """Say what went wrong; it stands until it is read."""
        words = shown(sentence)
        if not words or any(one.words == words for one in self._notices):
            return
        notice = Notice(self._context, words)
        notice.read.connect(lambda: self._take_away(notice))
        self._notices.append(notice)
        self._column.insertWidget(len(self._notices) - 1, notice)
        if len(self._notices) > MOST_NOTICES:
            self._take_away(self._notices[0])

    def withdraw(self, sentence: str) -> None:
        """What went wrong is over: it need not stand there any more."""
        words = shown(sentence)
        for notice in [one for one in self._notices if one.words == words]:
            self._take_away(notice)

    def _take_away(self, notice: Notice) -> None:
        if notice in self._notices:
            self._notices.remove(notice)
            self._column.removeWidget(notice)
            notice.hide()
            notice.deleteLater()

    def follow(self, on_desk: OpenSwing) -> None:
        """Say in passing when the swing is saved and how far its clip is read; warn where it is not safe."""
        on_desk.filling.connect(self._on_filling)
        on_desk.autosave.saved.connect(self._on_saved)
        on_desk.autosave.troubled.connect(self.warn)

    def _on_saved(self) -> None:
        self.pass_on(tr("saved %s") % QTime.currentTime().toString("HH:mm"))

    def _on_filling(self, done: int, wanted: int) -> None:
        reading = tr("reading the clip, %d %%") % (100 * done // max(wanted, 1)) if done < wanted else ""
        self.pass_on(reading)

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
        work = "  ·  ".join(job.sentence for job in running)
        said = "" if work and self._passing else self._said
        words = "  ·  ".join(part for part in (self._warning or said, work) if part)
        self.message.say(words)
        restyle(self.message, "watch" if self._warning else "secondary")
        self._hints.setVisible(not self._warning)
        self._elsewhere.setVisible(bool(self._warning))
        self.stop.setVisible(bool(running))
