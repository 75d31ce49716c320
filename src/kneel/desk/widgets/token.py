"""A token: one thing the swing, or a plan, is taken for; a click opens it in place."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from kneel.desk.widgets.flow import SPACING, Rows
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip, wide, write
from kneel.desk.widgets.theme import Look, font

HEIGHT, SIDE = 38, 11


class Token(QAbstractButton):
    """A small box: caption, value, and a quiet remark. A broken border is a guess, a solid one a fact."""

    def __init__(self, look: Look, caption: str) -> None:
        super().__init__()
        self._look, self._caption = look, caption
        self._value = self._remark = ""
        self._guessed = self._asks = self._brief = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(caption)

    def show_value(
        self, value: str, remark: str, *, guessed: bool, why: str = "", asks: bool = False
    ) -> None:
        """Show a value; a guessed one gets a broken border, and ``why`` it was guessed on hovering.

        One that ``asks`` stands out: an answer is wanted.
        """
        fresh = (value, remark, guessed, asks) != (self._value, self._remark, self._guessed, self._asks)
        self._value, self._remark, self._guessed, self._asks = value, remark, guessed, asks
        state = tr("a guess; click to set") if guessed else tr("click to change")
        state = tr("a guess, for %s; click to set") % why if guessed and why else state
        words = " ".join(f"{self._caption}: {value} {remark}".split())
        self.setAccessibleName(f"{words}, {state}")
        self.setToolTip(tip(f"{words}, {state}"))
        if fresh:
            self.updateGeometry()
            self.update()

    def be_brief(self, brief: bool) -> None:
        """Leave the remark to the tooltip, unless an answer is wanted."""
        if brief != self._brief:
            self._brief = brief
            self.updateGeometry()
            self.update()

    @property
    def _beside(self) -> str:
        """The remark as far as it is shown."""
        return "" if self._brief and not self._asks else self._remark

    def sizeHint(self) -> QSize:
        value, remark = wide(self._value, font(13)), wide(self._beside, font(11.5))
        line = value + (6 + remark if self._beside else 0)
        return QSize(round(max(line, wide(self._caption, font(11)))) + 2 * SIDE + 1, HEIGHT)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = self._look
        active = self.underMouse() or self.hasFocus()
        edge = "watch" if self._asks else "chosen_edge" if active else "faint"
        pen = QPen(look.colour(edge), 1.8 if self._asks or self.hasFocus() else 1.1)
        if self._guessed:
            pen.setDashPattern([3, 2.5])
        painter.setPen(pen)
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        inner = QRectF(SIDE, 3, self.width() - 2 * SIDE + 1, 16)
        write(painter, inner, self._caption, font(11), look.colour("secondary"))
        inner = QRectF(SIDE, 17, self.width() - 2 * SIDE + 1, 18)
        taken = write(painter, inner, self._value, font(13), look.colour("text"))
        if self._beside:
            rest = inner.adjusted(taken + 6, 0.5, 0, 0.5)
            write(painter, rest, self._beside, font(11.5), look.colour("secondary"))


class TokenRow(QWidget):
    """Tokens in a row, by key; remarks are left to the tooltips where they would cost a second line."""

    def __init__(self) -> None:
        super().__init__()
        Rows(self)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.tokens: dict[str, Token] = {}

    def put(self, key: str, token: Token) -> None:
        """Put a token at the end of the row."""
        self.tokens[key] = token
        layout = self.layout()
        assert layout is not None
        layout.addWidget(token)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def fit(self) -> None:
        """Be brief where that saves a line."""
        shown = [token for token in self.tokens.values() if not token.isHidden()]
        for brief in (False, True):
            for token in shown:
                token.be_brief(brief)
            if sum(token.sizeHint().width() + SPACING for token in shown) - SPACING <= self.width():
                break
        layout = self.layout()
        if layout is not None:
            layout.invalidate()
            layout.setGeometry(self.rect())
