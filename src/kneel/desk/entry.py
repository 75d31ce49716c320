"""Typing one thing in place: a number with its unit, or a few words with suggestions."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QStringListModel, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QCompleter, QDoubleSpinBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from kneel.desk.panels import Panel
from kneel.desk.theme import Look
from kneel.desk.words import tr


class Entry(Panel):
    """A panel with one field; Enter or the button takes what is in it, Esc leaves things as they are."""

    def __init__(
        self,
        parent: QWidget,
        look: Look,
        title: str,
        take: Callable[[object], object],
        *,
        number: tuple[float, float, float, int] | None = None,
        words: str = "",
        unit: str = "",
        suggestions: Sequence[str] = (),
        remark: str = "",
    ) -> None:
        """``number`` is the value now, the lowest, the highest, and how many digits after the point."""
        super().__init__(parent, look, title)
        self._take_value = take
        label = QLabel(title)
        label.setWordWrap(True)
        label.setProperty("role", "strong")
        self.column.addWidget(label)
        self.field: QDoubleSpinBox | QLineEdit
        if number is not None:
            now, low, high, digits = number
            box = QDoubleSpinBox()
            box.setRange(low, high)
            box.setDecimals(digits)
            box.setValue(now)
            box.setSuffix(f" {unit}" if unit else "")
            box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
            box.selectAll()
            self.field = box
        else:
            line = QLineEdit(words)
            line.setMaxLength(200)
            line.selectAll()
            completer = QCompleter(QStringListModel(list(suggestions)))
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            line.setCompleter(completer)
            self.field = line
        self.field.setAccessibleName(title)
        self.field.setMinimumWidth(200)
        self.field.installEventFilter(self)
        button = QPushButton(tr("Set"))
        button.clicked.connect(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.field, 1)
        row.addWidget(button)
        self.column.addLayout(row)
        if remark:
            more = QLabel(remark)
            more.setWordWrap(True)
            more.setProperty("role", "small")
            self.column.addWidget(more)
        self.setMinimumWidth(300)

    def focus_first(self) -> QWidget | None:
        return self.field

    def accept(self) -> None:
        """Take what is in the field."""
        field = self.field
        value = field.value() if isinstance(field, QDoubleSpinBox) else field.text().strip()
        self.close()
        self._take_value(value)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.KeyPress and watched is self.field:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                if isinstance(self.field, QDoubleSpinBox):
                    self.field.interpretText()
                self.accept()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close()
                return True
        return super().eventFilter(watched, event)
