"""What is chosen: the finding that picture and reading speak of."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.swing.cursor import Cursor
from kneel.desk.swing.numbers import Numbers
from kneel.judge import Finding
from kneel.motion.advice import Advice, next_mark


class Selection(QObject):
    """The chosen fault, by key; ``chose`` tells of a new one."""

    chose = pyqtSignal()

    def __init__(self, parent: QObject, numbers: Numbers, cursor: Cursor) -> None:
        super().__init__(parent)
        self._numbers, self._cursor = numbers, cursor
        self.fault: str | None = None

    def begin(self) -> None:
        """Choose what a swing just opened shows first."""
        self.fault = None
        self.fall_back()

    def fall_back(self) -> None:
        """Choose the first finding where none is chosen."""
        reading = self._numbers.reading
        if self.fault is None and reading is not None and reading.findings:
            self.fault = reading.findings[0].fault.key

    def choose(self, fault: str | None) -> None:
        """Choose a finding and go to where it shows."""
        self.fault = fault
        finding = self.finding
        shown = self._numbers.shown(finding.checkpoint) if finding and finding.checkpoint else None
        if shown is not None:
            self._cursor.go(shown)
        self.chose.emit()

    @property
    def finding(self) -> Finding | None:
        """The chosen finding."""
        reading = self._numbers.reading
        return (
            None
            if reading is None
            else next((f for f in reading.findings if f.fault.key == self.fault), None)
        )

    def advice(self) -> Advice | None:
        """The mark by hand that would tell most about the chosen finding."""
        finding, analysis = self.finding, self._numbers.analysis
        if finding is None or analysis is None or finding.measure is None or finding.checkpoint is None:
            return None
        return next_mark(analysis, finding.measure, finding.checkpoint)
