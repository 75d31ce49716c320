"""The place at the foot of the rack to drop clips, or to click for more."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from kneel.desk.places.bench.rack.card import dropped
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look


class DropHere(QWidget):
    """The place to drop clips, or to click for more."""

    clicked = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setFixedHeight(56)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Open or drop clips"))

    def sizeHint(self) -> QSize:
        return QSize(120, 56)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        box = QRectF(self.rect()).adjusted(7, 1, -9, -3)
        dropped(painter, self._look, box, tr("Drop clips here, or a folder"))
        if self.hasFocus():
            painter.setPen(self._look.colour("chosen_edge"))
            painter.drawRoundedRect(box, 6, 6)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)
