"""The reading in the order of the swing: a row a checkpoint, the one that is looked at opened."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from kneel.desk.places.bench.reading.findings import FindingsList
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.fold import Fold
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded
from kneel.desk.widgets.theme import Look
from kneel.judge import Finding, Reading
from kneel.judge.kinds import ONCE
from kneel.judge.walk import Stop, walk
from kneel.speech.words import listed, small


class WalkStep(QWidget):
    """One checkpoint: its row, and under it what is at work, what is fine and what cannot be told."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self.row = Fold(look, tr("Checkpoint"))
        self.knots = FindingsList(opened, look)
        self.knots.after = self.row
        self.fine, self.untold = worded("small"), worded("small")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        for part in (self.row, self.knots, self.fine, self.untold):
            column.addWidget(part)

    def show_stop(self, stop: Stop, *, opened: bool) -> None:
        """Say what stands at a checkpoint; all of it where it is opened."""
        title = tr("The whole swing") if stop.at == ONCE else tr(checkpoint_title(stop.at))
        parts = [tr(f.fault.title) for f in stop.work[:2]]
        if len(stop.work) > 2:
            parts.append(tr("%d more") % (len(stop.work) - 2))
        parts += [tr("%d fine") % len(stop.fine)] if stop.fine else []
        parts += [tr("%d cannot be told") % len(stop.untold)] if stop.untold and not parts else []
        self.row.setChecked(opened)
        self.row.say(f"{title} · {', '.join(parts)}")
        self.row.setAccessibleName(f"{title}: {', '.join(parts)}")
        self.knots.show_chain([(finding, 0) for finding in stop.work] if opened else [])
        for label, words, some in (
            (self.fine, tr("Fine here: %s."), [small(tr(f.fault.good)) for f in stop.fine]),
            (self.untold, tr("Cannot be told here: %s."), [small(tr(f.fault.title)) for f in stop.untold]),
        ):
            label.setText(words % listed(some) if opened and some else "")
            label.setVisible(opened and bool(some))


class Walk(QWidget):
    """All steps. ``wanted`` asks for a checkpoint to be gone to, with what is looked at there."""

    wanted = pyqtSignal(str, str)

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.stops: tuple[Stop, ...] = ()
        self.at = ""
        """The checkpoint that is looked at."""

        self.steps: list[WalkStep] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(4)

    def show_reading(self, reading: Reading, chosen: Finding | None) -> None:
        """Show a reading; opened is the step of what is chosen, or the one that was walked to last."""
        self.stops = walk(reading)
        here = next((s.at for s in self.stops if chosen in (*s.work, *s.fine, *s.untold)), "")
        known = {stop.at for stop in self.stops}
        self.at = here or (self.at if self.at in known else "")
        while len(self.steps) < len(self.stops):
            step = WalkStep(self._open, self._look)
            step.row.toggled.connect(lambda opened, s=step: self._press(s, opened=opened))
            self._column.addWidget(step)
            self.steps.append(step)
        for k, step in enumerate(self.steps):
            step.setVisible(k < len(self.stops))
            if k < len(self.stops):
                step.row.blockSignals(True)
                step.show_stop(self.stops[k], opened=self.stops[k].at == self.at)
                step.row.blockSignals(False)

    def step(self, way: int) -> None:
        """Go on to the next checkpoint of the walk, or back, round and round."""
        if self.stops:
            keys = [stop.at for stop in self.stops]
            place = (keys.index(self.at) + way) % len(keys) if self.at in keys else 0
            self.go(self.stops[place])

    def go(self, stop: Stop) -> None:
        """Look at one checkpoint."""
        self.at = stop.at
        self.wanted.emit(stop.at, stop.first.key if stop.first is not None else "")

    def _press(self, step: WalkStep, *, opened: bool) -> None:
        stop = self.stops[self.steps.index(step)]
        if opened:
            self.go(stop)
        else:
            step.show_stop(stop, opened=False)
