"""Marking the body point by point: after each click the next unmarked point is armed."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from kneel.desk.bench.stage import Stage
from kneel.desk.swing import OpenSwing
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
    """Walks through :data:`ORDER` on the frame on show."""

    def __init__(self, opened: OpenSwing, stage: Stage) -> None:
        super().__init__(stage)
        self._open, self._stage = opened, stage
        stage.placed.connect(self.advance)

    def start(self) -> None:
        """Arm the first point not yet marked on this frame."""
        if self._open.store is not None:
            self._stage.arm(self._after(None))
            self._stage.setFocus()

    def advance(self) -> None:
        """Arm the next point; after the last one marking ends."""
        self._stage.arm(self._after(self._stage.armed))

    def _after(self, point: str | None) -> str | None:
        frame, swing = self._open.cursor.frame, self._open.swing
        done = {m.point for m in swing.marks if m.frame == frame}
        start = ORDER.index(point) + 1 if point in ORDER else 0
        return next((p for p in ORDER[start:] if anatomical(p, swing.hand) not in done), None)
