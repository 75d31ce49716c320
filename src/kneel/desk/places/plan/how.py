"""The drill that is looked at, in words: warning first, then how, feel, what must move, and care."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from kneel.desk.widgets.card import cautioned
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import escaped, worded
from kneel.judge import in_use
from kneel.model import Plan
from kneel.practice.choice import DrillChoice
from kneel.practice.cues import Tried
from kneel.speech import practice as say
from kneel.speech.change import cue_words


class How(QWidget):
    """All that is said of one drill."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(7)
        self._warning = worded("watch", selectable=True)
        self._steps = worded(selectable=True)
        self._parts = worded("secondary", selectable=True)
        self._numbers = worded("secondary", selectable=True)
        self._care = worded("small", selectable=True)
        self._cues = worded("secondary", selectable=True)
        self.film = QPushButton()
        self.film.setProperty("small", True)
        self._cautions = cautioned(self._care)
        self._cautions.setContentsMargins(0, 2, 0, 0)
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
