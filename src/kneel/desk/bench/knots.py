"""Findings as knots on a plumb: the root on top, what it leads to hung under it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from kneel.desk.glyphs import draw_verdict
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import tr
from kneel.judge import Finding
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.speech.words import checkpoint_words, number, window_signs, window_words, with_unit

VERDICT_WORDS = {"fault": "fault", "watch": "watch", "clear": "clear", "unknown": "can’t tell"}
OVERRIDE_WORDS = {ADDED: "seen by the instructor", REJECTED: "not so", LEFT: "known, left"}
KNOT_HEIGHT = 54
INDENT_PX, DEEPEST = 16, 3
PLUMB_X = 18.0


@dataclass(frozen=True)
class Hung:
    """A finding and where it hangs: its depth, whether a plumb comes from above, and which go on below."""

    finding: Finding
    depth: int = 0
    first: bool = True
    through: tuple[int, ...] = ()
    """Depths whose plumbs run past this knot to one further down."""

    leads: bool = False
    """Whether something hangs under it."""


def hung(chain: Sequence[tuple[Finding, int]]) -> list[Hung]:
    """A chain with its plumbs."""
    found = []
    for k, (finding, depth) in enumerate(chain):
        later = [d for _, d in chain[k + 1 :]]
        through = []
        for level in range(1, depth + 1):
            ahead = next((d for d in later if d <= level), None)
            if ahead == level:
                through.append(level)
        leads = bool(later) and later[0] == depth + 1
        found.append(Hung(finding, depth, k == 0, tuple(through), leads))
    return found


class Knot(QWidget):
    """One finding on the plumb: glyph, name, value, window. Choosing it takes the stage there."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._hung: Hung | None = None
        self.setFixedHeight(KNOT_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tr("Show it on the picture"))

    def show_finding(self, one: Hung) -> None:
        """Show a finding where it hangs."""
        self._hung = one
        f = one.finding
        self.setAccessibleName(f"{f.fault.title}: {tr(VERDICT_WORDS[f.verdict.value])}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._hung is None:
            return
        f = self._hung.finding
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 2.5, -0.5, -2.5)
        if f.key == self._open.selection.fault:
            painter.setPen(QPen(self._look.colour("chosen_edge"), 2 if self.hasFocus() else 1))
            painter.setBrush(self._look.colour("chosen"))
            painter.drawRoundedRect(box, 6, 6)
        elif self.hasFocus():
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 6, 6)
        x = self._x(self._hung.depth)
        self._plumbs(painter, self._hung, x)
        draw_verdict(painter, self._look, f.verdict.value, QPointF(x, 20))
        bold = font(14 if self._hung.depth == 0 else 13, 600)
        painter.setFont(bold)
        title = tr(f.fault.title)
        reach = x + 16 + painter.fontMetrics().horizontalAdvance(title)
        painter.setFont(font(11.5))
        room = self._numbers(
            painter, f, reach, x + 16 + painter.fontMetrics().horizontalAdvance(self._words(f))
        )
        painter.setPen(self._look.colour("text"))
        painter.setFont(bold)
        title = painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, int(room - x - 16))
        painter.drawText(QPointF(x + 16, 25), title)
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(QPointF(x + 16, 42), self._words(f))

    @staticmethod
    def _x(depth: int) -> float:
        return PLUMB_X + INDENT_PX * min(depth, DEEPEST)

    def _words(self, f: Finding) -> str:
        if f.override is not None:
            return tr(OVERRIDE_WORDS.get(f.override.verdict, f.override.verdict))
        where = f" {tr('at')} {checkpoint_words(f.checkpoint)}" if f.checkpoint not in (None, "once") else ""
        return tr(VERDICT_WORDS[f.verdict.value]) + where

    def _plumbs(self, painter: QPainter, one: Hung, x: float) -> None:
        """A line down to what hangs under it, and those of others that run past."""
        painter.setPen(QPen(self._look.colour("faint"), 1.2))
        for level in one.through:
            above = self._x(level - 1)
            painter.drawLine(QPointF(above, 0), QPointF(above, self.height()))
        if one.depth:
            above = self._x(one.depth - 1)
            painter.drawLine(QPointF(above, 0), QPointF(above, 20))
            painter.drawLine(QPointF(above, 20), QPointF(x - 9, 20))
        if one.leads:
            painter.drawLine(QPointF(x, 29), QPointF(x, self.height()))

    def _numbers(self, painter: QPainter, f: Finding, title_width: float, taken: float) -> float:
        """Value, error and the limit that counts, to the right; returns how far the title may reach.

        ``title_width`` and ``taken`` are how far the title and the words under it reach. Beside a long title
        there is no room: its value stands a line lower, and the limit in the sentence.
        """
        right = self.width() - 12.0
        if f.value is None or f.sigma is None or f.unit is None or f.decided is None:
            return right
        unit = f.unit
        value = with_unit(number(f.value, unit), unit, short=True)
        error = f" ± {number(f.sigma, unit, signed=False)}"
        painter.setFont(font(12.5))
        error_width = painter.fontMetrics().horizontalAdvance(error)
        painter.setFont(font(14, 600))
        left = right - error_width - painter.fontMetrics().horizontalAdvance(value)
        beside = title_width <= left - 10
        line = 25 if beside else 42
        painter.setPen(self._look.colour("text"))
        painter.drawText(QPointF(left, line), value)
        painter.setFont(font(12.5))
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(QPointF(right - error_width, line), error)
        if f.limits and beside:
            painter.setFont(font(11.5))
            limits, wide = f.limits.counted(f.decided.check.side), painter.fontMetrics().horizontalAdvance
            words = window_words(*limits, unit)
            if taken + wide(words) > right - 10:
                words = window_signs(*limits, unit)
            painter.drawText(QPointF(right - wide(words), 42), words)
        return left - 6 if beside else right

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose()

    def _choose(self) -> None:
        if self._hung is not None:
            self._open.selection.choose(self._hung.finding.key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusInEvent(event)


class Knots(QWidget):
    """A column of knots; those at hand are used again."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)

    def show_chain(self, chain: Sequence[tuple[Finding, int]]) -> None:
        """Show findings with their depths."""
        while self._column.count() > len(chain):
            item = self._column.takeAt(self._column.count() - 1)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for k, one in enumerate(hung(chain)):
            if k >= self._column.count():
                self._column.addWidget(Knot(self._open, self._look))
            self._column.itemAt(k).widget().show_finding(one)
