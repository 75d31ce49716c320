"""The checkpoints over the ribbon, and the one that the hand has."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from kneel.desk.swing import OpenSwing
from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.timeline.pegs import Peg, Placed, peg_near, placed, rows_of
from kneel.motion.study import Study

RIGHT_PX = 4.0


class Pennants:
    """``held`` is the checkpoint under the hand and the frame where the hand has it."""

    def __init__(self, opened: OpenSwing) -> None:
        self._open = opened
        self.held: tuple[str, float] | None = None
        self._rows: tuple[TimeAxis | None, Study | None, int] = (None, None, 1)

    def rows(self, axis: TimeAxis | None, width: float) -> int:
        """How many rows they need on a ribbon so wide; one under the hand changes nothing."""
        analysis = self._open.analysis
        if self._rows[0] is not axis or self._rows[1] is not analysis:
            points = analysis.checkpoints if analysis is not None and axis is not None else {}
            pegs = [Peg(name, found.frame, pinned=True) for name, found in points.items()]
            rows = rows_of(pegs, axis, width - RIGHT_PX) if axis is not None else 1
            self._rows = axis, analysis, rows
        return self._rows[2]

    def placed(self, axis: TimeAxis, width: float) -> list[Placed]:
        """Each with its row and title, the held one where the hand is."""
        analysis, (held, frame) = self._open.analysis, self.held or ("", 0.0)
        pegs = [
            Peg(n, frame, pinned=True) if n == held else Peg(n, c.frame, c.source == "marked")
            for n, c in (analysis.checkpoints if analysis is not None else {}).items()
        ]
        return placed(pegs, axis, self._open.checkpoint, width - RIGHT_PX, self.rows(axis, width))

    def near(self, axis: TimeAxis, width: float, at: QPointF) -> str | None:
        """The one that a hand at a place would take."""
        return peg_near(self.placed(axis, width), at)
