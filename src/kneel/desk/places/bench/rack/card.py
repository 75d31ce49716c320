"""Painting the rows of the rack: students, sets, swings with their thumbnails."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from kneel.desk.places.bench.rack.entries import RackEntry
from kneel.desk.places.bench.rack.rows import Card, Heading, Others, Row, SetRow, TakenOff
from kneel.desk.places.bench.rack.thumbs import Thumbs, fitted
from kneel.desk.swing.titles import VIEW_TITLES
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import LEFT, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.disk import shown
from kneel.model import View

ROW = Qt.ItemDataRole.UserRole + 1
OPEN = Qt.ItemDataRole.UserRole + 2
"""The document that is on the desk."""

STATE = Qt.ItemDataRole.UserRole + 3
"""What is being done with it, in words."""

SHORT_VIEWS = {View.FACE_ON: "Face-on", View.DOWN_THE_LINE: "Line", View.REAR: "Rear"}


def card_words(entry: RackEntry, state: str) -> tuple[str, str]:
    """Two short lines of a swing: from where, and how it stands."""
    first = tr(VIEW_TITLES[entry.view.value]) if entry.marked else entry.stem
    if entry.number:
        first = tr("%s, swing %d") % (first, entry.number)
    if entry.part_of is not None:
        return first, tr("the other camera")
    if state:
        return first, state
    glance, rate = entry.glance, f"{entry.rate:.3g} /s · " if entry.rate else ""
    if glance is None:
        return first, rate + (tr("not read yet") if not entry.marked else tr("to be read"))
    if glance.faults:
        return first, rate + tr("%d to mend") % glance.faults
    if glance.watches:
        return first, rate + tr("%d to watch") % glance.watches
    return first, rate + (tr("cannot be told") if glance.unsure else tr("nothing to mend"))


class CardPainter(QStyledItemDelegate):
    """Paints rows narrow (thumbnail above words) or upright (words beside a high thumbnail)."""

    def __init__(self, look: Look, thumbs: Thumbs) -> None:
        super().__init__()
        self._look, self._thumbs = look, thumbs
        self.upright = False
        self.width = 142

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        row: Row = index.data(ROW)
        if isinstance(row, Heading):
            return QSize(self.width, 28)
        if isinstance(row, SetRow):
            return QSize(self.width, 58 if row.second else 42)
        if isinstance(row, TakenOff | Others):
            return QSize(self.width, 34)
        if self.upright and len(row.entries) == 1:
            return QSize(self.width, 118)
        return QSize(self.width, 112 if len(row.entries) == 1 else 104)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        row: Row = index.data(ROW)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_HasFocus)
        if isinstance(row, Heading):
            self._heading(painter, box, row)
        elif isinstance(row, SetRow):
            self._set(painter, box, row)
        elif isinstance(row, TakenOff | Others):
            words = tr("%d taken off · put back") % row.count
            if isinstance(row, Others):
                words = tr("%d of others %s") % (row.count, "▾" if row.open else "▸")
            write(painter, box.adjusted(6, 0, -4, 0), words, font(11.5), self._look.colour("secondary"))
        else:
            self._card(painter, box, row, index)
        if chosen:
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)
        painter.restore()

    def _heading(self, painter: QPainter, box: QRectF, row: Heading) -> None:
        look = self._look
        name = shown(row.golfer) or tr("No name yet")
        count = str(row.count)
        type_ = font(12.5, 600 if row.open else 400)
        room = box.adjusted(6, 4, -10 - wide(count, font(11.5)), 0)
        write(painter, room, name, type_, look.colour("text" if row.open else "secondary"))
        right = QRectF(box.right() - 8 - wide(count, font(11.5)), box.top() + 4, 30, box.height() - 4)
        write(painter, right, count, font(11.5), look.colour("secondary"), LEFT)

    def _set(self, painter: QPainter, box: QRectF, row: SetRow) -> None:
        look = self._look
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("raised"))
        painter.drawRoundedRect(box.adjusted(4, 2, -4, -2), 6, 6)
        inner = box.adjusted(10, 4, -8, -4)
        line = QRectF(inner.left(), inner.top(), inner.width(), 16)
        write(painter, line, row.title, font(11), look.colour("secondary"))
        write(painter, line.translated(0, 16), row.first, font(12, 600), look.colour("text"))
        if row.second:
            short = row.second.partition(",")[0]
            write(
                painter, line.translated(0, 32), short, font(11), look.colour("secondary"), whole=row.second
            )

    def _card(self, painter: QPainter, box: QRectF, row: Card, index: QModelIndex) -> None:
        opened, states = index.data(OPEN), index.data(STATE)
        for entry, place in zip(row.entries, self.places(row, box.toRect()), strict=True):
            is_open = opened is not None and opened in (entry.document, entry.part_of)
            self._thumb(painter, QRectF(place), entry, is_open=is_open)
            state = states if is_open else ""
            first, second = card_words(entry, state)
            if len(row.entries) == 2:
                line = QRectF(place.left(), place.bottom() + 3, place.width() + 2, 16)
                write(painter, line, tr(SHORT_VIEWS[entry.view]), font(11.5), self._look.colour("text"))
                brief = second.rsplit(" · ", 1)[-1]
                short = str(entry.glance.faults) if entry.glance and entry.glance.faults and not state else ""
                words = brief if wide(brief, font(11)) <= line.width() else short
                write(painter, line.translated(0, 15), words, font(11), self._look.colour("secondary"))
            elif self.upright:
                left = place.right() + 8
                room = QRectF(left, place.top(), box.right() - left - 2, 16)
                self._beside(painter, room, first, second, bold=is_open)
            else:
                line = QRectF(place.left(), place.bottom() + 4, place.width(), 17)
                write(painter, line, first, font(12, 600 if is_open else 400), self._look.colour("text"))
                short = second.rsplit(" · ", 1)[-1]
                under = line.translated(0, 16)
                write(painter, under, short, font(11.5), self._look.colour("secondary"), whole=second)

    def _beside(self, painter: QPainter, room: QRectF, first: str, second: str, *, bold: bool) -> None:
        """Words beside a high thumbnail, a word or two on each line."""
        y = 0.0
        rows = [(first, font(12, 600 if bold else 500), "text")]
        rows += [(part, font(11.5), "secondary") for part in second.split(" · ")]
        for words, type_, role in rows:
            for line in broken(words, type_, room.width()):
                write(painter, room.translated(0, y), line, type_, self._look.colour(role))
                y += 16
            y += 3

    def _thumb(self, painter: QPainter, box: QRectF, entry: RackEntry, *, is_open: bool) -> None:
        shape = QPainterPath()
        shape.addRoundedRect(box, 6, 6)
        painter.fillPath(shape, self._look.colour("raised"))
        image = self._thumbs.of(entry)
        if image is not None:
            painter.save()
            painter.setClipPath(shape)
            ratio = painter.device().devicePixelRatioF() if painter.device() is not None else 1.0
            part = fitted(image, round(box.width() * ratio), round(box.height() * ratio))
            painter.drawImage(box, part)
            painter.restore()
        if is_open:
            painter.setPen(QPen(self._look.colour("chosen_edge"), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 6, 6)

    def places(self, row: Card, box: QRect) -> list[QRect]:
        """Where the thumbnails of a row lie."""
        if len(row.entries) == 2:
            width = (box.width() - 18) // 2
            return [QRect(box.left() + 6 + k * (width + 6), box.top() + 4, width, 64) for k in (0, 1)]
        if self.upright:
            return [QRect(box.left() + 6, box.top() + 4, 62, 110)]
        return [QRect(box.left() + 6, box.top() + 4, box.width() - 12, 68)]


def broken(words: str, type_: object, width: float) -> list[str]:
    """Words on lines of some width."""
    lines: list[str] = []
    for word in words.split():
        if lines and wide(f"{lines[-1]} {word}", type_) <= width:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


def dropped(painter: QPainter, look: Look, box: QRectF, words: str) -> None:
    """The empty place that says what to do."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(look.colour("faint"), 1.1, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 6, 6)
    for k, line in enumerate(broken(words, font(11.5), box.width() - 16)):
        at = QPointF(box.left() + 10, box.top() + 10 + 16 * k)
        room = QRectF(at.x(), at.y(), box.width() - 16, 16)
        write(painter, room, line, font(11.5), look.colour("secondary"))
