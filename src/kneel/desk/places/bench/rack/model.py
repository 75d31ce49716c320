"""The rows of the rack as Qt's lists take them."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QAbstractListModel, QModelIndex, Qt

from kneel.desk.places.bench.rack.card import OPEN, ROW, STATE, card_words
from kneel.desk.places.bench.rack.rows import Card, Heading, Others, Row, SetRow, TakenOff
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import tip
from kneel.disk import shown


class Rows(QAbstractListModel):
    """The rows of the rack; what is on the desk and how far work is, are told beside them."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[Row, ...] = ()
        self.opened: Path | None = None
        self.state = ""

    def show(self, found: tuple[Row, ...]) -> None:
        if found == self.rows:
            return
        if [type(row) for row in found] == [type(row) for row in self.rows]:
            # The same rows, that say something else: who stands on one goes on standing there.
            self.rows = found
            self.layoutChanged.emit()
            return
        self.beginResetModel()
        self.rows = found
        self.endResetModel()

    def touch(self) -> None:
        """What stands beside the rows has changed."""
        if self.rows:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.rows) - 1, 0))

    def document_at(self, index: QModelIndex) -> Path | None:
        """The document of a row, None where it is no swing's."""
        row = self.rows[index.row()] if index.isValid() else None
        return row.entries[0].document if isinstance(row, Card) else None

    def index_of(self, document: Path) -> QModelIndex:
        """The row of a swing; not valid where it is not shown."""
        for k, row in enumerate(self.rows):
            if isinstance(row, Card) and any(one.document == document for one in row.entries):
                return self.index(k, 0)
        return QModelIndex()

    def beside(self, document: Path | None) -> Path | None:
        """The document that is taken for another camera's of one, by its name; None where there is none."""
        for row in self.rows:
            if isinstance(row, Card) and any(one.document == document for one in row.entries):
                return next((one.document for one in row.entries if one.document != document), None)
        return None

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == ROW:
            return row
        if role == OPEN:
            return self.opened
        if role == STATE:
            return self.state
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            return tip(_spoken(row)) if role == Qt.ItemDataRole.ToolTipRole else _spoken(row)
        return None


def _spoken(row: Row) -> str:
    """A row as it is read aloud."""
    if isinstance(row, Heading):
        return tr("Student %s, swings: %d") % (shown(row.golfer) or tr("without a name yet"), row.count)
    if isinstance(row, SetRow):
        return ", ".join(part for part in (row.title, row.first, row.second) if part)
    if isinstance(row, Others):
        return several(
            row.count,
            "One swing of another student or day in this folder",
            "%d swings of other students or days in this folder",
        )
    if isinstance(row, TakenOff):
        return several(row.count, "Put one swing back on the rack", "Put %d swings back on the rack")
    return "; ".join(", ".join((shown(one.clip.name), *card_words(one, ""))) for one in row.entries)
