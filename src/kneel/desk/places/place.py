"""What the window knows of a place, such as the Bench: its title, its widget, its deeds, and when it is on
show.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from PyQt6.QtWidgets import QWidget

Deeds = dict[str, Callable[[], object]]


class Place(Protocol):
    """A place of the desk. The window switches between places and knows no more of them than this."""

    key: str
    title: str

    @property
    def widget(self) -> QWidget:
        """What is shown."""

    def deeds(self) -> Deeds:
        """What its actions do, by their keys in the table of actions."""

    def picture_parts(self) -> Sequence[QWidget]:
        """The widgets whose focus has the keys of the picture."""

    def hints(self) -> str:
        """The keys worth knowing now."""

    def undo(self) -> None:
        """Take back the last step of the place's own."""

    def redo(self) -> None:
        """Take that step again."""

    def steps(self) -> tuple[str | None, str | None]:
        """What would be taken back and what taken again, in words; None where there is nothing."""

    def enter(self) -> None:
        """It comes on show."""

    def leave(self) -> None:
        """Another place comes on show."""
