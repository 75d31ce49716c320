"""The page as it will be printed, sheet under sheet."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.widgets.language import several
from kneel.desk.widgets.text import CENTRE
from kneel.desk.widgets.theme import Look, font

GAP, WIDEST = 14, 820
RATIO = 297 / 210


class Sheets(QWidget):
    """Pages of a PDF at the width there is, or a sentence why there is none."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._document: Any = None
        """A ``QPdfDocument``, loaded when first needed: its library takes address space by the gigabyte."""

        self._buffer: QBuffer | None = None
        self._words = ""
        self._made: dict[tuple[int, int], QImage] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        look.changed.connect(self.update)

    @property
    def count(self) -> int:
        """How many pages there are."""
        return self._document.pageCount() if self._document is not None and not self._words else 0

    @property
    def words(self) -> str:
        """Why there is no page; empty where there is one."""
        return self._words

    def show_pdf(self, raw: bytes) -> None:
        """Show pages."""
        self._words = ""
        self._made.clear()
        if self._document is None:
            from PyQt6.QtPdf import QPdfDocument

            self._document = QPdfDocument(self)
        self._document.close()
        self._buffer = QBuffer(self)
        self._buffer.setData(QByteArray(raw))
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._document.load(self._buffer)
        self.setAccessibleName(
            several(self.count, "The page as it will be printed", "The page as it will be printed, %d sheets")
        )
        self._fit()

    def say(self, words: str) -> None:
        """Say why there is no page, or that it is being made."""
        self._words = words
        self.setAccessibleName(words)
        self._fit()

    def _paper(self) -> QSize:
        width = min(self.width() - 2 * GAP, WIDEST)
        return QSize(max(width, 100), round(max(width, 100) * RATIO))

    def _fit(self) -> None:
        paper = self._paper()
        self.setMinimumHeight(120 if self._words else self.count * (paper.height() + GAP) + GAP)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self._words:
            painter.setFont(font(13))
            painter.setPen(self._look.colour("secondary"))
            box = QRectF(self.rect()).adjusted(40, 20, -40, -20)
            painter.drawText(box, int(CENTRE | Qt.TextFlag.TextWordWrap), self._words)
            return
        paper = self._paper()
        left = (self.width() - paper.width()) / 2
        for page in range(self.count):
            target = QRectF(left, GAP + page * (paper.height() + GAP), paper.width(), paper.height())
            if target.intersects(QRectF(event.rect())):
                painter.fillRect(target, Qt.GlobalColor.white)
                painter.drawImage(target, self._image(page, paper))

    def _image(self, page: int, paper: QSize) -> QImage:
        """A page rendered at the size it is shown, kept until that changes."""
        ratio = self.devicePixelRatioF()
        key = page, round(paper.width() * ratio)
        if key not in self._made:
            size = QSize(key[1], round(key[1] * RATIO))
            self._made[key] = self._document.render(page, size)
        return self._made[key]
