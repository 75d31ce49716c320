"""What is filmed at the check-in, what counts, what became of it; and what can be done with the plan."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from kneel.compare.check_in import Outcome
from kneel.desk.records.sides import AnswerTold
from kneel.desk.widgets.card import CardBackground
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, worded
from kneel.desk.widgets.theme import Look, restyle
from kneel.judge import in_use
from kneel.model import Plan
from kneel.speech import practice as say
from kneel.speech.change import answer_words

DEEDS = {
    "begin_plan": "Begin this plan",
    "ask_plan": "Did it change?",
    "change_drill": "Take this drill instead",
    "plan_calendar": "Calendar file",
    "plan_page": "Page to print",
    "end_plan": "End the plan …",
}

FIRST = ("begin_plan", "ask_plan")
"""What is next to be done."""


class CheckIn(CardBackground):
    """The box under the ladder. ``asked`` carries the key of the action whose button was pressed."""

    asked = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self._head, self._film = Label(), worded("secondary")
        self._head.setProperty("role", "strong")
        self._success, self._answer = worded("secondary"), worded(selectable=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 9, 14, 10)
        column.setSpacing(4)
        top = QHBoxLayout()
        top.addWidget(self._head)
        top.addWidget(self._film, 1)
        column.addLayout(top)
        column.addWidget(self._success)
        column.addWidget(self._answer)
        buttons = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for key, title in DEEDS.items():
            button = QPushButton(tr(title))
            button.setProperty("small", "true")
            button.setProperty("primary", "true" if key in FIRST else "false")
            button.clicked.connect(lambda _=False, k=key: self.asked.emit(k))
            buttons.addWidget(button)
            self.buttons[key] = button
        buttons.addStretch(1)
        column.addLayout(buttons)

    def show_plan(
        self, plan: Plan | None, answer: AnswerTold | None, *, begun: bool, other_drill: bool, named: bool
    ) -> None:
        """Show what belongs to the plan now. ``other_drill`` is whether another one is looked at."""
        self.setVisible(plan is not None)
        if plan is None:
            return
        self._head.setText(tr("On %s") % say.day_words(plan.check_in))
        self._film.setText(say.film_sentence(plan))
        after = say.after_sentence(plan, in_use().faults)
        told = (tr("Done when:"), say.success_sentence(plan), say.if_not_sentence(plan), after)
        self._success.setText(" ".join(told).strip())
        self._answer.setVisible(answer is not None)
        if answer is not None:
            text, others = answer_words(answer.answer, answer.reason)
            self._answer.setText(" ".join([text, *others]))
            bad = answer.answer is None or answer.answer.outcome in (Outcome.WORSE, Outcome.NOT_TOLD)
            restyle(self._answer, "watch" if bad else "strong")
        shown = {
            "begin_plan": not begun,
            "ask_plan": begun,
            "change_drill": begun and other_drill,
            "end_plan": begun,
        }
        for key, button in self.buttons.items():
            button.setVisible(shown.get(key, True))
        self.buttons["begin_plan"].setToolTip("" if named else tr("It asks for the student’s name first."))

    def text(self) -> str:
        """All words on show."""
        return "\n".join(label.text() for label in self.findChildren(QLabel) if not label.isHidden())
