"""Choosing by typing: commands, measures, faults, students, all in one kind of list."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import (
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QRectF,
    QSize,
    Qt,
)
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.text import RIGHT, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.paint import tick

ROW = 30
MOST_ROWS = 12
WIDE = 420
CHOICE = Qt.ItemDataRole.UserRole + 1


@dataclass(frozen=True)
class Choice:
    """One entry: its words, quieter ones beside them, keys at the right, and what choosing it does."""

    title: str
    act: Callable[[], None]
    detail: str = ""
    keys: str = ""
    checked: bool = False
    enabled: bool = True


def folded(words: str) -> str:
    """Words as they are compared: without case and accents."""
    plain = unicodedata.normalize("NFKD", words.casefold())
    return "".join(c for c in plain if not unicodedata.combining(c))


def found(choices: Sequence[Choice], typed: str) -> list[Choice]:
    """The entries that hold every word typed, those whose title begins with it first.

    >>> some = [Choice("Side tilt", print), Choice("Tilt of the pelvis", print), Choice("Sway", print)]
    >>> [one.title for one in found(some, "tilt")]
    ['Tilt of the pelvis', 'Side tilt']
    """
    words = folded(typed).split()
    held = [(folded(f"{one.title} {one.detail}"), one) for one in choices]
    match = [(text, one) for text, one in held if all(word in text for word in words)]
    if words:
        match.sort(key=lambda pair: (not pair[0].startswith(words[0]), f" {words[0]}" not in pair[0]))
    return [one for _, one in match]


class _Rows(QAbstractListModel):
    def __init__(self, choices: Sequence[Choice]) -> None:
        super().__init__()
        self._all, self.shown = list(choices), list(choices)

    def narrow(self, typed: str) -> None:
        self.beginResetModel()
        self.shown = found(self._all, typed)
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.shown)

    def data(
        self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        one = self.shown[index.row()]
        if role == CHOICE:
            return one
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{one.title} {one.detail}".strip()
        return None

    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        base = super().flags(index)
        return base if self.shown[index.row()].enabled else base & ~Qt.ItemFlag.ItemIsEnabled


class _Painter(QStyledItemDelegate):
    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(WIDE, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        one: Choice = index.data(CHOICE)
        look, box = self._look, QRectF(option.rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(look.colour("chosen_edge"))
            painter.setBrush(look.colour("chosen"))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        if one.checked:
            tick(painter, box.topLeft(), look.colour("clear"))
        keys_type, title_type, detail_type = font(11.5, 600), font(13), font(11.5)
        keys_wide = wide(one.keys, keys_type)
        inner = box.adjusted(26, 0, -10 - (keys_wide + 12 if one.keys else 0), 0)
        colour = look.colour("text" if one.enabled else "faint")
        taken = write(painter, inner, one.title, title_type, colour)
        if one.detail and inner.width() - taken > 40:
            rest = inner.adjusted(taken + 10, 1, 0, 1)
            fits = wide(one.detail, detail_type) <= rest.width()
            words = (
                one.detail
                if fits
                else painter.fontMetrics().elidedText(
                    one.detail, Qt.TextElideMode.ElideRight, int(rest.width())
                )
            )
            write(painter, rest, words if fits else "", detail_type, look.colour("secondary"))
        if one.keys:
            write(painter, box.adjusted(0, 0, -12, 0), one.keys, keys_type, look.colour("secondary"), RIGHT)


class Chooser(Panel):
    """A panel with a line to type in and the entries that fit; Enter takes the one that stands first."""

    def __init__(
        self,
        parent: QWidget,
        look: Look,
        title: str,
        choices: Sequence[Choice],
        *,
        typing: bool | None = None,
    ) -> None:
        super().__init__(parent, look, title)
        self._rows = _Rows(choices)
        self.line = QLineEdit()
        self.line.setPlaceholderText(tr("Type to find"))
        self.line.setAccessibleName(title)
        self.line.textChanged.connect(self._narrow)
        self.line.installEventFilter(self)
        typing = len(choices) > 8 if typing is None else typing
        self.line.setVisible(typing)
        self.list = QListView()
        self._rows.setParent(self)
        self.list.setModel(self._rows)
        self._painter = _Painter(look)
        self.list.setItemDelegate(self._painter)
        self.list.setAccessibleName(title)
        self.list.setFrameShape(QListView.Shape.NoFrame)
        self.list.setMouseTracking(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.entered.connect(self.list.setCurrentIndex)
        self.list.clicked.connect(lambda index: self._take(index.row()))
        self.list.installEventFilter(self)
        self.column.addWidget(self.line)
        self.column.addWidget(self.list)
        details = [
            wide(c.title, font(13)) + wide(c.detail, font(11.5)) + wide(c.keys, font(11.5, 600))
            for c in choices
        ]
        width = round(max([180.0, *(d + 84 for d in details)]))
        self.setMinimumWidth(min(width, parent.window().width() - 24, 640))
        self._suit()
        checked = next((k for k, c in enumerate(choices) if c.checked), 0)
        self._stand_on(checked)

    @property
    def choices(self) -> list[Choice]:
        """Those on show now."""
        return self._rows.shown

    def place(self) -> None:
        """Lie where it was opened: a list that gets shorter does not wander."""
        top = self.geometry().top() if self.isVisible() else None
        super().place()
        if top is not None and self._anchor is None:
            self.move(self.x(), top)

    def focus_first(self) -> QWidget | None:
        return self.list if self.line.isHidden() else self.line

    def pick(self, title: str) -> None:
        """Take the entry of this title, or the one that begins so, as a click would."""
        titles = [one.title for one in self.choices]
        (row,) = (
            [titles.index(title)]
            if title in titles
            else [k for k, words in enumerate(titles) if words.startswith(title)]
        )
        self._take(row)

    def _narrow(self, typed: str) -> None:
        self._rows.narrow(typed)
        self._stand_on(0)
        self._suit()
        self.place()

    def _suit(self) -> None:
        """As high as what there is to choose from."""
        self.list.setFixedHeight(max(min(len(self.choices), MOST_ROWS), 1) * ROW + 4)

    def _stand_on(self, row: int) -> None:
        self.list.setCurrentIndex(self._rows.index(row, 0))

    def _take(self, row: int) -> None:
        if 0 <= row < len(self.choices) and self.choices[row].enabled:
            act = self.choices[row].act
            self.close()
            act()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() is QEvent.Type.KeyPress
            and watched in (self.line, self.list)
        ):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}
            if event.key() in step:
                row = self.list.currentIndex().row() + step[event.key()]
                self._stand_on(min(max(row, 0), len(self.choices) - 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentIndex().row())
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close()
                return True
        return super().eventFilter(watched, event)
