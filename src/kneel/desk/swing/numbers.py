"""The numbers of the open swing, and what is told from them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Task, Workers
from kneel.desk.swing.figures import Figures
from kneel.judge import Reading
from kneel.model import Mark, Sighting
from kneel.motion.study import Study
from kneel.speech.headline import frame_words

AT_ONCE_S = 0.03
"""What is computed in this time is shown at once; more is waited for beside the desk."""


class Numbers(QObject):
    """The figures of the swing as shown; ``renewed`` tells of new ones.

    They are computed in a worker. Of several changes only the newest is
    answered; while one is under way, such as a drag, what is being computed is
    shown too, and only the newest of those that wait comes after it.
    """

    renewed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._figures = self._settled = Figures()
        self._workers = Workers(self)
        self._task: Task | None = None
        self._live = False
        self._waiting: Callable[[], Figures] | None = None

    @property
    def busy(self) -> bool:
        """Whether newer figures are on their way."""
        return self._task is not None

    @property
    def dragging(self) -> bool:
        """Whether what is shown is of a mark still under the hand."""
        return self._figures is not self._settled

    @property
    def figures(self) -> Figures:
        """All that is shown now."""
        return self._figures

    @property
    def settled(self) -> Figures:
        """The same before what is under the hand."""
        return self._settled

    def ask(self, compute: Callable[[], Figures], *, live: bool = False) -> None:
        """Have figures computed; unless ``live``, what comes quickly is there when this returns."""
        if live and self._live and self._task is not None:
            # A hand that moves faster than this is computed would else see nothing until it rests.
            self._waiting = compute
            return
        self._workers.give_up()
        self._live, self._waiting = live, None
        task = self._task = Task(lambda _: compute(), done=self._take, failed=self._fail)
        self._workers.start(task)
        if not live and task.over.wait(AT_ONCE_S):
            task.settle()

    def drag(self, mark: Mark, before: Mark | None, fault: str | None) -> bool:
        """Show what a mark under the hand does to figures and chosen fault; False where it cannot be told."""
        moved = None if self.busy else self._settled.dragged(mark, before, fault)
        if moved is None:
            return False
        self._figures = moved
        self.renewed.emit()
        return True

    def see(self, analysis: Study) -> None:
        """Show the same numbers at other checkpoints; told by whoever has them."""
        resting = not self.dragging
        self._figures = replace(self._figures, analysis=analysis)
        if resting:
            self._settled = self._figures

    def settle(self) -> bool:
        """Show again what was computed before a mark was dragged; False where newer ones are on their way."""
        if self.busy:
            return False
        if self._figures is not self._settled:
            self._figures = self._settled
            self.renewed.emit()
        return True

    def begin(self, figures: Figures) -> None:
        """Take the figures of a swing just opened; told by whoever opens it."""
        self._workers.give_up()
        self._task, self._waiting, self._live = None, None, False
        self._figures = self._settled = figures

    def _take(self, figures: Figures) -> None:
        self._task, self._figures = None, figures
        if not self._live:
            self._settled = figures
        self._go_on()
        self.renewed.emit()

    def _fail(self, error: Exception) -> None:
        self._task = None
        self._go_on()
        self.failed.emit(str(error))

    def _go_on(self) -> None:
        waiting, self._waiting = self._waiting, None
        if waiting is not None:
            self.ask(waiting, live=True)

    @property
    def analysis(self) -> Study | None:
        return self._figures.analysis

    @property
    def reading(self) -> Reading | None:
        return self._figures.reading

    @property
    def other(self) -> Reading | None:
        """The reading of a second school."""
        return self._figures.other

    @property
    def spots(self) -> Mapping[str, Sighting]:
        return self._figures.spots

    @property
    def notes(self) -> tuple[str, ...]:
        """Plain words on what spoils the numbers."""
        return self._figures.notes

    def shown(self, checkpoint: str) -> int | None:
        """The frame that shows a checkpoint, None where it is not found."""
        found = self.analysis.checkpoints.get(checkpoint) if self.analysis else None
        return found.shown if found else None

    def checkpoint_at(self, frame: int) -> str | None:
        """The checkpoint that a frame shows, if any."""
        points = self.analysis.checkpoints if self.analysis else {}
        here = [name for name, c in points.items() if c.shown == frame]
        return here[-1] if here else None

    def frame_title(self, frame: int) -> str:
        """A frame in words: the checkpoint it is, or its number."""
        return frame_words(self.analysis.checkpoints if self.analysis else {}, frame)
