"""What the window knows of a place, such as the Bench: title, actions, undo, and when it is on show."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.desk.records.undo import Labels

Handlers = dict[str, Callable[[], object]]


class Undo(Protocol):
    """Takes back the steps of something."""

    def steps(self) -> Labels:
        """What would be taken back and what taken again, in words; None where there is nothing."""

    def undo(self) -> None:
        """Take the last step back."""

    def redo(self) -> None:
        """Take what was taken back last again."""


class Place(QWidget):
    """A place of the desk; the window switches between places and knows no more of them than this.

    ``said`` carries a sentence for the status bar.
    """

    key = title = ""
    said = pyqtSignal(str)

    def __init__(self, undoing: Undo) -> None:
        super().__init__()
        self._undoing = undoing

    def handlers(self) -> Handlers:
        """What its actions do, by their keys in the table of actions."""
        raise NotImplementedError

    def picture_parts(self) -> Sequence[QWidget]:
        """The widgets whose focus has the keys of the picture."""
        return ()

    def borrows(self) -> Sequence[str]:
        """Keys of another place's actions that hold here too: they work on the swing on the desk."""
        return ()

    def hints(self) -> str:
        """The keys worth knowing now."""
        return ""

    def undo(self) -> None:
        """Take back the last step that was done here."""
        self._undoing.undo()

    def redo(self) -> None:
        """Take that step again."""
        self._undoing.redo()

    def steps(self) -> Labels:
        """What would be taken back and what taken again, in words; None where there is nothing."""
        return self._undoing.steps()

    def enter(self) -> None:
        """It comes on show."""

    def leave(self) -> None:
        """Another place comes on show."""

    def close_down(self) -> None:
        """The desk closes: give up what is under way."""
