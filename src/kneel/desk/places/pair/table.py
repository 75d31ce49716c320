"""What is different: every number of both, the largest for its error first, what is within it greyed."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from kneel.compare.difference import Difference
from kneel.compare.family import Compared
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import RIGHT, Label, high, tip, wide, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.judge.kinds import ONCE
from kneel.motion.measures import REGISTRY
from kneel.motion.space.linked import Linked
from kneel.motion.space.quantities import QUANTITIES, InSpace, Quantity
from kneel.speech.pair import counted_words, difference_words, least_words
from kneel.speech.space import clock_words
from kneel.speech.words import length_words, number

WIDE = 322
BETWEEN_PX = 96
TALL, LOW = 40, 24
ROOM = WIDE - 40 - 16 - BETWEEN_PX
"""For the name of a number."""


class Row(QAbstractButton):
    """One number of both. One that differs stands out; one within its error is grey and low."""

    def __init__(self, look: Look, one: Difference, *, alone: bool = False) -> None:
        super().__init__()
        self.one, self._look = one, look
        self.alone = alone
        """Whether it is the number of the plan, which was asked alone."""

        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCheckable(True)
        state = tr("differs by more than its error") if one.claimed else tr("within its error")
        whose = tr("the plan’s number, asked alone") if alone else ""
        self.setAccessibleName(" ".join(part for part in (difference_words(one), state, whose) if part))
        self.setToolTip(tip(f"{difference_words(one)} {least_words(one)}"))

    def sizeHint(self) -> QSize:
        if self.one.claimed:
            return QSize(WIDE - 40, round(self._title_high()) + TALL - 17)
        return QSize(WIDE - 40, TALL if not self._fits() else LOW)

    def _title_high(self) -> float:
        return max(high(tr(REGISTRY[self.one.measure].short), font(12, 600), ROOM), 17.0)

    @property
    def name(self) -> str:
        """What it is, and at which checkpoint."""
        at = "" if self.one.at == ONCE else checkpoint_title(self.one.at).lower()
        plan = tr("(the plan’s)") if self.alone else ""
        return " ".join(part for part in (tr(REGISTRY[self.one.measure].short), at, plan) if part)

    def _fits(self) -> bool:
        return wide(self.name, font(12)) <= ROOM

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        one, look, box = self.one, self._look, QRectF(self.rect())
        if one.claimed or self.isChecked() or self.underMouse() or self.hasFocus():
            painter.setPen(look.colour("chosen_edge") if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("chosen" if self.isChecked() else "raised"))
            painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        inner = box.adjusted(8, 3, -8, -3)
        colour = look.colour("text" if one.claimed else "secondary")
        between = length_words(one.difference, one.sigma, one.unit)
        cell = QRectF(inner.right() - BETWEEN_PX, inner.top(), BETWEEN_PX, 17)
        write(painter, cell, between, font(12, 600 if one.claimed else 400), colour, RIGHT)
        room = QRectF(inner.left(), inner.top(), inner.width() - BETWEEN_PX, inner.height())
        if not one.claimed:
            write_block(painter, room, self.name, font(12), colour)
            return
        write_block(painter, room, tr(REGISTRY[one.measure].short), font(12, 600), colour)
        both = f"{number(one.before, one.unit)} → {number(one.after, one.unit)}"
        at = "" if one.at == ONCE else f"{checkpoint_title(one.at).lower()} · "
        under = QRectF(inner.left(), inner.top() + self._title_high(), inner.width(), 17)
        plan = tr(" · the plan’s") if self.alone else ""
        write(painter, under, at + both + plan, font(11.5), look.colour("secondary"))


class SpaceRow(QWidget):
    """A number of the body in space."""

    def __init__(self, look: Look, of: Quantity, found: InSpace) -> None:
        super().__init__()
        self._look, self._title = look, tr(of.title.removesuffix(" in space").removesuffix(", in space"))
        self._value = length_words(found.value, found.sigma, found.unit)
        self._way = tr("+ %s") % tr(of.positive)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(f"{self._title}: {self._value}, {self._way}")

    def sizeHint(self) -> QSize:
        return QSize(WIDE - 40, round(self._title_high() + high(self._way, font(11), ROOM)) + 8)

    def _title_high(self) -> float:
        return max(high(self._title, font(12, 600), ROOM), 17.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        inner = QRectF(self.rect()).adjusted(8, 3, -8, -3)
        cell = QRectF(inner.right() - BETWEEN_PX, inner.top(), BETWEEN_PX, 17)
        write(painter, cell, self._value, font(12, 600), self._look.colour("text"), RIGHT)
        room = QRectF(inner.left(), inner.top(), ROOM, self._title_high())
        write_block(painter, room, self._title, font(12, 600), self._look.colour("text"))
        under = QRectF(inner.left(), inner.top() + self._title_high(), ROOM, inner.height())
        write_block(painter, under, self._way, font(11), self._look.colour("secondary"))


class Differences(CardBackground):
    """The table; ``chosen`` carries the number that was clicked."""

    chosen = pyqtSignal(object)

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.setFixedWidth(WIDE)
        self._title, self.said, self.verdicts = Label(tr("What is different")), Label(), Label()
        self.heads, self.least = Label(), Label()
        self._title.setProperty("role", "strong")
        for label in (self.heads, self.least):
            label.setProperty("role", "small")
        for label in (self.said, self.verdicts, self.heads, self.least):
            label.setWordWrap(True)
        self.verdicts.setProperty("role", "secondary")
        self.rows: list[Row] = []
        self._chosen = "", ""
        self._inner = QWidget()
        self._column = QVBoxLayout(self._inner)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(3)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 8, 10)
        column.setSpacing(6)
        for part in (self._title, self.said, self.heads):
            column.addWidget(part)
        column.addWidget(scrolled(self._inner), 1)
        column.addWidget(self.least)
        column.addWidget(self.verdicts)

    def wait(self, words: str) -> None:
        """Nothing is compared yet, and why."""
        self._title.setText(tr("What is different"))
        self.said.setText(words)
        self.heads.setText("")
        self.verdicts.setText("")
        self.least.setText("")
        self._fill(())

    def show_compared(self, found: Compared, verdicts: str) -> None:
        """Show what was compared."""
        self._title.setText(tr("What is different"))
        self.said.setText(counted_words(found))
        self.heads.setText(tr("what lies between: on the desk less beside"))
        self.verdicts.setText(verdicts)
        rows = found.rows
        ordered = (*(r for r in rows if r.claimed), *(r for r in rows if not r.claimed))
        self._fill(ordered, found.prescribed)
        self.choose(*self._chosen)

    def show_space(self, linked: Linked, checkpoint: str, words: str) -> None:
        """Show what two cameras tell of one swing at a checkpoint, and in ``words`` what comes first;
        ``checkpoint`` is empty between them.
        """
        self._title.setText(tr("In space"))
        self.said.setText(clock_words(linked))
        where = checkpoint_title(checkpoint).lower() if checkpoint else ""
        self.heads.setText(
            tr("in space, %s") % where if where else tr("stand on a checkpoint for its numbers")
        )
        self.verdicts.setText(words)
        self.least.setText("")
        self._fill(())
        self._column.takeAt(self._column.count() - 1)
        for key, one in QUANTITIES.items():
            found = linked.numbers.get((key, checkpoint))
            if found is not None:
                self._column.addWidget(SpaceRow(self._look, one, found))
        self._column.addStretch(1)

    def choose(self, measure: str, at: str) -> None:
        """Mark the row of a number, and say the least that could be told of it."""
        self._chosen = measure, at
        self.least.setText("")
        for row in self.rows:
            row.setChecked((row.one.measure, row.one.at) == (measure, at))
            if row.isChecked():
                self.least.setText(least_words(row.one))

    def _fill(self, rows: Sequence[Difference], alone: object = None) -> None:
        while (item := self._column.takeAt(0)) is not None:
            old = item.widget()
            if old is not None:
                old.hide()
                old.deleteLater()
        self.rows = []
        quiet = False
        for one in rows:
            if not one.claimed and not quiet:
                quiet = True
                self._column.addWidget(self._caption(tr("Within their errors: nothing to say")))
            row = Row(self._look, one, alone=one is alone)
            row.clicked.connect(lambda _=False, one=one: self.chosen.emit(one))
            self._column.addWidget(row)
            self.rows.append(row)
        self._column.addStretch(1)

    def _caption(self, words: str) -> QWidget:
        label = Label(words)
        label.setProperty("role", "caption")
        return label
