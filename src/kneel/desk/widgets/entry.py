"""Typing one thing in place: a number with its unit, or a few words with suggestions."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QLocale, QObject, QPoint, QStringListModel, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QValidator
from PyQt6.QtWidgets import QCompleter, QDoubleSpinBox, QHBoxLayout, QLineEdit, QPushButton, QToolTip, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look


class TextLine(QLineEdit):
    """A line of at most so many letters; what does not fit is not taken, and that is said beside it.

    ``left`` tells that it was left by Enter, or by Esc, which puts back what stood there.
    """

    left = pyqtSignal()

    def __init__(self, most: int) -> None:
        super().__init__()
        self.setMaxLength(most)
        self._before = ""
        self.inputRejected.connect(self._tell)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._before = self.text()
        super().focusInEvent(event)

    def event(self, event: QEvent | None) -> bool:
        override = isinstance(event, QKeyEvent) and event.type() is QEvent.Type.ShortcutOverride
        if override and event.key() == Qt.Key.Key_Escape:
            # Esc is this field's while it is typed in, whatever it does elsewhere.
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._before)
            self.left.emit()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.left.emit()

    def _tell(self) -> None:
        words = tr("At most %d letters fit here: the rest was not taken.") % self.maxLength()
        QToolTip.showText(self.mapToGlobal(QPoint(0, self.height())), words, self)


class NumberLine(QDoubleSpinBox):
    """A number with a point or a comma before its decimals, on every desk; nothing groups its digits."""

    def __init__(self) -> None:
        super().__init__()
        plain = QLocale(QLocale.Language.C)
        plain.setNumberOptions(QLocale.NumberOption.OmitGroupSeparator)
        self.setLocale(plain)

    def validate(self, text: str | None, at: int) -> tuple[QValidator.State, str, int]:
        words = (text or "").replace(",", ".")
        if words.count(".") > 1:
            return QValidator.State.Invalid, words, at
        return super().validate(words, at)

    def valueFromText(self, text: str | None) -> float:
        return super().valueFromText((text or "").replace(",", "."))


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
        most: int = 200,
        unit: str = "",
        suggestions: Sequence[str] = (),
        remark: str = "",
    ) -> None:
        """``number`` is the value now, the lowest, the highest, and how many digits after the point; ``most``
        is of how many letters words may be.
        """
        super().__init__(parent, look, title)
        self._take_value = take
        label = Label(title)
        label.setWordWrap(True)
        label.setProperty("role", "strong")
        self.column.addWidget(label)
        self.field: QDoubleSpinBox | QLineEdit
        self._words, self._shown = "", "\0"
        if number is not None:
            now, low, high, digits = number
            box = NumberLine()
            box.setRange(low, high)
            box.setDecimals(digits)
            box.setValue(now)
            box.setSuffix(f" {unit}" if unit else "")
            box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
            box.selectAll()
            self.field = box
        else:
            line = TextLine(most)
            line.setText(words)
            line.selectAll()
            completer = QCompleter(QStringListModel(list(suggestions)))
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            line.setCompleter(completer)
            self.field, self._words, self._shown = line, words, line.text()
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
            more = Label(remark)
            more.setWordWrap(True)
            more.setProperty("role", "small")
            self.column.addWidget(more)
        self.setMinimumWidth(300)

    def suggest(self, suggestions: Sequence[str]) -> None:
        """Names that come while the field is open; for somebody who is typing, at once."""
        field = self.field
        if isinstance(field, QLineEdit) and (completer := field.completer()) is not None:
            completer.setModel(QStringListModel(list(suggestions), completer))

    def focus_first(self) -> QWidget | None:
        return self.field

    def accept(self) -> None:
        """Take what is in the field."""
        field = self.field
        value: object = field.value() if isinstance(field, QDoubleSpinBox) else field.text().strip()
        if value == self._shown.strip():
            # Lines that stand on one here are still lines.
            value = self._words
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
