"""What is asked of a swing: what is wrong, how far, how sure; and after the answer what it truly was."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.places.trainer.running import Phase, RunningRound
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import LEFT, RIGHT, tip, wide, worded, write
from kneel.desk.widgets.theme import Look, font
from kneel.trainer.asked import asked_faults
from kneel.trainer.records import Answer, Sure
from kneel.trainer.words import (
    SURE,
    missed_words,
    round_words,
    shot_words,
    size_verdict,
    sized,
    title_of,
    verdict,
)

WIDE = 372
ROOMY_PX, PICK_PX, LOW_PX = 560, 34, 27
"""From the first height on an answer is as high as the second, else as the third."""

PER = 10
"""A slider counts in tenths of a centimetre or degree."""

ABOUT = (
    "Golfers who never were, each with a fault or with none, filmed as students are.",
    "Name what is wrong, lay its size on the picture, say how sure you are.",
    "Then the picture argues: the line, the true distance, the golfer without the fault.",
    "What you miss comes again soon, what you know rests.",
    "How well you tell a fault is said from 25 swings with it on, with its error.",
    "What is answered stays on this desk.",
)

SURE_LETTERS = {Sure.GUESS: "G", Sure.HALF: "H", Sure.RATHER: "R", Sure.CERTAIN: "C"}


class Pick(QAbstractButton):
    """One answer, with its key; after the answer it says what was so."""

    def __init__(self, look: Look, key: str) -> None:
        super().__init__()
        self._look, self._key = look, key
        self.words = self.mark = ""
        self.colour = ""
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMinimumHeight(LOW_PX)

    def show_words(self, words: str, mark: str = "", colour: str = "") -> None:
        """Show an answer, and a word of what became of it."""
        self.words, self.mark, self.colour = words, mark, colour
        self.setAccessibleName(f"{words}, {mark}" if mark else f"{words} ({self._key})")
        self.setToolTip(tip(words))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(wide(self.words, font(12.5)) + wide(self.mark, font(11)) + 46), PICK_PX)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, on = self._look, self.isChecked()
        edge = self.colour or ("chosen_edge" if on or self.hasFocus() else "edge")
        painter.setPen(QPen(look.colour(edge), 1.6 if on or self.colour else 1.1))
        painter.setBrush(look.colour("chosen" if on else "raised"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        inner = QRectF(self.rect()).adjusted(10, 0, -10, 0)
        write(painter, inner, self._key, font(11), look.colour("secondary"))
        taken = wide(self.mark, font(11)) + 6 if self.mark else 0
        write(painter, inner.adjusted(18, 0, -taken, 0), self.words, font(12.5, 600 if on else 400),
              look.colour("text"), LEFT)  # fmt: skip
        if self.mark:
            write(painter, inner, self.mark, font(11), look.colour(self.colour or "secondary"), RIGHT)


class QuestionPanel(CardBackground):
    """``go_on_wanted`` and ``ghost_wanted`` tell what was pressed, ``fault_wanted`` which
    fault is to be shown, ``at_wanted`` the one whose moment is to be seen.
    """

    go_on_wanted = pyqtSignal()
    fault_wanted = pyqtSignal(str)
    at_wanted = pyqtSignal(str)
    ghost_wanted = pyqtSignal()

    def __init__(self, round_: RunningRound, look: Look) -> None:
        super().__init__(look)
        self._round = round_
        self.setFixedWidth(WIDE)
        self.heading, self.said, self.hint = worded("title"), worded("secondary"), worded("secondary")
        self.picks = [Pick(look, str(number + 1)) for number in range(8)]
        self.sure = {one: Pick(look, SURE_LETTERS[one]) for one in Sure}
        self.asking, self.size_now = worded("strong"), worded("strong")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.ends = worded("small"), worded("small")
        self.go_to, self.ghost = QPushButton(), QPushButton(tr("Without the fault (Z)"))
        self.go_on = QPushButton()
        self.how_sure = worded("strong")
        self._size_part, self._sure_part = QWidget(), QWidget()
        self._build()
        self._connect()
        self.refresh()

    def _build(self) -> None:
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(14, 10, 14, 4)
        column.setSpacing(8)
        column.addWidget(self.heading)
        column.addWidget(self.said)
        answers = QVBoxLayout()
        answers.setSpacing(4)
        for pick in self.picks:
            answers.addWidget(pick)
        column.addLayout(answers)
        size = QVBoxLayout(self._size_part)
        size.setContentsMargins(0, 2, 0, 0)
        size.setSpacing(4)
        size.addWidget(self.asking)
        row = QHBoxLayout()
        row.addWidget(self.ends[0])
        row.addWidget(self.slider, 1)
        row.addWidget(self.ends[1])
        size.addLayout(row)
        low = QHBoxLayout()
        low.addWidget(self.size_now, 1)
        for button in (self.go_to, self.ghost):
            button.setProperty("small", "true")
        low.addWidget(self.go_to)
        size.addLayout(low)
        column.addWidget(self._size_part)
        sure = QVBoxLayout(self._sure_part)
        sure.setContentsMargins(0, 2, 0, 0)
        sure.setSpacing(4)
        self.how_sure.setText(tr("How sure?"))
        sure.addWidget(self.how_sure)
        row = QHBoxLayout()
        row.setSpacing(6)
        for one, pick in self.sure.items():
            pick.show_words(tr(SURE[one]))
            pick.setMinimumHeight(30)
            row.addWidget(pick)
        sure.addLayout(row)
        column.addWidget(self._sure_part)
        column.addWidget(self.hint)
        column.addStretch(1)
        foot = QVBoxLayout()
        foot.setContentsMargins(14, 0, 14, 12)
        foot.addWidget(self.ghost, 0, Qt.AlignmentFlag.AlignLeft)
        self.go_on.setProperty("primary", "true")
        self.go_on.setMinimumHeight(40)
        foot.addWidget(self.go_on)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scrolled(inner), 1)
        whole.addLayout(foot)
        self.slider.setAccessibleName(tr("How far"))

    def _connect(self) -> None:
        round_ = self._round
        round_.changed.connect(self.refresh)
        round_.laid.connect(self._tell_size)
        for number, pick in enumerate(self.picks):
            pick.clicked.connect(lambda _=False, n=number: self._on_pick(n))
        for one, pick in self.sure.items():
            pick.clicked.connect(lambda _=False, o=one: (round_.say_sure(o), self.refresh()))
        self.slider.valueChanged.connect(self._on_slider)
        self.go_on.clicked.connect(lambda _=False: self.go_on_wanted.emit())
        self.go_to.clicked.connect(lambda _=False: self.at_wanted.emit(round_.sized))
        self.ghost.clicked.connect(lambda _=False: self.ghost_wanted.emit())

    def resizeEvent(self, event: QResizeEvent) -> None:
        for pick in self.picks:
            pick.setFixedHeight(PICK_PX if self.height() >= ROOMY_PX else LOW_PX)
        super().resizeEvent(event)

    # Hands

    def _on_pick(self, number: int) -> None:
        round_ = self._round
        key = round_.faults[number - 1].key if 0 < number <= len(round_.faults) else ""
        if round_.phase is Phase.ARGUED:
            if key:
                self.fault_wanted.emit(key)
        elif number == 0:
            round_.name_nothing()
        elif key:
            round_.name(key)
        self.refresh()

    def _on_slider(self, value: int) -> None:
        if self._round.phase is Phase.ANSWERING and self._round.sized:
            self._round.say_size(value / PER)

    # What is shown

    def refresh(self) -> None:
        """Show the round as it is now."""
        round_ = self._round
        over, answer = round_.phase is Phase.OVER, round_.answer
        asks = round_.phase is Phase.ANSWERING
        for number, pick in enumerate(self.picks):
            key = round_.faults[number - 1].key if 0 < number <= len(round_.faults) else ""
            pick.setVisible(bool(round_.faults) and not over and (number == 0 or bool(key)))
            pick.setChecked(key in round_.named if key else round_.nothing)
            pick.setEnabled(asks or (answer is not None and bool(key)))
            mark, colour = ("", "") if answer is None or not key else marked(answer, key)
            pick.show_words(title_of(key) if key else tr("Nothing wrong"), mark, colour)
        for one, pick in self.sure.items():
            pick.setChecked(one == round_.sure)
            pick.setEnabled(asks)
        self._tell_size()
        self._sure_part.setVisible(answer is None and not over and bool(round_.faults))
        if over:
            self._sum_up()
        elif answer is None:
            self._ask(asks)
        else:
            self._argue(answer)

    def _ask(self, asks: bool) -> None:
        round_ = self._round
        self.ghost.hide()
        if round_.phase is Phase.IDLE:
            self.heading.setText(tr("Train your eye"))
            self.said.setText("\n\n".join(tr(sentence) for sentence in ABOUT))
            self.hint.setText("")
            self.go_on.setText(tr("Begin a round  ↵"))
            self.go_on.setEnabled(True)
            return
        self.heading.setText(tr("What do you see?"))
        many = tr("one or nothing") if round_.settings.most == 1 else tr("up to two, or nothing")
        waiting = tr("Look first: it is shown once.")
        self.said.setText(tr("Choose %s.") % many if asks else waiting)
        self.hint.setText("")
        self.go_on.setText(tr("Answer, then see  ↵"))
        self.go_on.setEnabled(round_.ready)

    def _sum_up(self) -> None:
        """The round that is over."""
        answers = self._round.answers
        self.heading.setText(tr("The round is over: %s") % round_words(answers))
        self.said.setText("\n".join(missed_words(answers)))
        self.hint.setText("")
        self.ghost.hide()
        self.go_on.setText(tr("Another round  ↵"))
        self.go_on.setEnabled(True)

    def _argue(self, answer: Answer) -> None:
        round_ = self._round
        shot = round_.stocked.shot if round_.stocked is not None else None
        self.heading.setText(verdict(answer))
        self.said.setText(shot_words(shot) if shot is not None else "")
        speaks = dict.fromkeys((*answer.present, *answer.named))
        told = {key: size_verdict(answer, key) for key in speaks}
        lines = [f"{title_of(key)}: {words}" for key, words in told.items() if words]
        lines += [f"{tr('Where to look:')} {asked_faults()[key].look}" for key in answer.missed]
        self.hint.setText("\n".join(lines))
        self.ghost.setVisible(bool(answer.present))
        last = round_.at + 1 >= len(round_.swings)
        self.go_on.setText(tr("To the scores  ↵") if last else tr("Next swing  ↵"))
        self.go_on.setEnabled(True)

    def _tell_size(self) -> None:
        round_ = self._round
        asks = round_.phase is Phase.ANSWERING
        key = round_.sized
        self._size_part.setVisible(bool(key) and asks)
        if not key or not asks:
            return
        asked = asked_faults()[key]
        self.asking.setText(tr(asked.ask))
        self.slider.blockSignals(True)
        self.slider.setRange(round(asked.low * PER), round(asked.high * PER))
        now = round_.said.get(key)
        self.slider.setValue(round((now if now is not None else 0.0) * PER))
        self.slider.blockSignals(False)
        for label, end in zip(self.ends, (asked.low, asked.high), strict=True):
            label.setText(sized(key, end) if end else "0")
        said = tr("not said yet; drag on the picture, or here")
        self.size_now.setText(sized(key, now) if now is not None else said)
        self.go_to.setText(tr("To that moment"))
        self.go_to.setVisible(round_.settings.shown == "steps")


def marked(answer: Answer, key: str) -> tuple[str, str]:
    """What became of an answer, in a word, and its colour."""
    if key in answer.present:
        return (tr("there"), "clear") if key in answer.named else (tr("missed"), "fault")
    if key in answer.named:
        return (tr("not there"), "fault") if key in answer.absent else (tr("nearly"), "watch")
    return "", ""
