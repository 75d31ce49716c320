"""The rack: the lesson's clips, and where to drop more."""

from __future__ import annotations

import contextlib
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QThreadPool, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from kneel.book.finding import documents_by_clip, free_document
from kneel.book.swing_file import SUFFIX, load_swing
from kneel.desk.opening import clips_beside
from kneel.desk.session import Session
from kneel.desk.tasks import Task
from kneel.desk.theme import Look, font
from kneel.desk.words import VIEW_TITLES, tr
from kneel.footage import Clip, picture_of
from kneel.model import KneelError

WIDTH = 132
THUMB = (120, 68)


class Card(QWidget):
    """One clip: a thumbnail, what it is, and whether it is the open one."""

    wanted = pyqtSignal(object)

    def __init__(self, look: Look, clip: Path, document: Path) -> None:
        super().__init__()
        self._look, self.clip, self.document = look, clip, document
        self.image: QImage | None = None
        self.title, self.second = clip.stem, ""
        self.is_open = False
        self.setFixedSize(WIDTH, 112)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(tr("Clip %s") % clip.name)
        self.setToolTip(clip.name)

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
        return self.document if self.document.exists() else self.clip

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

    def __init__(self, session: Session, look: Look) -> None:
        super().__init__()
        self._session, self._look = session, look
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._finders = QThreadPool(self)
        self._finders.setMaxThreadCount(1)
        self._finding: Task | None = None
        self._cards: list[Card] = []
        self._tasks: list[Task] = []
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
        session.opened.connect(self.refresh)
        session.changed.connect(self._retitle)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH + 10, 400)

    def close_down(self) -> None:
        """Stop the thumbnails and wait for the one under way."""
        for task in self._tasks:
            task.stop()
        if self._finding is not None:
            self._finding.stop()
        for pool in (self._pool, self._finders):
            pool.clear()
            pool.waitForDone()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(12))
        painter.drawText(6, 13, tr("This lesson"))

    def refresh(self) -> None:
        """Show the clips of the lesson's folder."""
        store = self._session.store
        if store is None:
            return
        path = store.info.path
        if self._finding is not None:
            self._finding.stop()
        self._finding = Task(lambda _: _entries(path))
        self._finding.done.connect(self._show)
        self._finding.start(self._finders)

    def _show(self, entries: list[tuple[Path, Path]]) -> None:
        self._finding = None
        opened = self._session.document
        if opened is not None and self._session.store is not None:
            # The open swing may have no document yet: its place is known.
            clip = self._session.store.info.path
            entries = [(c, opened if c == clip and not d.exists() else d) for c, d in entries]
        if [(c.clip, c.document) for c in self._cards] != entries:
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

    def _replace(self, entries: list[tuple[Path, Path]]) -> None:
        for task in self._tasks:
            task.stop()
        self._tasks = []
        for card in self._cards:
            self._column.removeWidget(card)
            card.hide()
            card.deleteLater()
        self._cards = []
        for k, (clip, document) in enumerate(entries):
            card = Card(self._look, clip, document)
            card.wanted.connect(self.wanted)
            self._column.insertWidget(k, card)
            self._cards.append(card)
            task = Task(lambda _, c=clip, d=document: _card_facts(c, d))
            task.done.connect(card.fill)
            self._tasks.append(task)
            task.start(self._pool)

    def _retitle(self) -> None:
        """The open clip's card follows the document."""
        reading, swing, store = self._session.reading, self._session.swing, self._session.store
        for card in self._cards:
            card.is_open = store is not None and card.document == self._session.document
            if card.is_open and reading is not None:
                card.title = _title(swing.golfer, card.document)
                count = len([f for f in reading.findings if f.verdict.value == "fault"])
                view = tr(VIEW_TITLES[swing.view.value])
                card.second = f"{view}, {tr('%d to mend') % count}" if count else view
            card.update()


def _entries(path: Path) -> list[tuple[Path, Path]]:
    """Every clip of the folder with each of its documents, in a worker thread."""
    clips = clips_beside(path)
    documents = documents_by_clip(clips)
    return [(clip, document) for clip in clips for document in documents[clip] or [free_document(clip)]]


def _title(golfer: str, document: Path) -> str:
    stem = document.name.removesuffix(SUFFIX)
    return golfer or stem.replace("-", " ").replace("_", " ").replace(".", ", swing ")


def _card_facts(clip: Path, document: Path) -> tuple[np.ndarray, str, str]:
    """Thumbnail and titles of a swing, in a worker thread."""
    span = (0, 0)
    if document.exists():
        with contextlib.suppress(KneelError):
            span = load_swing(document).span or span
    with Clip(clip) as opened:
        middle = opened.frame(min(span[0] + 40, opened.info.frames - 1))
        pixels = picture_of(middle, opened.info.upright, size=(2 * THUMB[0], 2 * THUMB[1]), form="bgra")
    golfer, second = "", ""
    if document.exists():
        try:
            swing = load_swing(document)
        except KneelError:
            return pixels, _title("", document), tr("notes unreadable")
        golfer, second = swing.golfer, tr(VIEW_TITLES[swing.view.value])
    return pixels, _title(golfer, document), second
