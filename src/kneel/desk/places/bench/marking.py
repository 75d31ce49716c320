"""Marking point by point: after each click the next one is armed, of the body or of those that tell most."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.places.bench.reading.findings import VERDICT_WORDS
from kneel.desk.stage.stage import Stage
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.judge import Verdict, Why
from kneel.model import anatomical

ORDER = (
    "lead_hip",
    "trail_hip",
    "lead_knee",
    "trail_knee",
    "lead_ankle",
    "trail_ankle",
    "grip",
    "lead_shoulder",
    "trail_shoulder",
    "head",
)
"""Hips first: with them alone a shift can be seen; hands and shoulders time it."""


class Marking(QObject):
    """Walks through :data:`ORDER` on the frame on show, or from one mark that tells most to the next.

    ``said`` carries a sentence when the latter is over.
    """

    said = pyqtSignal(str)

    def __init__(self, takes: TwoTakes, stage: Stage) -> None:
        super().__init__(stage)
        opened = takes.first
        self._takes, self._open, self._stage = takes, opened, stage
        self._advised: list[tuple[str, int]] | None = None
        """What the advice under way still asks for, with frames; None while the body is marked."""

        self._waiting = self._offered = False
        stage.placed.connect(self.advance)
        stage.armed_changed.connect(self._let_go)
        opened.opened.connect(self._begin)
        opened.numbers.renewed.connect(self._renewed)

    def start(self) -> None:
        """Arm the first point not yet marked on this frame."""
        if self._open.store is not None:
            self._advised = None
            point = self._after(None)
            if point is None:
                self.said.emit(tr("All points are marked on this frame: go to another one."))
            self._stage.arm(point)
            self._stage.setFocus()

    def advance(self) -> None:
        """Arm the next point; after the last one marking ends."""
        if self._advised is None:
            self._stage.arm(self._after(self._stage.armed))
        else:
            self._go_on()

    def advise(self) -> bool:
        """Take up the mark that would tell most about what is unsure; False where none would."""
        advice = self._open.selection.advice()
        if advice is None:
            return False
        if advice.other:
            self._takes.turn()
        swing = self._open.swing
        marked = {(m.point, m.frame) for m in swing.marks}
        open_ = [one for one in advice.marks if (anatomical(one[0], swing.hand), one[1]) not in marked]
        self._advised = open_ or advice.marks[:1]
        self._go_on()
        return True

    def _go_on(self) -> None:
        """Arm the next point of the advice, on its frame; after the last one see whether more is needed."""
        assert self._advised is not None
        if self._advised:
            point, frame = self._advised.pop(0)
            self._open.cursor.go(frame)
            self._stage.arm(point)
            self._stage.setFocus()
            return
        self._waiting = True
        self._stage.arm(None)
        self._renewed()

    def _let_go(self) -> None:
        """Esc ends the advice too."""
        if self._stage.tool is None and not self._waiting:
            self._advised = None

    def _begin(self) -> None:
        self._advised, self._waiting, self._offered = None, False, False

    def _renewed(self) -> None:
        """Numbers are new: go on with the advice, or begin with it where a clip was just looked at."""
        opened = self._open
        if opened.numbers.busy or opened.numbers.dragging or opened.gathering.busy:
            return
        finding = opened.selection.finding
        unsure = finding is not None and finding.verdict is Verdict.UNKNOWN and finding.why is Why.DOUBT
        unsure = unsure and not opened.question
        if self._waiting:
            self._waiting = False
            if unsure and self.advise():
                return
            self._advised = None
            if finding is not None:
                verdict = tr(VERDICT_WORDS[finding.verdict.value])
                self.said.emit(f"{tr(finding.fault.title)}: {verdict}")
        elif not self._offered and opened.fresh and opened.looked.sightings:
            # Nobody has done anything yet: the mark that helps most lies under the cursor already.
            self._offered = True
            if unsure and self._stage.tool is None and not opened.swing.marks:
                self.advise()

    def _after(self, point: str | None) -> str | None:
        frame, swing = self._open.cursor.frame, self._open.swing
        done = {m.point for m in swing.marks if m.frame == frame}
        start = ORDER.index(point) + 1 if point in ORDER else 0
        return next((p for p in ORDER[start:] if anatomical(p, swing.hand) not in done), None)
