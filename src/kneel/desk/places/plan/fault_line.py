"""The fault that a plan is about, in a line that opens the others."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import draw_verdict


class FaultLine(QAbstractButton):
    """What is worked on: its glyph and title; a click opens the choice of another."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look, self._verdict, self._opens = look, "fault", True
        self.setFixedHeight(24)

    def show_fault(self, verdict: str, title: str, *, opens: bool) -> None:
        self._verdict, self._opens = verdict, opens
        self.setText(title)
        self.setEnabled(opens)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if opens else Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(tr("Worked on: %s") % title)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_verdict(painter, look, self._verdict, QPointF(8, self.height() / 2))
        lit = self._opens and (self.underMouse() or self.hasFocus())
        words = f"{self.text()} ▾" if self._opens else self.text()
        box = QRectF(22, 0, self.width() - 22, self.height())
        write(painter, box, words, font(14, 600), look.colour("chosen_edge" if lit else "text"))
