"""The drill that is looked at, in words: warning first, then how, feel, what must move, and care."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, escaped
from kneel.desk.widgets.theme import Look
from kneel.judge import in_use
from kneel.model import Plan
from kneel.practice.choice import DrillChoice
from kneel.practice.cues import Tried
from kneel.speech import practice as say
from kneel.speech.change import cue_words


class How(QWidget):
    """All that is said of one drill."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(7)
        self._warning = self._label("watch")
        self._steps = self._label()
        self._parts = self._label("secondary")
        self._numbers = self._label("secondary")
        self._care = self._label("small")
        self._cues = self._label("secondary")
        self.film = QPushButton()
        self.film.setProperty("small", True)
        self._bar = QFrame()
        self._bar.setFixedWidth(3)
        self._bar.setProperty("role", "watch")
        self._cautions = QWidget()
        row = QHBoxLayout(self._cautions)
        row.setContentsMargins(0, 2, 0, 0)
        row.addWidget(self._bar)
        row.addWidget(self._care, 1)
        for part in (
            self._warning,
            self._steps,
            self.film,
            self._cautions,
            self._numbers,
            self._cues,
            self._parts,
        ):
            self._column.addWidget(part)

    @staticmethod
    def _label(role: str = "") -> Label:
        label = Label()
        label.setWordWrap(True)
        label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        if role:
            label.setProperty("role", role)
        return label

    def show_drill(self, choice: DrillChoice | None, plan: Plan | None, cues: tuple[Tried, ...]) -> None:
        """Show a drill; the plan says which number must move."""
        self.setVisible(choice is not None)
        if choice is None:
            return
        drill = choice.drill
        warning = say.warning_words(choice)
        self._warning.set_marked(escaped(warning))
        self._warning.setVisible(bool(warning))
        self._steps.set_marked(_headed(tr("How"), " ".join(drill.steps)))
        self._parts.set_marked("<br>".join(_headed(tr(head), text) for head, text in say.drill_lines(drill)))
        told = []
        if plan is not None:
            told = [_headed(tr("Must move"), say.aim_sentence(plan.aim))]
            told += [_headed(tr("Must hold"), " ".join(say.guard_sentence(guard) for guard in plan.guards))]
        self._numbers.set_marked("<br>".join(told))
        self._numbers.setVisible(bool(told))
        self._cues.set_marked(_headed(tr("Cues"), "; ".join(cue_words(one) for one in cues[:3])))
        self._cues.setVisible(bool(cues))
        cares = say.cautions(drill, in_use().faults.get(choice.fault))
        self._care.set_marked(escaped(" ".join(cares)))

    def show_film(self, *, there: bool) -> None:
        """Say whether the drill has a film of one's own."""
        self.film.setText(tr("Your film of it …") if there else tr("Add a film of your own …"))

    def text(self) -> str:
        """All words on show."""
        return "\n".join(label.text() for label in self.findChildren(QLabel) if not label.isHidden())


def _headed(head: str, words: str) -> str:
    return f"<b>{escaped(head)}</b>&nbsp; {escaped(words)}"
