"""Looking for the joints in the background."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from kneel.desk.swing.background import Background
from kneel.desk.tasks import Task
from kneel.evidence import Shelf, Stretch, look_at
from kneel.model import Swing
from kneel.vision import Looked


class Looking(Background):
    """What the body model saw of the open swing."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._shelf: Shelf | None = None
        self.found = Looked()
        self._found_for: object = None
        self._wanted: object = None
        self._declined: object = None

    @property
    def busy(self) -> bool:
        return self._task is not None

    def begin(self, shelf: Shelf, swing: Swing, stretch: Stretch, known: Looked | None) -> None:
        """A clip is opened of which this much is known already, None where nothing is."""
        self._shelf, self._declined = shelf, None
        self.found = known or Looked()
        self._found_for = None if known is None else _question(swing, stretch)

    def need(self, swing: Swing, stretch: Stretch) -> None:
        """Ask for the joints of a swing, unless they are known, asked for, or were declined."""
        question, shelf = _question(swing, stretch), self._shelf
        if shelf is None or question in (self._found_for, self._wanted, self._declined):
            return
        self.cancel()
        self._wanted = question

        def work(task: Task) -> Looked:
            return look_at(
                stretch,
                shelf,
                view=swing.known_view,
                mirrored=bool(swing.mirrored),
                near=swing.near,
                progress=task.progress,
                stopped=task.stopped,
            )

        self._begin(work)

    def cancel(self) -> None:
        """Give up what is under way."""
        self._drop()
        self._wanted = None

    def stop(self) -> None:
        """Give up, and do not begin again until something else is asked."""
        if self.busy:
            self._declined = self._wanted
        self.cancel()

    def again(self) -> None:
        """What was declined may be asked for once more."""
        self._declined = None

    def end(self) -> None:
        """Give up and forget."""
        self.cancel()
        self.found, self._found_for, self._shelf = Looked(), None, None

    def _take(self, found: Looked) -> None:
        self.found, self._found_for, self._wanted = found, self._wanted, None

    def _give_up(self) -> None:
        self._found_for, self._wanted = self._wanted, None


def _question(swing: Swing, stretch: Stretch) -> object:
    return stretch.name, swing.known_view, bool(swing.mirrored), swing.near
