"""Looking for the joints in the background."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QObject

from kneel.desk.operations import Beside, Task
from kneel.desk.swing.background import Background
from kneel.evidence import Shelf, Stretch, look_at
from kneel.evidence.stretch import nothing_at_hand
from kneel.model import Swing
from kneel.vision import Looked


class Looking(Background):
    """What the body model saw of the open swing."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._shelf: Shelf | None = None
        self.beside: Beside | None = None
        """Where the looking is done; in a thread where there is none."""

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

        beside = self.beside

        def work(task: Task) -> Looked:
            how = {"view": swing.known_view, "mirrored": bool(swing.mirrored), "near": swing.near}
            if beside is None:
                return look_at(stretch, shelf, progress=task.progress, stopped=task.stopped, **how)
            plain = replace(stretch, peek=nothing_at_hand)
            found = beside.call(
                look_at,
                plain,
                shelf,
                long=True,
                progress=task.progress,
                part=lambda some: task.hand_over(lambda: self._take_part(some, swing, stretch)),
                stopped=task.stopped,
                **how,
            )
            return found if found is not None else Looked()

        self._begin(work)

    @property
    def over(self) -> bool:
        """Whether nothing more comes by itself: it was done, it broke off, or it was declined."""
        return self._found_for is not None or self._declined is not None

    @property
    def known(self) -> Looked | None:
        """What a looking that is over has found, None where none is."""
        return self.found if self._found_for is not None and not self.busy else None

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

    def _take_part(self, found: Looked, swing: Swing, stretch: Stretch) -> None:
        """Show what is known so far; more is on its way."""
        if self._wanted == _question(swing, stretch):
            self.found = found
            self.finished.emit()

    def _give_up(self) -> None:
        self._found_for, self._wanted = self._wanted, None


def _question(swing: Swing, stretch: Stretch) -> object:
    return stretch.name, swing.known_view, bool(swing.mirrored), swing.near
