"""Taking back steps of one Book's records, for whoever is on show or on the desk."""

from __future__ import annotations

from collections.abc import Callable

from kneel.desk.records.books import Which
from kneel.desk.records.records import Records

Labels = tuple[str | None, str | None]


class RecordsUndo:
    """Takes back steps of one Book's records; ``whose`` tells of which Book, and the student on show."""

    def __init__(self, records: Records, whose: Callable[[], tuple[Which, str]]) -> None:
        self._records, self._whose = records, whose

    def steps(self) -> Labels:
        """What would be taken back and what taken again, in words; None where there is nothing."""
        return self._records.labels(*self._whose())

    def undo(self) -> None:
        """Take the last step back."""
        self._records.undo(self._whose()[0])

    def redo(self) -> None:
        """Take what was taken back last again."""
        self._records.redo(self._whose()[0])
