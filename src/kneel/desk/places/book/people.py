"""The students as a list: who, when last, and what was worked on; searched by any word that was written."""

from __future__ import annotations

import datetime

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import (
    QLineEdit,
    QListView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from kneel.book.repository.students import Listed
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip, write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import draw_verdict
from kneel.disk import shown
from kneel.judge import in_use
from kneel.speech.practice import brief_day

WIDE, HIGH = 224, 48
PERSON = Qt.ItemDataRole.UserRole + 1
TYPED_MS = 120
"""So long after the last letter it is searched."""


def under_words(one: Listed, today: datetime.date) -> str:
    """The second line of a student: when last, and what; or that a clip is due."""
    if one.day is None:
        return tr("no lesson yet")
    day = brief_day(one.day, today)
    if one.check_in is not None and one.check_in <= today:
        return tr("%s · check-in due") % day
    fault = in_use().faults.get(one.fault)
    if fault is not None:
        return f"{day} · {fault.title.lower()}"
    return tr("%s · fine") % day if one.verdict == "clear" else tr("%s · not filmed") % day


class _Rows(QAbstractListModel):
    def __init__(self) -> None:
        super().__init__()
        self.people: tuple[Listed, ...] = ()

    def show(self, people: tuple[Listed, ...]) -> None:
        self.beginResetModel()
        self.people = people
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.people)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        one = self.people[index.row()]
        if role == PERSON:
            return one
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            words = f"{shown(one.name)}, {under_words(one, datetime.date.today())}"
            return tip(words) if role == Qt.ItemDataRole.ToolTipRole else words
        return None


class _Painter(QStyledItemDelegate):
    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(min(option.rect.width(), WIDE) - 12 if option.rect.isValid() else WIDE - 12, HIGH)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        one: Listed = index.data(PERSON)
        look, box = self._look, QRectF(option.rect).adjusted(1, 2, -1, -2)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(look.colour("chosen_edge"), 1.2))
            painter.setBrush(look.colour("chosen"))
            painter.drawRoundedRect(box, 6, 6)
        draw_verdict(painter, look, one.verdict, QPointF(box.left() + 17, box.center().y()), 6.5)
        words = QRectF(box.left() + 34, box.top() + 4, box.width() - 40, 18)
        write(
            painter, words, shown(one.name), font(13, 600), look.colour("faint" if one.archived else "text")
        )
        under = under_words(one, datetime.date.today())
        write(painter, words.translated(0, 18), under, font(11.5), look.colour("secondary"))
        painter.restore()


class People(QWidget):
    """Search, list, and a new one. ``chosen`` carries a student's id, ``searched`` what is looked for."""

    chosen = pyqtSignal(str)
    searched = pyqtSignal(str)
    new_wanted = pyqtSignal()
    other_wanted = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setFixedWidth(WIDE)
        self.other = QPushButton()
        self.other.setProperty("role", "flat")
        self.other.clicked.connect(lambda _=False: self.other_wanted.emit())
        self._rows = _Rows()
        self.line = QLineEdit()
        self.line.setPlaceholderText(tr("Search what was said …"))
        self.line.setAccessibleName(tr("Search students, and all that was said and written"))
        self.line.setClearButtonEnabled(True)
        self._soon = QTimer(self, singleShot=True, interval=TYPED_MS)
        self._soon.timeout.connect(lambda: self.searched.emit(self.line.text()))
        self.line.textChanged.connect(lambda _: self._soon.start())
        self.list = QListView()
        self._rows.setParent(self.list)
        self.list.setModel(self._rows)
        self._painter = _Painter(look)
        self.list.setItemDelegate(self._painter)
        self.list.setUniformItemSizes(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName(tr("Students"))
        selection = self.list.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._on_current)
        self.new = QPushButton(tr("+ New student"))
        self.new.clicked.connect(lambda _=False: self.new_wanted.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.other)
        column.addWidget(self.line)
        column.addWidget(self.list, 1)
        column.addWidget(self.new)
        look.changed.connect(self.list.viewport().update)

    def show_book(self, *, demo: bool, other: bool) -> None:
        """Say whose students these are; ``other`` is whether there is another Book to look at."""
        self.other.setText(tr("Demo students. To yours ▸") if demo else tr("Your students. To the demo’s ▸"))
        self.other.setVisible(demo or other)

    def show_people(self, people: tuple[Listed, ...], student: str) -> None:
        """Show students, the one whose page is open chosen."""
        selection = self.list.selectionModel()
        assert selection is not None
        selection.blockSignals(True)
        if people != self._rows.people:
            self._rows.show(people)
        row = next((k for k, one in enumerate(people) if one.id == student), None)
        if row is None:
            selection.clear()
        elif self.list.currentIndex().row() != row:
            self.list.setCurrentIndex(self._rows.index(row, 0))
        selection.blockSignals(False)
        self.list.viewport().update()

    def _on_current(self, index: QModelIndex, _: QModelIndex) -> None:
        if index.isValid():
            self.chosen.emit(self._rows.people[index.row()].id)
