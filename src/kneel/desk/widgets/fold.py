"""One quiet line that opens and closes what stands under it; of as many lines as its words need."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look


class Fold(Label):
    """A label that can be pressed, by mouse and by keyboard; ``toggled`` tells whether it is open."""

    toggled = pyqtSignal(bool)

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self._look, self._open = look, False
        self.setWordWrap(True)
        self.setProperty("role", "small")
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def isChecked(self) -> bool:
        return self._open

    def setChecked(self, opened: bool) -> None:
        if opened != self._open:
            self._open = opened
            self.toggled.emit(opened)

    def say(self, words: str) -> None:
        """The words, with the sign of what a press does."""
        self.setText(f"{words} {'▴' if self._open else '▾'}" if words else "")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self.setChecked(not self._open)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.setChecked(not self._open)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusOutEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 4, 4)
