"""Findings as knots on a plumb: the root on top, what it leads to hung under it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from kneel.desk.places.bench.reading.minitrace import TraceCourse, course_of, paint_course
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.figures import LED
from kneel.desk.widgets.fold import Fold
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import draw_verdict
from kneel.judge import Finding
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.speech.limits import allowed_signs, allowed_words
from kneel.speech.words import checkpoint_words, number, with_unit

VERDICT_WORDS = {"fault": "fault", "watch": "watch", "clear": "not there", "unknown": "can’t tell"}
OVERRIDE_WORDS = {ADDED: "seen by the instructor", REJECTED: "overruled", LEFT: "known, left"}
KNOT_HEIGHT = 46

INDENT_PX, DEEPEST = 16, 3
PLUMB_X = 18.0
TRACE_WIDE = 52.0


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
        self._course: TraceCourse | None = None
        self._lower = False
        self.setFixedHeight(KNOT_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tr("Show it on the picture"))

    def show_finding(self, one: Hung) -> None:
        """Show a finding where it hangs."""
        f = one.finding
        if (self._hung is None or self._hung.finding is not f) and not self._open.numbers.dragging:
            self._course = course_of(self._open, f)
        self._hung = one
        value = f", {with_unit(number(f.value, f.unit), f.unit)}" if f.value is not None and f.unit else ""
        self.setAccessibleName(f"{tr(f.fault.title)}: {self._words(f)[0]}{value}")
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
        draw_verdict(painter, self._look, f.verdict.value, QPointF(x, 17))
        left, right = x + 16, self.width() - 12.0
        taken = self._value(painter, f, left, right)
        upper = QRectF(left, 7, taken - left - 8, 20)
        title = font(14 if self._hung.depth == 0 else 13, 600)
        reached = left + write(painter, upper, tr(f.fault.title), title, self._look.colour("text"))
        end = self._beside(painter, f, left, right)
        if self._course is not None and not self._lower and taken - reached > TRACE_WIDE + 20:
            place = QRectF(taken - TRACE_WIDE - 10, 10, TRACE_WIDE, 14)
            paint_course(painter, self._look, place, self._course, f.verdict.value)
        lower = QRectF(left, 26, end - left - 6, 16)
        words = self._words(f)
        write(painter, lower, words[-1], font(11.5), self._look.colour("secondary"), whole=words[0])

    @staticmethod
    def _x(depth: int) -> float:
        return PLUMB_X + INDENT_PX * min(depth, DEEPEST)

    def _words(self, f: Finding) -> tuple[str, str]:
        """Verdict and checkpoint in words, and shorter where there is no room."""
        if f.override is not None:
            said = tr(OVERRIDE_WORDS.get(f.override.verdict, f.override.verdict))
            return said, said
        verdict = tr(VERDICT_WORDS[f.verdict.value])
        if f.checkpoint in (None, "once"):
            return verdict, verdict
        return f"{verdict} {tr('at')} {checkpoint_words(f.checkpoint)}", verdict

    def _plumbs(self, painter: QPainter, one: Hung, x: float) -> None:
        """A line down to what hangs under it, and those of others that run past."""
        painter.setPen(QPen(self._look.colour("faint"), 1.2))
        for level in one.through:
            above = self._x(level - 1)
            painter.drawLine(QPointF(above, 0), QPointF(above, self.height()))
        if one.depth:
            above = self._x(one.depth - 1)
            painter.drawLine(QPointF(above, 0), QPointF(above, 17))
            painter.drawLine(QPointF(above, 17), QPointF(x - 9, 17))
        if one.leads:
            painter.drawLine(QPointF(x, 26), QPointF(x, self.height()))

    def _value(self, painter: QPainter, f: Finding, left: float, right: float) -> float:
        """Value and error at the right of the title, a line lower where the title is long; returns their
        left.
        """
        self._lower = False
        if f.value is None or f.sigma is None or f.unit is None or f.decided is None:
            return right
        value = with_unit(number(f.value, f.unit), f.unit, short=True)
        error = f" ± {number(f.sigma, f.unit, signed=False)}"
        big, small = font(14, 600), font(12.5)
        width = wide(value, big) + wide(error, small)
        title = wide(tr(f.fault.title), font(14 if self._hung and self._hung.depth == 0 else 13, 600))
        self._lower = left + title + 10 > right - width
        top = 25 if self._lower else 7
        start = right - width
        write(painter, QRectF(start, top, wide(value, big), 20), value, big, self._look.colour("text"))
        box = QRectF(start + wide(value, big), top, wide(error, small), 20)
        write(painter, box, error, small, self._look.colour("secondary"))
        return right if self._lower else start

    def _beside(self, painter: QPainter, f: Finding, left: float, right: float) -> float:
        """The limit that counts and the small trace, as far as there is room; returns their left."""
        if self._lower:
            return right - wide(with_unit(number(f.value, f.unit), f.unit, short=True), font(14, 600)) - 60
        needed = left + wide(self._words(f)[0], font(11.5)) + 8
        end = right
        if f.limits and f.decided is not None and f.unit is not None:
            limits = f.limits.counted(f.decided.check.side)
            words = allowed_words(f.decided.check.measure, *limits, f.unit)
            if wide(words, font(11.5)) > end - needed:
                words = allowed_signs(f.decided.check.measure, *limits, f.unit)
            width = wide(words, font(11.5))
            if end - width > left + 40:
                box = QRectF(end - width, 26, width, 16)
                write(painter, box, words, font(11.5), self._look.colour("secondary"))
                end -= width + 8
        return end

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose()

    def _choose(self) -> None:
        if self._hung is not None:
            self._open.selection.choose(self._hung.finding.key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.focusNextPrevChild(event.key() == Qt.Key.Key_Down)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusInEvent(event)


class FindingsList(QWidget):
    """A column of knots; those at hand are used again."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.after: QWidget | None = None
        """What Tab comes from."""

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
                knot = Knot(self._open, self._look)
                before = self._column.itemAt(k - 1).widget() if k else self.after
                self._column.addWidget(knot)
                if before is not None:
                    # Tab goes from one to the next, before whatever stands further down.
                    QWidget.setTabOrder(before, knot)
            self._column.itemAt(k).widget().show_finding(one)


class Findings(QWidget):
    """The chain as far as there is room, and a quiet line that opens what stands further down."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open = opened
        self._chain: Sequence[tuple[Finding, int]] = ()
        self.knots = FindingsList(opened, look)
        self.more = Fold(look, tr("More findings"))
        self.more.toggled.connect(lambda _: self._show())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.knots)
        column.addWidget(self.more)

    def show_chain(self, chain: Sequence[tuple[Finding, int]]) -> None:
        """Show findings with their depths; one that is chosen is never hidden."""
        self._chain = chain
        hidden = [f.key for f, _ in chain[LED:]]
        if self._open.selection.fault in hidden and self._open.selection.by_hand:
            self.more.setChecked(True)
        self._show()

    def _show(self) -> None:
        opened = self.more.isChecked()
        rest = len(self._chain) - LED
        self.knots.show_chain(self._chain if opened else self._chain[:LED])
        self.more.say("" if rest <= 0 else tr("fewer") if opened else tr("and %d more") % rest)
        self.more.setVisible(rest > 0)
