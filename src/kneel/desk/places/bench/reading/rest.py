"""What stands under the argued finding: school and second school, what is done well, what is fine or open."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from kneel.desk.places.bench.reading.findings import FindingsList
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.fold import Fold
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded
from kneel.desk.widgets.theme import Look
from kneel.judge import Finding, Reading, Verdict, Why
from kneel.speech.findings import differences, done_well

DIFFER = 3
"""So many differences between two schools are told."""


class Rest(QWidget):
    """Quiet lines that open."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open = opened
        self.school = QPushButton()
        self.school.setProperty("role", "flat")
        self.school.setAccessibleName(tr("School the swing is judged by"))
        self._agrees, self.well = worded("small"), worded("small")
        self._others = Fold(look, tr("How another school sees it"))
        self._others.toggled.connect(lambda _: self._tell_others())
        self.count = Fold(look, tr("What is fine, and what cannot be told"))
        self.count.toggled.connect(lambda _: self.refresh())
        self.knots = FindingsList(opened, look)
        self.knots.after = self.count
        self.knots.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for part in (self.count, self.knots, self.well, self.school, self._others, self._agrees):
            column.addWidget(part)

    def refresh(self) -> None:
        """Say it anew."""
        reading = self._open.numbers.reading
        if reading is None:
            return
        self.school.setText(tr("Judged as %s ▾") % reading.school.title.lower())
        self.well.setText(done_well(reading))
        self.well.setVisible(bool(self.well.text()))
        self._tell_others()
        rest = self._not_at_work(reading)
        counts = (
            (sum(f.verdict is Verdict.CLEAR for f in rest), tr("%d fine")),
            (sum(f.verdict is Verdict.UNKNOWN and f.asked for f in rest), tr("%d cannot be told")),
            (
                sum(f.why in (Why.VIEW, Why.PLATE) for f in reading.findings),
                tr("%d not visible from this camera"),
            ),
            (sum(f.why is Why.KIND for f in reading.findings), tr("%d not asked of this kind of swing")),
        )
        words = " · ".join(text % count for count, text in counts if count)
        self.count.say(words)
        self.count.setVisible(bool(words))
        self.knots.show_chain([(f, 0) for f in rest] if self.count.isChecked() else [])
        self.knots.setVisible(self.count.isChecked())

    def _not_at_work(self, reading: Reading) -> list[Finding]:
        shown = {f.key for f, _ in reading.chain} or {f.key for f in reading.well}
        return [f for f in reading.findings if f.asked and f.key not in shown]

    def _tell_others(self) -> None:
        """How a second school sees the same swing: in a line, and in full where it is opened."""
        reading, other = self._open.numbers.reading, self._open.numbers.other
        told = differences(reading, other) if reading and other and reading.told else ()
        name = other.school.title.lower() if other else ""
        self._others.say(tr("The %s school sees %d of them otherwise") % (name, len(told)) if told else "")
        self._others.setVisible(bool(told))
        opened = self._others.isChecked()
        more = len(told) - DIFFER
        tail = " " + tr("And %d more.") % more if more > 0 else ""
        self._agrees.setText(" ".join(told[:DIFFER]) + tail if opened else "")
        self._agrees.setVisible(opened and bool(told))
