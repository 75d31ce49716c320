"""A review over its time: the voice, the chapters, what is chosen, and where it is."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.places.review.bar import clock_words
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.review.sound import loudness

HEAD, FOOT, SIDE = 26, 20, 14
LEAST_PX = 4.0
STEP_S = 0.5


class Wave(QWidget):
    """Drag to choose a stretch, click to go there. ``sought`` tells of a time, ``chose`` that another stretch
    is chosen.
    """

    sought = pyqtSignal(float)
    chose = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._samples = np.zeros(0, np.float32)
        self._loud: np.ndarray | None = None
        self.seconds, self.at = 0.0, 0.0
        self.chapters: list[tuple[float, str]] = []
        self.joins: list[float] = []
        self.chosen: tuple[float, float] | None = None
        self._from: float | None = None
        self.setMinimumHeight(128)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("The review over its time: voice and chapters"))
        look.changed.connect(self.update)

    def show_review(
        self, seconds: float, samples: np.ndarray, chapters: list[tuple[float, str]], joins: list[float]
    ) -> None:
        """Show another review, or the same one otherwise."""
        self.seconds, self._samples, self._loud = seconds, samples, None
        self.chapters, self.joins = chapters, joins
        self.at = min(self.at, seconds)
        if self.chosen is not None and self.chosen[1] > seconds + 1e-6:
            self.chosen = None
        self.update()

    def go(self, t: float) -> None:
        """Show another time as the one it is at."""
        self.at = t
        self.update()

    @property
    def _box(self) -> QRectF:
        return QRectF(SIDE, HEAD, max(self.width() - 2 * SIDE, 1), max(self.height() - HEAD - FOOT, 1))

    def x_of(self, t: float) -> float:
        """Where a time lies."""
        box = self._box
        return box.left() + box.width() * t / max(self.seconds, 1e-9)

    def time_at(self, x: float) -> float:
        """The time at a place."""
        box = self._box
        return min(max((x - box.left()) / box.width(), 0.0), 1.0) * self.seconds

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, box, look = QPainter(self), self._box, self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawRect(box)
        if self.seconds <= 0:
            return
        if self.chosen is not None:
            painter.setBrush(look.colour("chosen"))
            left, right = (self.x_of(t) for t in self.chosen)
            painter.drawRect(QRectF(left, box.top(), right - left, box.height()))
        self._paint_voice(painter, box)
        painter.setPen(QPen(look.colour("faint"), 1, Qt.PenStyle.DashLine))
        for t in self.joins:
            painter.drawLine(QPointF(self.x_of(t), box.top()), QPointF(self.x_of(t), box.bottom()))
        self._paint_chapters(painter, box)
        type_ = font(11.5)
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            place = QRectF(box.left() + share * box.width() - 24, box.bottom() + 2, 48, 16)
            write(painter, place, clock_words(share * self.seconds), type_, look.colour("secondary"), CENTRE)
        x = self.x_of(self.at)
        painter.setPen(QPen(look.colour("ink"), 2))
        painter.drawLine(QPointF(x, box.top() - 4), QPointF(x, box.bottom() + 2))
        if self.hasFocus():
            painter.setPen(QPen(look.colour("chosen_edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _paint_voice(self, painter: QPainter, box: QRectF) -> None:
        count = int(box.width() // 2)
        if self._loud is None or len(self._loud) != count:
            self._loud = loudness(self._samples, count)
        middle, high = box.center().y(), box.height() / 2 - 3
        painter.setPen(QPen(self._look.colour("secondary"), 1.2))
        if not self._loud.any():
            words = tr("no voice: lay a sound file under it")
            write(painter, box, words, font(12), self._look.colour("secondary"), CENTRE)
            return
        for k, loud in enumerate(self._loud.tolist()):
            x = box.left() + 2 * k + 1
            painter.drawLine(QPointF(x, middle - high * loud), QPointF(x, middle + high * loud))

    def _paint_chapters(self, painter: QPainter, box: QRectF) -> None:
        type_, free = font(11.5), -1e9
        for t, words in self.chapters:
            x = self.x_of(t)
            painter.setPen(QPen(self._look.colour("ink"), 1))
            painter.drawLine(QPointF(x, box.top() - 6), QPointF(x, box.bottom()))
            if x > free:
                place = QRectF(x + 4, 2, wide(words, type_) + 4, HEAD - 6)
                write(painter, place, words, type_, self._look.colour("text"))
                free = place.right() + 8

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._from = event.position().x()
            self.sought.emit(self.time_at(self._from))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is None:
            return
        x = event.position().x()
        if abs(x - self._from) >= LEAST_PX:
            a, b = sorted((self.time_at(self._from), self.time_at(x)))
            self.chosen = (a, b)
            self.chose.emit()
        self.sought.emit(self.time_at(x))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and abs(event.position().x() - self._from) < LEAST_PX:
            self.chosen = None
            self.chose.emit()
        self._from = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: -STEP_S, Qt.Key.Key_Right: STEP_S}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        before, after = self.at, min(max(self.at + way, 0.0), self.seconds)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            a, b = self.chosen or (before, before)
            a, b = (after, b) if abs(before - a) < abs(before - b) or (a == b and way < 0) else (a, after)
            self.chosen = (min(a, b), max(a, b)) if a != b else None
            self.chose.emit()
        self.sought.emit(after)
