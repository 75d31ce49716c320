"""Painting what the picture argues: limbs, points with their doubt, plumbs and the distance crossed."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from kneel.desk.bench.facts import (
    Crossing,
    address_frame,
    crossings_at,
    frame_words,
    lines_at,
    points_at,
)
from kneel.desk.bench.viewport import Viewport
from kneel.desk.glyphs import draw_joint, hatch
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import checkpoint_title, tr

HALO = QColor(16, 21, 22, 190)
INK = QColor("#f3efe4")
PLATE = QColor(16, 23, 25, 215)
PLATE_TEXT = QColor("#e9eeea")
PLATE_SECOND = QColor("#a9b8b8")


Held = tuple[str, tuple[float, float]] | None
"""The point in the hand and where it is, px."""


class Overlay:
    """Paints over the picture, in colours of its own whatever the desk wears."""

    def __init__(self) -> None:
        # What lies on a picture has to stand against grass and sky, not against the desk.
        self._look = Look(dark=True)

    def paint(
        self,
        painter: QPainter,
        view: Viewport,
        opened: OpenSwing,
        *,
        chosen: str | None,
        held: Held,
        plain: bool,
    ) -> None:
        """Paint everything at the cursor; ``plain`` leaves the lines off, for a bare look."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(view.shown)
        if not plain:
            self._ghost(painter, view, opened)
            self._limbs(painter, view, opened, opened.cursor.frame, dashed=False)
            crossings = crossings_at(opened)
            for crossing in crossings:
                self._plumb(painter, view, opened, crossing)
            self._points(painter, view, opened, chosen, held)
            self._crossing_plates(painter, view, opened, crossings)
        painter.setClipping(False)
        self._frame_plate(painter, view, opened)

    def _ghost(self, painter: QPainter, view: Viewport, opened: OpenSwing) -> None:
        address = address_frame(opened)
        if address is not None and address != opened.cursor.frame:
            self._limbs(painter, view, opened, address, dashed=True)

    def _limbs(
        self, painter: QPainter, view: Viewport, opened: OpenSwing, frame: int, *, dashed: bool
    ) -> None:
        for side, run in lines_at(opened, frame):
            line = QPolygonF([view.to_widget(x, y) for x, y in run])
            colour = self._look.colour(side) if side else INK
            if dashed:
                colour = QColor(INK)
                colour.setAlphaF(0.6)
                pen = QPen(colour, 1.2, Qt.PenStyle.CustomDashLine)
                pen.setDashPattern([3, 3])
                painter.setPen(pen)
                painter.drawPolyline(line)
                continue
            for pen in (QPen(HALO, 4.4), QPen(colour, 2.0)):
                pen.setCapStyle(Qt.PenCapStyle.RoundCap)
                painter.setPen(pen)
                painter.drawPolyline(line)

    def _points(
        self, painter: QPainter, view: Viewport, opened: OpenSwing, chosen: str | None, held: Held
    ) -> None:
        for point in points_at(opened):
            place = held[1] if held and held[0] == point.name else (point.x, point.y)
            at = view.to_widget(*place)
            doubt = 2.0 * point.sigma * view.scale
            if doubt > 7:
                pen = QPen(INK, 1.0, Qt.PenStyle.CustomDashLine)
                pen.setDashPattern([2, 3])
                painter.setPen(pen)
                glow = self._look.colour(point.side) if point.side else QColor(INK)
                glow.setAlphaF(0.13)
                painter.setBrush(glow)
                painter.drawEllipse(at, doubt, doubt)
            if point.name == chosen:
                painter.setPen(QPen(INK, 1.4))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(at, 13, 13)
            draw_joint(painter, self._look, point.side, at, by_hand=point.by_hand)

    def _plumb(self, painter: QPainter, view: Viewport, opened: OpenSwing, crossing: Crossing) -> None:
        main = crossing.words.startswith(tr("trail hip"))
        foot = self._ground(view, opened)
        top = view.to_widget(crossing.plumb_x, crossing.y).y() - (60 if main else 30)
        x = view.to_widget(crossing.plumb_x, 0).x()
        start, end = QPointF(x, top), QPointF(x, foot)
        for pen in (QPen(HALO, 4.0 if main else 3.0), QPen(INK, 1.6 if main else 1.1)):
            if not main:
                pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawLine(start, end)
        painter.setPen(QPen(HALO, 1.0))
        painter.setBrush(INK)
        size = 5.5 if main else 4.0
        painter.drawPolygon(
            QPolygonF([QPointF(x - size, foot), QPointF(x + size, foot), QPointF(x, foot + 1.8 * size)])
        )
        self._gap(painter, view, crossing, half=13.0 if main else 7.0)

    def _gap(self, painter: QPainter, view: Viewport, crossing: Crossing, *, half: float) -> None:
        """The distance itself, from plumb to body."""
        start = view.to_widget(crossing.plumb_x, crossing.y)
        end = view.to_widget(crossing.x, crossing.y)
        if abs(end.x() - start.x()) < 1.5:
            return
        colour = self._look.colour("fault") if crossing.past else QColor(INK)
        box = QRectF(start.x(), start.y() - half, end.x() - start.x(), 2 * half).normalized()
        painter.setPen(Qt.PenStyle.NoPen)
        soft = QColor(colour)
        soft.setAlphaF(0.30)
        painter.setBrush(soft)
        painter.drawRect(box)
        if crossing.past:
            painter.setBrush(hatch(self._look))
            painter.drawRect(box)
        for pen in (QPen(HALO, 4.0), QPen(colour, 2.2)):
            painter.setPen(pen)
            painter.drawLine(start, end)

    def _crossing_plates(
        self, painter: QPainter, view: Viewport, opened: OpenSwing, crossings: list[Crossing]
    ) -> None:
        """The distances in words, beside the body on its trail side."""
        if not crossings or opened.analysis is None:
            return
        at = [view.to_widget(p.x, p.y) for p in points_at(opened) if not p.name.startswith("club")]
        away = -opened.analysis.direction
        # Where no point is sure enough to be drawn, the body is where it is measured.
        at = at or [view.to_widget(c.x, c.y) for c in crossings]
        edge = min(p.x() for p in at) if away < 0 else max(p.x() for p in at)
        edge += away * 26
        y = min(view.to_widget(c.x, c.y).y() for c in crossings) - 20
        for crossing in crossings:
            box = self._plate(painter, view, crossing, QPointF(edge, y), away)
            target = view.to_widget(crossing.x, crossing.y)
            near = QPointF(box.right() if away < 0 else box.left(), box.center().y())
            for pen in (QPen(HALO, 2.6), QPen(PLATE_SECOND, 1.0)):
                painter.setPen(pen)
                painter.drawLine(near, QPointF(target.x() + away * 12, target.y()))
            y = box.bottom() + 8

    def _plate(
        self, painter: QPainter, view: Viewport, crossing: Crossing, corner: QPointF, away: int
    ) -> QRectF:
        big, small = font(15, 600), font(11.5)
        painter.setFont(big)
        value_width = painter.fontMetrics().horizontalAdvance(crossing.value)
        painter.setFont(font(13))
        error_width = painter.fontMetrics().horizontalAdvance(crossing.error)
        painter.setFont(small)
        words_width = painter.fontMetrics().horizontalAdvance(crossing.words)
        width = max(value_width + 8 + error_width, words_width) + 24
        left = corner.x() - width if away < 0 else corner.x()
        shown = view.shown
        left = min(max(left, shown.left() + 8), shown.right() - width - 8)
        top = min(max(corner.y(), shown.top() + 44), shown.bottom() - 52)
        box = QRectF(left, top, width, 44)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(PLATE)
        painter.drawRoundedRect(box, 6, 6)
        painter.setFont(big)
        painter.setPen(PLATE_TEXT)
        painter.drawText(QPointF(left + 12, top + 19), crossing.value)
        painter.setFont(font(13))
        painter.setPen(PLATE_SECOND)
        painter.drawText(QPointF(left + 20 + value_width, top + 19), crossing.error)
        painter.setFont(small)
        painter.setPen(QColor("#f08a57") if crossing.past else PLATE_SECOND)
        painter.drawText(QPointF(left + 12, top + 36), crossing.words)
        return box

    def _ground(self, view: Viewport, opened: OpenSwing) -> float:
        feet = [p.y for p in points_at(opened) if p.name.endswith(("ankle", "toe", "heel"))]
        if feet:
            return view.to_widget(0, max(feet)).y() + 14
        return view.shown.bottom() - 24

    def _frame_plate(self, painter: QPainter, view: Viewport, opened: OpenSwing) -> None:
        name = opened.checkpoint
        title = f"{tr(checkpoint_title(name))} · " if name else ""
        painter.setFont(font(12.5, 600))
        bold = painter.fontMetrics().horizontalAdvance(title)
        words = frame_words(opened)
        painter.setFont(font(12.5))
        width = bold + painter.fontMetrics().horizontalAdvance(words) + 20
        box = QRectF(view.shown.left() + 10, view.shown.top() + 8, width, 26)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(PLATE)
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(PLATE_TEXT)
        painter.setFont(font(12.5, 600))
        painter.drawText(QPointF(box.left() + 10, box.top() + 17.5), title)
        painter.setFont(font(12.5))
        painter.drawText(QPointF(box.left() + 10 + bold, box.top() + 17.5), words)

    def paint_legend(self, painter: QPainter, view: Viewport) -> None:
        """What the signs on the picture mean."""
        painter.setFont(font(11.5))
        metrics = painter.fontMetrics()
        items = ((tr("lead"), "lead"), (tr("trail"), "trail"), (tr("set by hand"), "hand"))
        items += ((tr("doubt, 2 σ"), "doubt"), (tr("address"), "ghost"))
        widths = [metrics.horizontalAdvance(words) + 32 for words, _ in items]
        box = QRectF(view.shown.right() - sum(widths) - 18, view.shown.bottom() - 34, sum(widths) + 8, 26)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(PLATE)
        painter.drawRoundedRect(box, 6, 6)
        x = box.left() + 16
        for (words, kind), width in zip(items, widths, strict=True):
            self._legend_sign(painter, kind, QPointF(x, box.center().y()))
            painter.setPen(PLATE_TEXT)
            painter.setFont(font(11.5))
            painter.drawText(QPointF(x + 11, box.center().y() + 4), words)
            x += width

    def _legend_sign(self, painter: QPainter, kind: str, at: QPointF) -> None:
        if kind in ("lead", "trail"):
            draw_joint(painter, self._look, kind, at, size=4.5)
        elif kind == "hand":
            painter.setPen(QPen(INK, 1.4))
            painter.drawLine(at - QPointF(5, 0), at + QPointF(5, 0))
            painter.drawLine(at - QPointF(0, 5), at + QPointF(0, 5))
        else:
            pen = QPen(INK, 1.2, Qt.PenStyle.CustomDashLine)
            pen.setDashPattern([2, 2])
            painter.setPen(pen)
            painter.setBrush(QBrush(Qt.BrushStyle.NoBrush))
            if kind == "doubt":
                painter.drawEllipse(at, 5, 5)
            else:
                painter.drawLine(at - QPointF(6, 0), at + QPointF(6, 0))
