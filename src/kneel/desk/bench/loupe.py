"""What the stage shows beside the picture itself: the loupe of a drag, and the place to drop a clip."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from kneel.desk.bench.overlay import HALO, INK
from kneel.desk.bench.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import tr
from kneel.footage import picture_of

LOUPE_PX = 150
LOUPE_ZOOM = 5.0


def paint_loupe(
    painter: QPainter, view: Viewport, opened: OpenSwing, place: tuple[float, float], area: QRect
) -> None:
    """The neighbourhood of a place of the frame on show, px, enlarged, beside it."""
    store = opened.store
    frame = store.get(opened.first + opened.cursor.frame) if store else None
    if store is None or frame is None:
        return
    pixels = picture_of(frame, store.info.upright, form="bgra")
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
    x, y = place
    half = LOUPE_PX / LOUPE_ZOOM / 2
    at = view.to_widget(x, y)
    left = at.x() + 40 if at.x() + 40 + LOUPE_PX < area.width() else at.x() - 40 - LOUPE_PX
    top = min(max(at.y() - LOUPE_PX / 2, 8.0), area.height() - LOUPE_PX - 8.0)
    box = QRectF(left, top, LOUPE_PX, LOUPE_PX)
    painter.drawImage(box, image, QRectF(x + 0.5 - half, y + 0.5 - half, 2 * half, 2 * half))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(INK, 1.4))
    painter.drawRoundedRect(box, 4, 4)
    centre = box.center()
    for pen in (QPen(HALO, 3), QPen(INK, 1.2)):
        painter.setPen(pen)
        for d in (QPointF(1, 0), QPointF(0, 1)):
            painter.drawLine(centre - d * 18, centre - d * 4)
            painter.drawLine(centre + d * 4, centre + d * 18)


def paint_empty(painter: QPainter, look: Look, area: QRect) -> None:
    """What to do while no clip is open."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(look.colour("edge"), 1.5, Qt.PenStyle.DashLine))
    painter.setBrush(look.colour("panel"))
    middle = QRectF(area)
    painter.drawRoundedRect(middle.adjusted(1, 1, -1, -1), 6, 6)
    lines = (
        (-20, "text", font(16, 600), tr("Drop a swing clip here")),
        (
            24,
            "secondary",
            font(12.5),
            tr("or open one with Ctrl+O. Face-on, filmed level with the belt, the whole golfer in view."),
        ),
        (
            66,
            "secondary",
            font(12.5),
            tr("Lesson, “Open the demo lesson” shows a swing that is read already."),
        ),
    )
    for down, role, type_, words in lines:
        painter.setPen(look.colour(role))
        painter.setFont(type_)
        painter.drawText(middle.adjusted(0, down, 0, down), Qt.AlignmentFlag.AlignCenter, words)
