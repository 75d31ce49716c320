"""The bar of a recording, over the picture: how long, how loud, pause, say anew, end."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from kneel.desk.operations.microphone import SILENT, devices
from kneel.desk.places.context import Context
from kneel.desk.places.review.recorder import CHOSEN, Doing, Recorder
from kneel.desk.stage.stage import Stage
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, tip
from kneel.desk.widgets.theme import Look

EDGE, BELOW_WORDS, SHOWN_MS = 10, 46, 200


def clock_words(seconds: float) -> str:
    """A length as clocks show it.

    >>> clock_words(83.4)
    '1:23'
    """
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


class Level(QWidget):
    """How loud the voice is; red where it is cut off."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look, self._loud = look, 0.0
        self.setFixedSize(QSize(70, 10))
        self.setAccessibleName(tr("How loud the voice is"))

    def show_level(self, loud: float) -> None:
        """Show another loudness, 0 to 1."""
        self._loud = loud
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("edge"))
        painter.drawRoundedRect(QRectF(self.rect()), 3, 3)
        share = min(max(self._loud, 0.0), 1.0) ** 0.5
        painter.setBrush(self._look.colour("fault" if self._loud > 0.97 else "clear"))
        painter.drawRoundedRect(QRectF(0, 0, self.width() * share, self.height()), 3, 3)


class RecordBar(QFrame):
    """Lies over the picture while a review is recorded."""

    def __init__(self, recorder: Recorder, stage: Stage, context: Context) -> None:
        super().__init__(stage)
        self._recorder, self._stage, self._context = recorder, stage, context
        self.setProperty("role", "transport")
        self.time, self.level = Label(), Level(context.look)
        self.time.setProperty("role", "strong")
        self.time.setMinimumWidth(132)
        self.pause, self.stop = self._button(tr("Pause")), self._button(tr("End"))
        self.again, self.device = self._button(""), self._button(tr("Microphone …"))
        self.moment = QSlider(Qt.Orientation.Horizontal)
        self.moment.setAccessibleName(tr("From when it is said anew"))
        self.moment.setMinimumWidth(150)
        row, below = QHBoxLayout(), QHBoxLayout()
        for part in (self.time, self.level, self.pause, self.stop):
            row.addWidget(part)
        for part in (self.moment, self.again, self.device):
            below.addWidget(part)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 8, 6)
        column.addLayout(row)
        column.addLayout(below)
        self.pause.clicked.connect(lambda _=False: recorder.pause())
        self.stop.clicked.connect(lambda _=False: recorder.stop())
        self.again.clicked.connect(lambda _=False: recorder.again_from(self.moment.value() / 10))
        self.device.clicked.connect(lambda _=False: self.choose_device())
        self.moment.valueChanged.connect(self._say_again)
        recorder.changed.connect(self.refresh)
        recorder.level.connect(self.level.show_level)
        self._timer = QTimer(self, interval=SHOWN_MS)
        self._timer.timeout.connect(self._say_time)
        # Under the words on the frame: the foot of the picture has the transport, and what the signs mean.
        self.move(EDGE, BELOW_WORDS)
        self.hide()

    def _button(self, words: str) -> QPushButton:
        button = QPushButton(words)
        button.setProperty("small", True)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        return button

    def choose_device(self) -> None:
        """Choose the microphone for the next go."""
        chosen = str(self._context.settings.value(CHOSEN, ""))

        def take(key: str) -> None:
            self._context.settings.setValue(CHOSEN, key)

        choices = [
            Choice(one.title, lambda key=one.key: take(key), checked=one.key == chosen) for one in devices()
        ]
        silent = Choice(tr("None: a sound file is laid under it later"), lambda: take(SILENT))
        Chooser(self._stage.window(), self._context.look, tr("Microphone"), [*choices, silent]).open(None)

    def refresh(self) -> None:
        """Show what the recorder does."""
        doing = self._recorder.doing
        self.setVisible(doing is not Doing.NOTHING)
        if doing is Doing.NOTHING:
            self._timer.stop()
            return
        paused = doing is Doing.PAUSED
        self.pause.setText(tr("Go on") if paused else tr("Pause"))
        self.pause.setToolTip(tip(tr("Hold the recording, or go on (Ctrl+Shift+R)")))
        self.stop.setToolTip(tip(tr("End the review; it is kept with the swing (Ctrl+R)")))
        for part in (self.moment, self.again, self.device):
            part.setVisible(paused)
        self.level.setVisible(not paused and not self._recorder.silent)
        if paused:
            self.moment.setRange(0, round(10 * self._recorder.seconds))
            self.moment.setValue(self.moment.maximum())
            self._say_again()
        self._timer.start()
        self._say_time()

    def _say_time(self) -> None:
        words = tr("paused") if self._recorder.doing is Doing.PAUSED else tr("recording")
        self.time.setText(f"● {clock_words(self._recorder.seconds)} {words}")
        self.adjustSize()

    def _say_again(self) -> None:
        self.again.setText(tr("Say anew from %s") % clock_words(self.moment.value() / 10))
        self.again.setEnabled(self.moment.value() < self.moment.maximum())
