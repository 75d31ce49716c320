"""What the parts of a place lie on, and how a part scrolls where the window is low."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QWidget

from kneel.desk.widgets.theme import Look


class CardBackground(QWidget):
    """A part of a place on a panel of the desk's colour."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRoundedRect(self.rect(), 6, 6)


def cautioned(words: QLabel) -> QWidget:
    """Words of care, beside a bar that bids to read them."""
    row, bar = QWidget(), QFrame()
    bar.setFixedWidth(3)
    bar.setProperty("role", "watch")
    beside = QHBoxLayout(row)
    beside.setContentsMargins(0, 0, 0, 0)
    beside.addWidget(bar)
    beside.addWidget(words, 1)
    return row


def scrolled(inner: QWidget) -> QScrollArea:
    """A part that scrolls up and down, on whatever ground it lies."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QScrollArea.Shape.NoFrame)
    area.setWidget(inner)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    for ground in (area.viewport(), inner):
        ground.setAutoFillBackground(False)
    return area
