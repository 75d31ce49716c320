"""The drills for the root as cards, best first; the one that is looked at is lit."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import high, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.judge import in_use
from kneel.practice import Proposal
from kneel.practice.choice import DrillChoice, Stands
from kneel.speech import practice as say
from kneel.speech.words import capital

SIDE, TOP, LINE = 12, 9, 16


class DrillCard(QAbstractButton):
    """One drill: its title, what it is done with, and what speaks against it now."""

    def __init__(self, look: Look, choice: DrillChoice, *, chosen: bool, running: bool) -> None:
        super().__init__()
        self._look, self._choice, self._running = look, choice, running
        self._props = capital(say.props_words(choice.drill))
        self._why = capital(say.standing_words(choice, in_use().faults))
        self.setCheckable(True)
        self.setChecked(chosen)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        policy = self.sizePolicy()
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        state = tr("chosen") if chosen else tr("press to look at it")
        self.setAccessibleName(f"{choice.drill.title}, {self._props}. {self._why} {state}")

    @property
    def key(self) -> str:
        return self._choice.drill.key

    def _under(self) -> str:
        """The line under the title."""
        mark = tr("in the plan") if self._running else ""
        return " · ".join(part for part in (self._props, mark) if part)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return round(2 * TOP + LINE + self._high(self._under(), width) + self._high(self._why, width))

    def sizeHint(self) -> QSize:
        return QSize(240, self.heightForWidth(max(self.width(), 240)))

    def _high(self, words: str, width: int) -> float:
        return high(words, font(11.5), width - 2 * SIDE) + 1 if words else 0.0

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        lit = self.isChecked()
        edge = "chosen_edge" if lit or self.underMouse() or self.hasFocus() else "raised"
        painter.setPen(QPen(look.colour(edge), 1.8 if self.hasFocus() else 1.1))
        painter.setBrush(look.colour("chosen" if lit else "raised"))
        painter.drawRoundedRect(box, 6, 6)
        stands = self._choice.stands
        quiet = stands > Stands.WARNED
        inner = QRectF(SIDE, TOP - 1, self.width() - 2 * SIDE, LINE)
        write(
            painter,
            inner,
            self._choice.drill.title,
            font(13, 600),
            look.colour("secondary" if quiet else "text"),
        )
        at = inner.bottom() + 1
        for words, colour in (
            (self._under(), "secondary"),
            (self._why, "watch" if not quiet else "secondary"),
        ):
            if words:
                tall = self._high(words, self.width())
                under = QRectF(SIDE, at, self.width() - 2 * SIDE, tall)
                write_block(painter, under, words, font(11.5), look.colour(colour))
                at += tall


class DrillCards(QWidget):
    """All drills of a proposal. ``picked`` carries the key of one."""

    picked = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(6)
        self.cards: list[DrillCard] = []
        self._shown: object = None

    def show_proposal(self, proposal: Proposal | None, chosen: str, running: str) -> None:
        """Show the drills; ``chosen`` is looked at, ``running`` is the plan's."""
        wanted = (proposal.drills if proposal else (), chosen, running)
        if wanted == self._shown:
            return
        self._shown = wanted
        had = next((card.key for card in self.cards if card.hasFocus()), "")
        for card in self.cards:
            self._column.removeWidget(card)
            card.setParent(None)
            card.deleteLater()
        self.cards = []
        for choice in proposal.drills if proposal else ():
            key = choice.drill.key
            card = DrillCard(self._look, choice, chosen=key == chosen, running=key == running)
            card.clicked.connect(lambda _=False, k=key: self.picked.emit(k))
            self._column.addWidget(card)
            self.cards.append(card)
            if key == had:
                card.setFocus()
