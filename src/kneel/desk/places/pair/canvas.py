"""One of the two pictures."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QWheelEvent

from kneel.desk.stage.canvas import Canvas
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, write
from kneel.desk.widgets.theme import Look, font


class PairCanvas(Canvas):
    """The canvas of one of two swings; ``stepped`` tells by how many of its frames the wheel went."""

    stepped = pyqtSignal(int)

    def __init__(self, opened: OpenSwing, look: Look, name: str) -> None:
        super().__init__(opened, look)
        self.setMinimumSize(QSize(200, 160))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Picture of %s") % name)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._open.store is None:
            painter.fillRect(self.rect(), self._look.colour("panel"))
            words = tr("No swing is here yet.")
            write(painter, QRectF(self.rect()), words, font(12.5), self._look.colour("secondary"), CENTRE)
            return
        self.paint(painter)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.stepped.emit(-1 if event.angleDelta().y() > 0 else 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
