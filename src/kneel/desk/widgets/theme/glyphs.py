"""The signs of the desk: verdicts, lead and trail, pennants. Shape tells them apart, not colour alone."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from kneel.desk.widgets.theme import Look


def lozenge(centre: QPointF, size: float) -> QPolygonF:
    """A lozenge with half diagonals of ``size``."""
    x, y = centre.x(), centre.y()
    return QPolygonF([QPointF(x, y - size), QPointF(x + size, y), QPointF(x, y + size), QPointF(x - size, y)])


def draw_verdict(painter: QPainter, look: Look, verdict: str, centre: QPointF, size: float = 7.0) -> None:
    """Filled lozenge ``fault``, half-filled ``watch``, ring ``clear``, broken ring ``unknown``."""
    colour = look.colour(verdict)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(colour, 1.6)
    if verdict == "fault":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(lozenge(centre, size))
    elif verdict == "watch":
        painter.setPen(pen)
        painter.setBrush(look.colour("panel"))
        painter.drawPolygon(lozenge(centre, size))
        painter.setClipRect(QRectF(centre.x() - size, centre.y() - size, size, 2 * size))
        painter.setBrush(colour)
        painter.drawPolygon(lozenge(centre, size))
    else:
        if verdict == "unknown":
            pen.setDashPattern([1.6, 1.6])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, 0.72 * size, 0.72 * size)
    painter.restore()


def draw_joint(
    painter: QPainter,
    look: Look,
    side: str | None,
    centre: QPointF,
    *,
    size: float = 6.0,
    source: str = "followed",
) -> None:
    """A filled disc for the lead side, a hollow square for the trail side, a small ring for the rest.

    ``source`` is ``hand`` for one marked on this frame (a cross), ``followed``, or ``found`` by the program
    (a broken border, as for every guess).
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    dark = QColor(16, 21, 22)
    colour = look.colour(side) if side else QColor("#f3efe4")
    pen = QPen(colour, 2.0 if side == "trail" else 1.6)
    if source == "found":
        pen.setDashPattern([1.6, 1.1])
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if side == "lead":
        painter.setPen(QPen(dark, 1.6))
        painter.setBrush(colour)
        if source == "found":
            painter.setPen(QPen(dark, 3.2))
            painter.drawEllipse(centre, size, size)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, size, size)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawEllipse(centre, 0.55 * size, 0.55 * size)
        else:
            painter.drawEllipse(centre, size, size)
    elif side == "trail":
        box = QRectF(centre.x() - size + 1, centre.y() - size + 1, 2 * size - 2, 2 * size - 2)
        painter.setPen(QPen(dark, 4.0))
        painter.drawRect(box)
        painter.setPen(pen)
        painter.drawRect(box)
    else:
        painter.setPen(QPen(dark, 4.0))
        painter.drawEllipse(centre, 0.7 * size, 0.7 * size)
        painter.setPen(pen)
        painter.drawEllipse(centre, 0.7 * size, 0.7 * size)
    if source == "hand":
        _cross(painter, centre, size + 4.0, size - 2.5)
    painter.restore()


def _cross(painter: QPainter, centre: QPointF, outer: float, inner: float) -> None:
    """The four ticks of a mark set by hand."""
    for pen in (QPen(QColor(16, 21, 22), 3.2), QPen(QColor("#f3efe4"), 1.4)):
        painter.setPen(pen)
        for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            painter.drawLine(
                centre + QPointF(dx * inner, dy * inner), centre + QPointF(dx * outer, dy * outer)
            )


def pennant(foot: QPointF, *, size: float = 9.0) -> QPainterPath:
    """A small flag flying to the right from the top of its pole."""
    path = QPainterPath(foot)
    path.lineTo(foot.x() + size, foot.y() + size * 0.42)
    path.lineTo(foot.x(), foot.y() + size * 0.84)
    path.closeSubpath()
    return path


def hatch(look: Look) -> QBrush:
    """Slanted strokes in the colour of a fault."""
    return QBrush(look.colour("fault", 0.95), Qt.BrushStyle.BDiagPattern)
