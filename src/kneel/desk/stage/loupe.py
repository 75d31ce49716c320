"""What the stage shows beside the picture itself: the loupe of a drag, and the place to drop a clip."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from kneel.desk.stage.scene import HALO, INK
from kneel.desk.stage.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, write
from kneel.desk.widgets.theme import Look, font
from kneel.footage import Part, picture_of

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
    x, y = place
    half = LOUPE_PX / LOUPE_ZOOM / 2
    part = _round(x, y, store.info.width, store.info.height)
    pixels = picture_of(frame, store.info.upright, form="bgra", part=part)
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
    at = view.to_widget(x, y)
    left = at.x() + 40 if at.x() + 40 + LOUPE_PX < area.width() else at.x() - 40 - LOUPE_PX
    top = min(max(at.y() - LOUPE_PX / 2, 8.0), area.height() - LOUPE_PX - 8.0)
    box = QRectF(left, top, LOUPE_PX, LOUPE_PX)
    painter.fillRect(box, HALO)
    source = QRectF(x - part[0] + 0.5 - half, y - part[1] + 0.5 - half, 2 * half, 2 * half)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(box, image, source)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(INK, 1.4))
    painter.drawRoundedRect(box, 4, 4)
    centre = box.center()
    for pen in (QPen(HALO, 3), QPen(INK, 1.2)):
        painter.setPen(pen)
        for d in (QPointF(1, 0), QPointF(0, 1)):
            painter.drawLine(centre - d * 18, centre - d * 4)
            painter.drawLine(centre + d * 4, centre + d * 18)


def _round(x: float, y: float, width: int, height: int) -> Part:
    """The part of the picture round a place that the loupe looks at."""
    reach = int(LOUPE_PX / LOUPE_ZOOM) + 2
    left = min(max(int(x) - reach, 0), width - 4) // 2 * 2
    top = min(max(int(y) - reach, 0), height - 4) // 2 * 2
    return left, top, min(2 * reach, (width - left) // 2 * 2), min(2 * reach, (height - top) // 2 * 2)


def paint_empty(painter: QPainter, look: Look, area: QRect) -> None:
    """What to do while no clip is open."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(look.colour("edge"), 1.5, Qt.PenStyle.DashLine))
    painter.setBrush(look.colour("panel"))
    middle = QRectF(area)
    painter.drawRoundedRect(middle.adjusted(1, 1, -1, -1), 6, 6)
    lines = (
        (-44, "text", font(18, 600), tr("Drop swing clips here")),
        (
            -8,
            "secondary",
            font(13),
            tr("or press Ctrl+O. Kneel finds the golfer and reads the swing by itself."),
        ),
        (
            24,
            "secondary",
            font(12.5),
            tr("Face-on or down the line, the camera level with the belt and at rest,"),
        ),
        (44, "secondary", font(12.5), tr("the whole golfer in view: Help, “How to film a swing”.")),
    )
    wide = middle.adjusted(16, 0, -16, 0)
    for down, role, type_, words in lines:
        line = QRectF(wide.left(), middle.center().y() + down - 14, wide.width(), 28)
        write(painter, line, words, type_, look.colour(role), CENTRE)
