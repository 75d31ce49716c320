"""One helper paints all text: it says what it had to cut off, so that a test can ask."""

from __future__ import annotations

import html
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter
from PyQt6.QtWidgets import QLabel, QWidget

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
CENTRE = Qt.AlignmentFlag.AlignCenter
TOP_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop
SLACK_PX = 0.75
"""Widths of text are reckoned in fractions of a pixel; so little more than the room is no cut."""


class Label(QLabel):
    """A label whose words are shown as they are: names and reasons are anybody's, and no markup of theirs
    may draw a picture or open a file.
    """

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(words)

    def set_marked(self, marked: str) -> None:
        """Show markup of our own; whatever comes from elsewhere in it has been through ``escaped``."""
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setText(marked)


def escaped(words: str) -> str:
    """Words as they stand in markup."""
    return html.escape(words).replace("\n", "<br>")


def tip(words: str) -> str:
    r"""Words as a tooltip shows them as they are; Qt takes what looks like markup for it.

    >>> tip("Ida Fenn"), tip("<img src=x>\nIda")
    ('Ida Fenn', '<span>&lt;img src=x&gt;<br>Ida</span>')
    """
    return f"<span>{escaped(words)}</span>" if "<" in words or "&" in words else words


@dataclass(frozen=True)
class Cut:
    """Words that did not fit, and the room they had, px."""

    words: str
    wide: float
    room: float


_listening: list[list[Cut]] = []


@contextmanager
def cuts() -> Iterator[list[Cut]]:
    """Gather what is cut off while something is painted."""
    found: list[Cut] = []
    _listening.append(found)
    try:
        yield found
    finally:
        _listening.remove(found)


def wide(words: str, type_: QFont) -> float:
    """How wide words are in a type, px."""
    return _wide(words, _Type(type_))


class _Type:
    """A type as a key: those of the desk are made once each, and one object is one type."""

    def __init__(self, type_: QFont) -> None:
        self.type = type_

    def __hash__(self) -> int:
        return id(self.type)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Type) and other.type is self.type


@lru_cache(4096)
def _wide(words: str, type_: _Type) -> float:
    return QFontMetricsF(type_.type).horizontalAdvance(words)


def write(
    painter: QPainter,
    box: QRectF,
    words: str,
    type_: QFont,
    colour: QColor,
    align: Qt.AlignmentFlag = LEFT,
    *,
    whole: str = "",
) -> float:
    """Paint one line in a box, cut at its end where it does not fit; returns its width.

    ``whole`` is a longer text that ``words`` stands for where there is no room: taken where it fits.
    """
    if whole and wide(whole, type_) <= box.width() + SLACK_PX:
        words = whole
    width = wide(words, type_)
    if width > box.width() + SLACK_PX:
        for found in _listening:
            found.append(Cut(words, width, box.width()))
        words = QFontMetricsF(type_).elidedText(words, Qt.TextElideMode.ElideRight, box.width())
        width = wide(words, type_)
    painter.setFont(type_)
    painter.setPen(colour)
    painter.drawText(box.adjusted(-1, 0, 2, 0) if align is CENTRE else box.adjusted(0, 0, 2, 0), align, words)
    return width


def write_block(
    painter: QPainter,
    box: QRectF,
    words: str,
    type_: QFont,
    colour: QColor,
    align: Qt.AlignmentFlag = TOP_LEFT,
) -> float:
    """Paint words in as many lines as they need; returns their height, and says where the box is lower."""
    flags = int(align | Qt.TextFlag.TextWordWrap)
    needed = QFontMetricsF(type_).boundingRect(box, flags, words)
    if needed.height() > box.height() + 1 or needed.width() > box.width() + 1:
        for found in _listening:
            found.append(Cut(words, needed.height(), box.height()))
    painter.setFont(type_)
    painter.setPen(colour)
    painter.drawText(box, flags, words)
    return needed.height()


def high(words: str, type_: QFont, width: float) -> float:
    """How high words are in a type, in as many lines as they need, px."""
    flags = int(TOP_LEFT | Qt.TextFlag.TextWordWrap)
    return (
        QFontMetricsF(type_).boundingRect(QRectF(0, 0, width, 1e4), flags, words).height() if words else 0.0
    )


def worded(role: str = "", *, selectable: bool = False) -> Label:
    """A label of as many lines as it needs."""
    label = Label()
    label.setWordWrap(True)
    if role:
        label.setProperty("role", role)
    flag = Qt.TextInteractionFlag
    label.setTextInteractionFlags(flag.TextSelectableByMouse if selectable else flag.NoTextInteraction)
    return label
