"""Quiet panels inside the window, where a toolkit would put a box of its own; none stops the window."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.widgets.card import scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.disk import shown

Answer = tuple[str, Callable[[], None]]
MARGIN = 12
GAP = 4


class Panel(QFrame):
    """A raised sheet over the window: at a place, or in the middle. Esc closes it and gives the focus back.

    A ``passing`` one closes when anything else is clicked.
    """

    def __init__(self, parent: QWidget, look: Look, title: str, *, passing: bool = True) -> None:
        super().__init__(parent.window())
        self._look, self._passing = look, passing
        self._before = QApplication.focusWidget()
        self._anchor: QRect | None = None
        self.setAccessibleName(title)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(MARGIN, MARGIN, MARGIN, MARGIN)
        self.column.setSpacing(8)
        self.hide()

    def open(self, anchor: QWidget | None = None) -> None:
        """Show it under a widget, or in the middle of the window where none is given."""
        window = self.parentWidget()
        for other in window.findChildren(Panel):
            if other is not self and other._passing:
                other.close()
        if anchor is not None:
            self._anchor = QRect(anchor.mapTo(window, QPoint(0, 0)), anchor.size())
        self.place()
        self.show()
        self.raise_()
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self)
        first = self.focus_first()
        (first or self).setFocus(Qt.FocusReason.PopupFocusReason)

    def focus_first(self) -> QWidget | None:
        """What is typed into first."""
        return None

    def place(self) -> None:
        """Lie inside the window, however small it is."""
        window = self.parentWidget()
        room = window.rect().adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        self.adjustSize()
        hint = self.sizeHint()
        width = min(max(hint.width(), self.minimumWidth()), room.width())
        layout = self.layout()
        high = (
            layout.heightForWidth(width)
            if layout is not None and layout.hasHeightForWidth()
            else hint.height()
        )
        height = min(high if high > 0 else hint.height(), room.height())
        if self._anchor is None:
            left = room.center().x() - width // 2
            top = max(room.top(), room.top() + (room.height() - height) // 3)
        else:
            left = self._anchor.left()
            top = self._anchor.bottom() + GAP
            if top + height > room.bottom():
                top = max(min(self._anchor.top() - GAP - height, room.bottom() - height), room.top())
        left = min(max(left, room.left()), room.right() - width)
        self.setGeometry(left, top, width, height)

    def close(self) -> bool:
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        was = self.isVisible()
        self.hide()
        if was:
            before = self._before
            if before is not None and not sip.isdeleted(before) and before.isVisible():
                before.setFocus()
            self.deleteLater()
        return True

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._passing and event.type() is QEvent.Type.MouseButtonPress and isinstance(watched, QWidget):
            outside = watched is not self and not self.isAncestorOf(watched)
            if outside and watched.window() is self.window():
                self.close()
        return False

    def event(self, event: QEvent) -> bool:
        # A panel has the keys of its own: what the desk does with a letter is no business of who types here.
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
            return
        event.accept()

    def mousePressEvent(self, event: QEvent) -> None:
        event.accept()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self._look.colour("faint"), 1.2))
        painter.setBrush(self._look.colour("panel"))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 8, 8)


class Sheet(Panel):
    """A panel with a title, words, anything else, and answers; Esc takes the last, which loses nothing."""

    def __init__(
        self,
        parent: QWidget,
        look: Look,
        title: str,
        words: str = "",
        *,
        content: QWidget | None = None,
        answers: Sequence[Answer] = (),
        width: int = 460,
        passing: bool = False,
    ) -> None:
        super().__init__(parent, look, title, passing=passing)
        self.setMinimumWidth(min(width, parent.window().width() - 2 * MARGIN))
        self._answers = tuple(answers) or ((tr("Close"), lambda: None),)
        head = Label(title)
        head.setWordWrap(True)
        head.setProperty("role", "title")
        self.column.addWidget(head)
        self.words = Label("\n".join(shown(line) for line in words.split("\n")))
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setVisible(bool(words))
        self.column.addWidget(self.words)
        if content is not None:
            area = scrolled(content)
            area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
            # Long sheets are read by keyboard, too.
            area.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            area.setMinimumHeight(min(content.sizeHint().height(), max(parent.window().height() - 220, 120)))
            area.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
            self.column.addWidget(area, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        self.answers: list[QPushButton] = []
        for label, deed in self._answers:
            button = QPushButton(label)
            button.setAutoDefault(True)
            button.clicked.connect(lambda _=False, d=deed: self._take(d))
            row.addWidget(button)
            self.answers.append(button)
        self.column.addLayout(row)

    def text(self) -> str:
        """All words of the sheet."""
        parts = [label.text() for label in self.findChildren(QLabel)]
        parts += [edit.toPlainText() for edit in self.findChildren(QPlainTextEdit)]
        return "\n".join(parts)

    def focus_first(self) -> QWidget | None:
        return self.answers[-1]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._take(self._answers[-1][1])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            focus = QApplication.focusWidget()
            if isinstance(focus, QPushButton) and focus in self.answers:
                focus.click()
        else:
            event.accept()

    def _take(self, deed: Callable[[], None]) -> None:
        self.close()
        # After the focus is back where it was: an answer may open another panel.
        QTimer.singleShot(0, deed)


def titled(words: str) -> QLabel:
    """A small heading inside a panel."""
    label = Label(words)
    label.setProperty("role", "caption")
    return label
