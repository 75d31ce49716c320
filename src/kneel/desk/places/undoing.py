"""One undo wherever one stands: the last step of all, whether of the swing on the desk or of its Book."""

from __future__ import annotations

from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import Labels
from kneel.desk.swing import OpenSwing


class Undoing:
    """Takes back what was done last, of the document on the desk and the records of its student's Book."""

    def __init__(self, opened: OpenSwing, practice: Practice) -> None:
        self._open, self._practice = opened, practice

    def steps(self) -> Labels:
        """What would be taken back and what taken again, in words; None where there is nothing."""
        history, records = self._open.document.history, self._practice.record.undoing.steps()
        back = records[0] if self._of_records(back=True) else history.undo_label
        on = records[1] if self._of_records(back=False) else history.redo_label
        return back, on

    def undo(self) -> None:
        """Take the last step back."""
        if self._of_records(back=True):
            self._practice.record.undoing.undo()
        else:
            self._open.document.undo()

    def redo(self) -> None:
        """Take what was taken back last again."""
        if self._of_records(back=False):
            self._practice.record.undoing.redo()
        else:
            self._open.document.redo()

    def _of_records(self, *, back: bool) -> bool:
        """Whether the later of the two is a step of the records."""
        history, record = self._open.document.history, self._practice.record
        mine = history.undo_at if back else history.redo_at
        theirs = record.records.when(record.which)[0 if back else 1]
        return theirs is not None and (mine is None or theirs > mine)
