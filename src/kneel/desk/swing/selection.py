"""What is chosen: the finding that picture and reading speak of."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.swing.cursor import Cursor
from kneel.desk.swing.figures import unsure
from kneel.desk.swing.numbers import Numbers
from kneel.judge import Finding
from kneel.motion.advice import Advice
from kneel.motion.quantity import Series


class Selection(QObject):
    """The chosen fault, by key; ``chose`` tells of a new one."""

    chose = pyqtSignal()

    def __init__(self, parent: QObject, numbers: Numbers, cursor: Cursor) -> None:
        super().__init__(parent)
        self._numbers, self._cursor = numbers, cursor
        self.fault: str | None = None
        self.main = ""
        """What a running plan, or the last lesson, is about: it comes before whatever else is found."""

        self.by_hand = False

    def begin(self) -> None:
        """Choose what a swing just opened shows first."""
        self.fault, self.by_hand = None, False
        self.fall_back()

    def fall_back(self) -> None:
        """Choose what the reading says first, until another is chosen by hand."""
        reading = self._numbers.reading
        if self.by_hand or self._numbers.dragging or reading is None or not reading.findings:
            return
        asked = reading.first if any(f.asked for f in reading.findings) else None
        first = next((f for f in reading.findings if f.key == self.main and f.decided), asked)
        self.fault = first.key if first is not None else None

    def choose(self, fault: str | None) -> None:
        """Choose a finding and go to where it shows."""
        self.fault, self.by_hand = fault, fault is not None
        finding = self.finding
        shown = self._numbers.shown(finding.checkpoint) if finding and finding.checkpoint else None
        if shown is not None:
            self._cursor.go(shown)
        self.chose.emit()

    def show(self, fault: str | None) -> None:
        """Speak of a finding where the picture stands."""
        self.fault, self.by_hand = fault, fault is not None
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

    @property
    def measure(self) -> str | None:
        """The measure that the chosen finding rests on, or would where it cannot be told."""
        finding = self.finding
        if finding is None:
            return None
        if finding.measure is not None:
            return finding.measure
        analysis = self._numbers.analysis
        asked = (check.measure for check in finding.fault.check)
        told = (m for m in asked if analysis and isinstance(analysis.measure(m), Series))
        return next(told, None)

    def told_at(self, series: Series, frame: int) -> tuple[float, float]:
        """A measure's value and error at a frame; where that shows the checkpoint of the chosen finding it is
        the one judged, which lies between two frames.
        """
        finding = self.finding
        judged = finding is not None and finding.measure == series.key and finding.checkpoint is not None
        if judged and finding.told is not None and self._numbers.shown(finding.checkpoint) == frame:
            return finding.told.value, finding.told.sigma
        return float(series.values[frame]), float(series.sigma[frame])

    @property
    def unsure(self) -> Finding | None:
        """What a mark should make surer."""
        return unsure(self.finding, self._numbers.reading)

    def advice(self) -> Advice | None:
        """The mark by hand that would tell most about what is unsure."""
        finding = self.unsure
        if finding is None or finding.measure is None or finding.checkpoint is None:
            return None
        return self._numbers.figures.advice(finding.measure, finding.checkpoint)
