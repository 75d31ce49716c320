"""The rack: the lesson's clips, and where to drop more."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from kneel.book.finding import documents_by_clip, free_document
from kneel.book.swing_file import SUFFIX, load_swing
from kneel.desk.opening import clips_beside
from kneel.desk.swing import OpenSwing
from kneel.desk.tasks import Task, Workers
from kneel.desk.theme import Look, font
from kneel.desk.words import VIEW_TITLES, tr
from kneel.disk import shown
from kneel.footage import Clip, picture_of
from kneel.model import KneelError

WIDTH = 132
THUMB = (120, 68)


@dataclass(frozen=True)
class Entry:
    """A clip with one of its documents, or with the place where its first one will lie."""

    clip: Path
    document: Path
    marked: bool = False


class Card(QWidget):
    """One clip: a thumbnail, what it is, and whether it is the open one."""

    wanted = pyqtSignal(object)

    def __init__(self, look: Look, entry: Entry) -> None:
        super().__init__()
        clip = entry.clip
        self._look, self.entry, self.document = look, entry, entry.document
        self.image: QImage | None = None
        self.title, self.second = shown(clip.stem), ""
        self.is_open = False
        self.setFixedSize(WIDTH, 112)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(tr("Clip %s") % shown(clip.name))
        self.setToolTip(shown(clip.name))

    def fill(self, facts: tuple[np.ndarray, str, str]) -> None:
        """Show the thumbnail and titles found for it."""
        pixels, title, second = facts
        height, width = pixels.shape[:2]
        self.image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()
        if not self.is_open:
            self.title, self.second = title, second
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(6, 2, *THUMB)
        shape = QPainterPath()
        shape.addRoundedRect(box, 6, 6)
        painter.fillPath(shape, self._look.colour("raised"))
        if self.image is not None:
            painter.save()
            painter.setClipPath(shape)
            painter.drawImage(box, self.image)
            painter.restore()
        if self.is_open or self.hasFocus():
            painter.setPen(QPen(self._look.colour("chosen_edge"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 6, 6)
        metrics_font = font(12)
        painter.setFont(metrics_font)
        painter.setPen(self._look.colour("text"))
        title = painter.fontMetrics().elidedText(self.title, Qt.TextElideMode.ElideRight, WIDTH - 10)
        painter.drawText(6, 86, title)
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(6, 102, self.second)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.wanted.emit(self.target)

    @property
    def target(self) -> Path:
        """What to open: the document where there is one, else the clip."""
        return self.document if self.entry.marked else self.entry.clip

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.wanted.emit(self.target)
        else:
            super().keyPressEvent(event)


class DropHere(QWidget):
    """The empty place that says what to do."""

    clicked = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setFixedSize(WIDTH, 62)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(tr("Open or drop clips"))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self._look.colour("faint"), 1.1, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(QRectF(6, 1, THUMB[0], 58), 6, 6)
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(11.5))
        painter.drawText(QRectF(6, 1, THUMB[0], 58), Qt.AlignmentFlag.AlignCenter, tr("Drop clips\nhere"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()


class Rack(QWidget):
    """The clips that lie in the folder of the open one. ``wanted`` asks for one to be opened."""

    wanted = pyqtSignal(object)
    browse = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._painters, self._finders = Workers(self), Workers(self)
        self._finding: Task | None = None
        self._cards: list[Card] = []
        self.setFixedWidth(WIDTH + 10)
        inner = QWidget()
        inner.setObjectName("cards")
        inner.setStyleSheet("#cards { background: transparent; }")
        area = self._area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inner)
        viewport = area.viewport()
        if viewport is not None:
            viewport.setStyleSheet("background: transparent;")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 22, 0, 0)
        outer.addWidget(area)
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(8)
        self._drop = DropHere(look)
        self._drop.clicked.connect(self.browse)
        self._column.addWidget(self._drop)
        self._column.addStretch(1)
        opened.opened.connect(self.refresh)
        opened.numbers.renewed.connect(self._retitle)
        opened.document.changed.connect(self._retitle)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH + 10, 400)

    def close_down(self) -> None:
        """Give up the thumbnails under way."""
        for workers in (self._painters, self._finders):
            workers.give_up()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(12))
        painter.drawText(6, 13, tr("This lesson"))

    def refresh(self) -> None:
        """Show the clips of the lesson's folder."""
        store = self._open.store
        if store is None:
            return
        path = store.info.path
        if self._finding is not None:
            self._finding.stop()
        self._finding = self._finders.start(Task(lambda _: _entries(path), done=self._show))

    def _show(self, entries: list[Entry]) -> None:
        self._finding = None
        opened = self._open.path
        if opened is not None and self._open.store is not None:
            # The open swing may have no document yet: its place is known.
            clip = self._open.store.info.path
            entries = [Entry(e.clip, opened) if e.clip == clip and not e.marked else e for e in entries]
        if [c.entry for c in self._cards] != entries:
            self._replace(entries)
        self._retitle()
        # Once the cards are laid out.
        QTimer.singleShot(0, self._reveal)

    def _reveal(self) -> None:
        """Scroll to the open swing."""
        self._column.activate()
        inner = self._area.widget()
        if inner is not None:
            inner.resize(inner.width(), inner.sizeHint().height())
        for card in self._cards:
            if card.is_open:
                self._area.ensureWidgetVisible(card)

    def _replace(self, entries: list[Entry]) -> None:
        self._painters.give_up()
        for card in self._cards:
            self._column.removeWidget(card)
            card.hide()
            card.deleteLater()
        self._cards = []
        for k, entry in enumerate(entries):
            card = Card(self._look, entry)
            card.wanted.connect(self.wanted)
            self._column.insertWidget(k, card)
            self._cards.append(card)
            # One asked for a card that is gone is stopped, and answers no more.
            self._painters.start(Task(lambda _, e=entry: _card_facts(e), done=card.fill))

    def _retitle(self) -> None:
        """The open clip's card follows the document."""
        reading, swing, store = self._open.numbers.reading, self._open.swing, self._open.store
        for card in self._cards:
            card.is_open = store is not None and card.document == self._open.path
            if card.is_open and reading is not None:
                card.title = _title(swing.golfer, card.document)
                count = len([f for f in reading.findings if f.verdict.value == "fault"])
                view = tr(VIEW_TITLES[swing.view.value])
                card.second = f"{view}, {tr('%d to mend') % count}" if count else view
            card.update()


def _entries(path: Path) -> list[Entry]:
    """Every clip of the folder with each of its documents, in a worker thread."""
    clips = clips_beside(path)
    documents = documents_by_clip(clips)
    found = []
    for clip in clips:
        found += [Entry(clip, document, marked=True) for document in documents[clip]]
        if not documents[clip]:
            with contextlib.suppress(KneelError, OSError):
                found.append(Entry(clip, free_document(clip)))
    return found


def _title(golfer: str, document: Path) -> str:
    stem = document.name.removesuffix(SUFFIX)
    return (
        shown(golfer) if golfer else shown(stem.replace("-", " ").replace("_", " ").replace(".", ", swing "))
    )


def _card_facts(entry: Entry) -> tuple[np.ndarray, str, str]:
    """Thumbnail and titles of a swing, in a worker thread."""
    clip, document = entry.clip, entry.document
    span = (0, 0)
    if entry.marked:
        with contextlib.suppress(KneelError):
            span = load_swing(document).span or span
    with Clip(clip) as opened:
        middle = opened.frame(min(span[0] + 40, opened.info.frames - 1))
        pixels = picture_of(middle, opened.info.upright, size=(2 * THUMB[0], 2 * THUMB[1]), form="bgra")
    golfer, second = "", ""
    if entry.marked:
        try:
            swing = load_swing(document)
        except KneelError:
            return pixels, _title("", document), tr("notes unreadable")
        golfer, second = swing.golfer, tr(VIEW_TITLES[swing.view.value])
    return pixels, _title(golfer, document), second
