"""The chosen finding in words: what is seen, why, its place in the chain, its doubt, and what can be said of
it.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.entry import Line
from kneel.desk.flow import Rows
from kneel.desk.swing import OpenSwing
from kneel.desk.text import Label, escaped
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.judge import Finding, Reading
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.model import Override
from kneel.model.student import LONGEST_TEXT
from kneel.speech.findings import place, reasons, sentence
from kneel.speech.words import number, with_unit

SAYINGS = ((REJECTED, "Not so"), (ADDED, "I see it"), (LEFT, "Known, leave it"), ("", "Take it back"))


def worded(role: str = "", *, selectable: bool = False) -> Label:
    """A label of as many lines as it needs."""
    label = Label()
    label.setWordWrap(True)
    if role:
        label.setProperty("role", role)
    flag = Qt.TextInteractionFlag
    label.setTextInteractionFlags(flag.TextSelectableByMouse if selectable else flag.NoTextInteraction)
    return label


class Explain(QWidget):
    """Sentence, reasons, place in the chain, costs; and the buttons with which the instructor outranks it."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.sentence, self.reasons = worded(), worded("secondary")
        self.place, self.why, self.unsure = worded(), worded(), worded("secondary")
        self.care = worded("small")
        self._bar = QFrame()
        self._bar.setFixedWidth(3)
        self.say = {key: QPushButton(tr(words)) for key, words in SAYINGS}
        self.ask_unsure = QPushButton(tr("Why so unsure?"))
        self.ask_unsure.setCheckable(True)
        self.ask_unsure.toggled.connect(lambda _: self._tell_unsure(self._open.selection.finding))
        self.reason = Line(LONGEST_TEXT)
        self.reason.setPlaceholderText(tr("Why? It is kept with the swing."))
        self.reason.setAccessibleName(tr("Reason of the instructor’s word"))
        self.reason.editingFinished.connect(self._keep_reason)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        for part in (self.sentence, self.reasons, self.place):
            column.addWidget(part)
        sayings = QWidget()
        row = Rows(sayings)
        for key, button in self.say.items():
            button.setProperty("small", True)
            button.clicked.connect(lambda _, k=key: self.override(k))
            row.addWidget(button)
        self.ask_unsure.setProperty("small", True)
        row.addWidget(self.ask_unsure)
        column.addWidget(sayings)
        for part in (self.reason, self.unsure, self.why):
            column.addWidget(part)
        self._care_row = QWidget()
        beside = QHBoxLayout(self._care_row)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self._bar)
        beside.addWidget(self.care, 1)
        column.addWidget(self._care_row)

    def show_finding(self, finding: Finding | None, reading: Reading) -> None:
        """Say what the numbers say of a finding now."""
        self.sentence.setText(sentence(finding, reading.school) if finding else "")
        self.reasons.setText("\n".join(reasons(finding)) if finding else "")
        self.place.setText(place(finding, reading) if finding else "")
        at_work = finding is not None and finding.verdict.at_work
        fault = finding.fault if finding and at_work else None
        parts = ((tr("What it costs"), fault.why), (tr("Common roots"), fault.roots)) if fault else ()
        self.why.set_marked(
            "<br><br>".join(f"<b>{escaped(head)}</b><br>{escaped(words)}" for head, words in parts)
        )
        self.care.setText(finding.fault.care if finding and at_work else "")
        self._care_row.setVisible(bool(self.care.text()))
        self._bar.setStyleSheet(f"background: {self._look.colours.watch};")
        self._offer(finding)
        self._tell_unsure(finding)
        for label in (self.sentence, self.reasons, self.place, self.why):
            label.setVisible(bool(label.text()))

    def follow(self, finding: Finding | None, reading: Reading) -> None:
        """Say the sentence alone, while a mark is under the hand."""
        self.sentence.setText(sentence(finding, reading.school) if finding else "")

    def _offer(self, finding: Finding | None) -> None:
        """The words that fit: a fault can be refused or left, what is clear or unknown can be seen."""
        override = finding.override if finding else None
        fit = {
            REJECTED: override is None and finding is not None and finding.verdict.at_work,
            LEFT: override is None and finding is not None and finding.verdict.at_work,
            ADDED: override is None and finding is not None and not finding.verdict.at_work,
            "": override is not None,
        }
        for key, button in self.say.items():
            button.setVisible(fit[key])
        self.reason.setVisible(override is not None)
        if override is not None and not self.reason.hasFocus():
            self.reason.setText(override.reason)
        self.ask_unsure.setVisible(finding is not None and finding.told is not None)

    def _tell_unsure(self, finding: Finding | None) -> None:
        """Where the error of the chosen value comes from, largest first."""
        told = finding.told if finding else None
        asked = self.ask_unsure.isChecked() and told is not None
        words = ""
        if asked and told is not None:
            parts = [f"{100 * share:.0f} % {cause}" for cause, share in told.budget(5) if share >= 0.01]
            error = with_unit(number(told.sigma, told.unit, signed=False), told.unit)
            interval = tr("95 times in 100 the truth lies between %s and %s.") % (
                number(told.low, told.unit),
                with_unit(number(told.high, told.unit), told.unit),
            )
            words = tr("± %s comes from: %s. %s") % (error, ", ".join(parts), interval)
        self.unsure.setText(words)
        self.unsure.setVisible(bool(words))

    def override(self, verdict: str) -> None:
        """Keep what the instructor says of the chosen fault; nothing takes it back."""
        finding = self._open.selection.finding
        if finding is None:
            return
        others = tuple(one for one in self._open.swing.overrides if one.fault != finding.key)
        said = (*others, Override(finding.key, verdict)) if verdict else others
        self._open.set("Say otherwise", overrides=said)
        if verdict:
            self.reason.clear()
            self.reason.setFocus()

    def _keep_reason(self) -> None:
        finding = self._open.selection.finding
        if finding is None or finding.override is None or finding.override.reason == self.reason.text():
            return
        said = tuple(
            Override(one.fault, one.verdict, self.reason.text()) if one.fault == finding.key else one
            for one in self._open.swing.overrides
        )
        self._open.set("Give the reason", overrides=said)
