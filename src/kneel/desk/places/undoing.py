"""One undo wherever one stands: the last step of all, whether of a swing on the desk or of its Book."""

from __future__ import annotations

from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import Labels
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.document import Document


class Undoing:
    """Takes back what was done last, of the document on the desk, of ``others`` that are worked on beside it,
    and of the records of its student's Book.
    """

    def __init__(self, opened: OpenSwing, practice: Practice, *others: OpenSwing) -> None:
        self._swings, self._practice = (opened, *others), practice

    def steps(self) -> Labels:
        """What would be taken back and what taken again, in words; None where there is nothing."""
        records = self._practice.record.undoing.steps()
        back, on = self._latest(back=True), self._latest(back=False)
        return (
            records[0] if back is None else back.history.undo_label,
            records[1] if on is None else on.history.redo_label,
        )

    def undo(self) -> None:
        """Take the last step back."""
        document = self._latest(back=True)
        if document is None:
            self._practice.record.undoing.undo()
        else:
            document.undo()

    def redo(self) -> None:
        """Take what was taken back last again."""
        document = self._latest(back=False)
        if document is None:
            self._practice.record.undoing.redo()
        else:
            document.redo()

    def _latest(self, *, back: bool) -> Document | None:
        """The document whose step is the latest of all; None where that is one of the records."""
        record = self._practice.record
        theirs = record.records.when(record.which)[0 if back else 1]
        lying = [one for one in self._swings if one.store is not None or one is self._swings[0]]
        found = [(_when(swing.document, back=back), swing.document) for swing in lying]
        stepped = [(when, document) for when, document in found if when is not None]
        when, document = max(stepped, key=lambda one: one[0], default=(None, self._swings[0].document))
        return None if theirs is not None and (when is None or theirs > when) else document


def _when(document: Document, *, back: bool) -> float | None:
    return document.history.undo_at if back else document.history.redo_at
