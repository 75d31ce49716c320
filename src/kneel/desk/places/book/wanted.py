"""What a student wants, in a line that opens it for writing."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label


class Wanted(Label):
    """What a student complains of and wants; ``clicked`` to write it."""

    clicked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tr("Write what the student wants"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()
