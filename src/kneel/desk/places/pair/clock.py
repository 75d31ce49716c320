"""One clock for two swings: where the one goes, the other follows in step."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.compare.step import InStep, in_step
from kneel.desk.swing import OpenSwing
from kneel.model import UsageError
from kneel.motion.space.linked import Linked


class PairClock(QObject):
    """Keeps the cursor of another swing in step with that of the swing on the desk.

    ``changed`` tells of another step between them, or of one that is held.
    """

    changed = pyqtSignal()

    def __init__(self, on_desk: OpenSwing, other: OpenSwing) -> None:
        super().__init__()
        self._on_desk, self._other = on_desk, other
        self.linked: Linked | None = None
        """The one clock of both, where they are two cameras of one swing."""

        self.step: InStep | None = None
        self.held = False
        self._following = False
        for swing in (on_desk, other):
            swing.numbers.renewed.connect(self.renew)
            swing.opened.connect(self.renew)
        on_desk.cursor.moved.connect(self.follow)

    @property
    def runs(self) -> bool:
        """Whether the two are in step, and not held."""
        return self.step is not None and not self.held

    def renew(self) -> None:
        """Take the step from the checkpoints as they are found now."""
        one, other = self._on_desk.analysis, self._other.analysis
        self.step = None
        if self.linked is not None:
            self.step = InStep.by_clock(self.linked.clock.offset_s, self.linked.clock.sigma_s)
        elif one is not None and other is not None:
            try:
                self.step = in_step(one, other)
            except UsageError:
                self.step = None
        self.changed.emit()
        self.follow()

    def link(self, linked: Linked | None) -> None:
        """Run both by one clock, or by their checkpoints again."""
        if linked is not self.linked:
            self.linked = linked
            self.renew()

    def hold(self, held: bool) -> None:
        """Hold the other still while the swing on the desk moves, or let it follow again."""
        self.held = held
        self.changed.emit()
        self.follow()

    def follow(self, _: int = 0) -> None:
        """Put the other where the swing on the desk is."""
        if not self.runs or self._following:
            return
        frame = self.other_frame(self._on_desk.cursor.frame)
        if frame is not None:
            self._other.cursor.go(round(frame))

    def move_other(self, by: int) -> None:
        """Step the other by its own frames; the swing on the desk goes along unless it is held."""
        times, mine = self._other.times_s, self._on_desk.times_s
        self._other.cursor.step(by)
        if not self.runs or self.step is None or not len(mine) or not len(times):
            return
        there = float(self.step.to_a(times[self._other.cursor.frame : self._other.cursor.frame + 1])[0])
        self._following = True
        try:
            self._on_desk.cursor.go(int(np.abs(mine - there).argmin()))
        finally:
            self._following = False

    def other_frame(self, frame: int) -> float | None:
        """The other's frame at a frame of the swing on the desk, with fractions; None out of step."""
        mine, times = self._on_desk.times_s, self._other.times_s
        if self.step is None or not 0 <= frame < len(mine) or not len(times):
            return None
        return float(np.interp(self.step.to_b(mine[frame : frame + 1])[0], times, np.arange(len(times))))
