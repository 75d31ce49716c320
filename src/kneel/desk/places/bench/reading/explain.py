"""The chosen finding in words: what is seen, why, its place in the chain, its doubt, and what can be said of
it.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.card import cautioned
from kneel.desk.widgets.entry import TextLine
from kneel.desk.widgets.flow import Rows
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import escaped, tip, worded
from kneel.judge import Finding, Reading, Verdict
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.model import Override
from kneel.model.student import LONGEST_TEXT
from kneel.speech.findings import place, reasons, sentence
from kneel.speech.headline import missing_for_fault
from kneel.speech.words import number, with_unit

MEANS = "± is one standard error: the truth lies within it two times in three."
SAYINGS = ((REJECTED, "Not so"), (ADDED, "I see it"), (LEFT, "Known, leave it"), ("", "Take it back"))


class Explain(QWidget):
    """Sentence, what is missing, and the buttons with which the instructor outranks it; then reasons, place
    in the chain, costs. ``mark_wanted`` asks for the mark that would tell most.
    """

    mark_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing) -> None:
        super().__init__()
        self._open = opened
        self.sentence, self.reasons = worded(), worded("secondary")
        self.missing, self.means = worded("secondary"), worded("small")
        self.means.setText(MEANS)
        self.place, self.why, self.unsure = worded(), worded(), worded("secondary")
        self.care = worded("small")
        self.say = {key: QPushButton(tr(words)) for key, words in SAYINGS}
        self.mark = QPushButton()
        self.mark.setProperty("small", True)
        self.mark.clicked.connect(lambda _=False: self.mark_wanted.emit())
        self.ask_unsure = QPushButton(tr("Why so unsure?"))
        self.ask_unsure.setCheckable(True)
        self.ask_unsure.toggled.connect(lambda _: self._tell_unsure(self._open.selection.finding))
        self.reason = TextLine(LONGEST_TEXT)
        self.reason.setPlaceholderText(tr("Why? It is kept with the swing."))
        self.reason.setAccessibleName(tr("Reason of the instructor’s word"))
        self.reason.editingFinished.connect(self._keep_reason)
        for button in (*self.say.values(), self.mark, self.ask_unsure):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.sentence)
        sayings = QWidget()
        row = Rows(sayings)
        row.addWidget(self.mark)
        for key, button in self.say.items():
            button.setProperty("small", True)
            button.clicked.connect(lambda _, k=key: self.override(k))
            row.addWidget(button)
        self.ask_unsure.setProperty("small", True)
        row.addWidget(self.ask_unsure)
        column.addWidget(sayings)
        for part in (self.reason, self.missing, self.unsure, self.means, self.reasons, self.place, self.why):
            column.addWidget(part)
        self._care_row = cautioned(self.care)
        column.addWidget(self._care_row)

    def show_finding(self, finding: Finding | None, reading: Reading) -> None:
        """Say what the numbers say of a finding now."""
        self.sentence.setText(sentence(finding, reading.school) if finding else "")
        self.reasons.setText("\n".join(reasons(finding)) if finding else "")
        self.place.setText(place(finding, reading) if finding else "")
        self.missing.setText(missing_for_fault(finding) if finding else "")
        self.means.setVisible(finding is not None and finding.told is not None)
        at_work = finding is not None and finding.verdict.at_work
        fault = finding.fault if finding and at_work else None
        parts = ((tr("What it costs"), fault.why), (tr("Common roots"), fault.roots)) if fault else ()
        self.why.set_marked(
            "<br><br>".join(f"<b>{escaped(head)}</b><br>{escaped(words)}" for head, words in parts)
        )
        self.care.setText(finding.fault.care if finding and at_work else "")
        self._care_row.setVisible(bool(self.care.text()))
        self._offer(finding)
        self._tell_unsure(finding)
        for label in (self.sentence, self.missing, self.reasons, self.place, self.why):
            label.setVisible(bool(label.text()))

    def follow(self, finding: Finding | None, reading: Reading) -> None:
        """Say the sentence alone, while a mark is under the hand."""
        self.sentence.setText(sentence(finding, reading.school) if finding else "")

    def _offer(self, finding: Finding | None) -> None:
        """The words that fit: what is at work can be refused or left, and what is no sure fault be seen."""
        override = finding.override if finding else None
        fit = {
            REJECTED: override is None and finding is not None and finding.verdict.at_work,
            LEFT: override is None and finding is not None and finding.verdict.at_work,
            ADDED: override is None and finding is not None and finding.verdict is not Verdict.FAULT,
            "": override is not None,
        }
        for key, button in self.say.items():
            button.setVisible(fit[key])
        self.reason.setVisible(override is not None)
        if override is not None and not self.reason.hasFocus():
            self.reason.setText(override.reason)
        self.ask_unsure.setVisible(finding is not None and finding.told is not None)
        self._offer_mark()

    def _offer_mark(self) -> None:
        """The mark, or few, that would make the finding surer, and how much."""
        advice, finding = self._open.selection.advice(), self._open.selection.unsure
        much = advice is not None and advice.much and finding is not None
        self.mark.setVisible(much)
        if advice is None or finding is None or not much:
            return
        frames = tr(" and ").join(self._open.numbers.frame_title(frame) for frame in advice.frames)
        if advice.other:
            frames = tr("on the other camera’s picture")
        unit = finding.unit or "cm"
        self.mark.setText(tr("Mark %s (N)") % advice.words)
        about = tr("%s, %s: ") % (finding.fault.title, frames)
        before, after = (number(one, unit, signed=False) for one in (advice.before, advice.after))
        words = about + tr("± %s would become about ± %s") % (before, with_unit(after, unit))
        self.mark.setToolTip(tip(words))

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
            # What a click on a button does to the focus comes after its signal.
            QTimer.singleShot(0, self.reason.setFocus)

    def _keep_reason(self) -> None:
        finding = self._open.selection.finding
        if finding is None or finding.override is None or finding.override.reason == self.reason.text():
            return
        said = tuple(
            Override(one.fault, one.verdict, self.reason.text()) if one.fault == finding.key else one
            for one in self._open.swing.overrides
        )
        self._open.set("Give the reason", overrides=said)
