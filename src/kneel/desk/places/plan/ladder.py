"""The ladder: four rungs side by side, what each asks, and where the student stands."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, high, tip, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.model import RUNGS, Plan, Rung
from kneel.practice import Drill, standing
from kneel.practice.ladder import RungHeld, held
from kneel.speech import practice as say
from kneel.speech.words import length_words

SPACING = 8
HIGH, SIDE, TOP, GAP = 98, 11, 8, 3


class RungCard(QWidget):
    """One rung. A bar on top: clear where it has been climbed, watch where one stands, quiet above."""

    def __init__(self, look: Look, rung: Rung) -> None:
        super().__init__()
        self._look, self.rung = look, rung
        self._asks = self._how = self.state = ""
        self._bar = "faint"
        self.setMinimumSize(120, HIGH)

    def sizeHint(self) -> QSize:
        return QSize(200, HIGH)

    def show_rung(self, plan: Plan, drill: Drill | None, *, begun: bool) -> None:
        stands, number = standing(plan), RUNGS.index(self.rung)
        self._asks = say.rung_words(plan, self.rung)
        self._how = drill.on(self.rung) if drill else ""
        self.state, self._bar = "", "faint"
        if not begun:
            self._bar = "watch" if number == 0 else "faint"
        elif number < stands.number or (stands.done and number == len(RUNGS) - 1):
            self.state, self._bar = tr("held"), "clear"
        elif number == stands.number:
            self.state, self._bar = tr("now"), "watch"
            if stands.last is not None:
                value, sigma = stands.last
                said = held(plan.aim, value, sigma, plan.ladder[number])
                self.state = tr("now %s") % length_words(value, sigma, plan.aim.unit)
                self.state += tr(", not past it") if said is not RungHeld.HELD else ""
        self.setAccessibleName(f"{say.RUNG_TITLES[self.rung]}: {self._asks}. {self._how} {self.state}")
        self.setToolTip(tip(self._how))
        self.update()

    def _blocks(self) -> list[tuple[str, QFont, str]]:
        """What is written, from the top: words, type, colour."""
        title = f"{RUNGS.index(self.rung) + 1}  {tr(say.RUNG_TITLES[self.rung])}"
        state = "clear" if self._bar == "clear" else "watch"
        rows = [(title, font(13, 600), "text"), (self._asks, font(12), "text")]
        rows += [(self._how, font(11.5), "secondary"), (self.state, font(11.5, 600), state)]
        return [row for row in rows if row[0]]

    def needed(self, width: int) -> int:
        """How high it has to be for all its words."""
        inner = width - 2 * SIDE
        return round(2 * TOP + sum(high(words, type_, inner) + GAP for words, type_, _ in self._blocks()))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setBrush(look.colour(self._bar))
        painter.drawRoundedRect(QRectF(0, 0, self.width(), 3), 1.5, 1.5)
        at, inner = float(TOP), self.width() - 2 * SIDE
        for words, type_, colour in self._blocks():
            tall = high(words, type_, inner)
            write_block(painter, QRectF(SIDE, at, inner, tall), words, type_, look.colour(colour))
            at += tall + GAP


class Ladder(QWidget):
    """Heading and rungs."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        head = QHBoxLayout()
        title = Label(tr("The ladder"))
        title.setProperty("role", "strong")
        words = Label(tr("a rung is climbed when its number holds, and left again when it does not"))
        words.setProperty("role", "secondary")
        words.setWordWrap(True)
        head.addWidget(title)
        head.addSpacing(8)
        head.addWidget(words, 1)
        column.addLayout(head)
        row = QHBoxLayout()
        row.setSpacing(SPACING)
        self.rungs = [RungCard(look, rung) for rung in RUNGS]
        for card in self.rungs:
            row.addWidget(card, 1)
        column.addLayout(row)
        look.changed.connect(self.update)

    def show_plan(self, plan: Plan | None, drill: Drill | None, *, begun: bool) -> None:
        self.setVisible(plan is not None)
        if plan is not None:
            for card in self.rungs:
                card.show_rung(plan, drill, begun=begun)
            self._suit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._suit()

    def _suit(self) -> None:
        """Be as high as the fullest rung needs."""
        width = (self.width() - SPACING * (len(self.rungs) - 1)) // len(self.rungs)
        tall = max(HIGH, *(card.needed(width) for card in self.rungs))
        for card in self.rungs:
            card.setMinimumHeight(tall)
