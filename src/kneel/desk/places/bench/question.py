"""One question on the picture that decides everything else, with its answers as buttons."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded
from kneel.motion.viewed import Question
from kneel.speech.questions import AnswerChoice, answers, short

TOP, EDGE = 46, 12
WIDEST = 420


class Asking(QFrame):
    """Lies over the stage as long as something must be asked of how the clip was filmed."""

    def __init__(self, opened: OpenSwing, stage: Stage) -> None:
        super().__init__(stage)
        self._open, self._stage = opened, stage
        self._asked: tuple[Question, tuple[AnswerChoice, ...]] = (Question.NONE, ())
        self.setObjectName("asking")
        self.setProperty("role", "asking")
        self.words = worded("strong")
        self.words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.buttons: list[QPushButton] = []
        self._row = QHBoxLayout()
        self._row.setSpacing(8)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.setSpacing(8)
        column.addWidget(self.words)
        column.addLayout(self._row)
        stage.installEventFilter(self)
        for signal in (opened.numbers.renewed, opened.opened, opened.document.changed):
            signal.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """Ask what is open now, or nothing."""
        if self._open.numbers.dragging:
            return
        question = self._open.question if not self._open.gathering.looking.busy else Question.NONE
        analysis = self._open.analysis
        offered = answers(question, self._open.swing, analysis.slowed if analysis else None)
        if (question, offered) != self._asked:
            self._asked = question, offered
            self._offer()
        self.setVisible(bool(question) and not self._stage.large)
        self._place()

    def _offer(self) -> None:
        question, offered = self._asked
        for button in self.buttons:
            button.hide()
            button.deleteLater()
        self.buttons = []
        self.words.setText(tr(short(question)))
        for one in offered:
            button = QPushButton(tr(one.words))
            button.clicked.connect(lambda _=False, said=one: self._say(said))
            self._row.addWidget(button)
            self.buttons.append(button)

    def _say(self, answer: AnswerChoice) -> None:
        if answer.pointed:
            self._stage.arm_golfer()
        elif answer.found:
            self._mean_who_was_found()
        elif answer.pose:
            self._open.hold(answer.pose)
        else:
            self._open.set("Answer how it was filmed", **answer.settings)
        self._stage.setFocus()

    def _mean_who_was_found(self) -> None:
        """Whoever the lines lie on is meant: pointed out between the hips."""
        analysis, frame = self._open.analysis, self._open.cursor.frame
        hips = [t.xy[frame] for n, t in (analysis.tracks if analysis else {}).items() if n.endswith("_hip")]
        if hips:
            x, y = (float(v) for v in sum(hips) / len(hips))
            self._open.point_out(x, y, frame)

    def _place(self) -> None:
        wide = min(WIDEST, self._stage.width() - 2 * EDGE)
        self.setFixedWidth(wide)
        self.adjustSize()
        self.move((self._stage.width() - self.width()) // 2, TOP)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() is QEvent.Type.Resize and self.isVisible():
            self._place()
        return False
