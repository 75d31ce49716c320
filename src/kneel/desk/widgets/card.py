"""What the parts of a place lie on, and how a part scrolls where the window is low."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QScrollArea, QWidget

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


def groundless() -> QWidget:
    """What is to be scrolled: without a ground of its own. Its style is set before it holds anything."""
    inner = QWidget()
    inner.setObjectName("inner")
    inner.setStyleSheet("#inner { background: transparent; }")
    return inner


def scrolled(inner: QWidget) -> QScrollArea:
    """A part that scrolls up and down, on whatever ground it lies."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inner)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    view = area.viewport()
    assert view is not None
    # Named, so that what lies in it keeps grounds of its own.
    view.setObjectName("through")
    view.setStyleSheet("#through { background: transparent; }")
    return area
