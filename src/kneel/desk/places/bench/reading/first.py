"""The drill to begin with, under what to work on first; it leads to the Plan."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy

from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.practice.choice import Stands
from kneel.speech import practice as say


class FirstDrill(QPushButton):
    """One line: the plan's drill and how many days are left to its clip, or the drill that fits best."""

    def __init__(self, opened: OpenSwing, practice: Practice) -> None:
        super().__init__()
        self._open, self._practice = opened, practice
        self._words = Label()
        self._words.setWordWrap(True)
        self._words.setTextFormat(Qt.TextFormat.PlainText)
        self._words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 6, 10, 6)
        row.addWidget(self._words)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tr("The drill, and a plan of weeks (F3)"))
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        practice.changed.connect(self.refresh)
        self.refresh()

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        layout = self.layout()
        return 30 if layout is None else layout.heightForWidth(width)

    def refresh(self) -> None:
        """Say what is practised, or would be first."""
        words = self._said()
        if words != self._words.text():
            self._words.setText(words)
            self.setAccessibleName(words)
            self.updateGeometry()
        self.setVisible(bool(words))

    def text_shown(self) -> str:
        return self._words.text()

    def _said(self) -> str:
        reading, plan = self._open.numbers.reading, self._practice.plan
        if reading is None or self._open.store is None or self._practice.offer.drills is None:
            return ""
        if plan is not None:
            drill = self._practice.offer.drills.all.get(plan.drill)
            title = drill.title if drill else plan.drill
            left = (plan.check_in - self._practice.today).days
            when = (
                tr("clip in %d days") % left
                if left > 1
                else tr("clip tomorrow")
                if left == 1
                else tr("clip is due")
            )
            return tr("In the plan: %s · %s ▸") % (title, when)
        proposal = self._practice.offer.proposal
        if proposal is None:
            return ""
        if proposal.chosen is None:
            return tr("Drills: none fits what is at hand ▸")
        words = say.work_on_first(proposal.chosen)
        more = tr(" · with a warning") if proposal.chosen.stands is Stands.WARNED else ""
        return tr("Drill: %s%s ▸") % (words, more)
