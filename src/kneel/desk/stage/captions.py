"""What stands on the stage in words: which frame it is, what the signs mean, what a click will do."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QPen

from kneel.desk.stage.facts import PointSource, address_frame, frame_words
from kneel.desk.stage.scene import DOUBT_PX, INK, PLATE, PLATE_TEXT, Scene, paint_plate
from kneel.desk.swing.aim import Aimed
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, wide, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import draw_joint
from kneel.motion.ghost import Ghost

HIGH, ROW = 26.0, 19.0


def paint_frame_caption(painter: QPainter, scene: Scene) -> None:
    """Checkpoint, number and time of the frame, in the corner."""
    name = scene.opened.checkpoint
    title = f"{tr(checkpoint_title(name))} · " if name else ""
    words = frame_words(scene.opened)
    bold, plain = font(12.5, 600), font(12.5)
    first = wide(title, bold)
    if first + wide(words, plain) + 40 > scene.area.width():
        # On a small picture its number is enough.
        words = words.partition(" · ")[0]
    corner = scene.area.topLeft() + QPointF(10, 8)
    box = QRectF(corner, QSizeF(first + wide(words, plain) + 20, HIGH))
    paint_plate(painter, box)
    inner = box.adjusted(10, 0, -10, 0)
    write(painter, inner, title, bold, PLATE_TEXT)
    write(painter, inner.adjusted(first, 0, 0, 0), words, plain, PLATE_TEXT)
    scene.room.take(box)


def paint_note(painter: QPainter, scene: Scene, words: str) -> None:
    """A few words in the other corner."""
    type_ = font(11.5)
    box = QRectF(0, scene.area.top() + 8, wide(words, type_) + 20, HIGH)
    box.moveRight(scene.area.right() - 10)
    paint_plate(painter, box)
    write(painter, box.adjusted(10, 0, -10, 0), words, type_, PLATE_TEXT)


def legend_items(scene: Scene) -> list[tuple[str, str]]:
    """The signs that are on the picture now, and what they mean."""
    points = scene.points
    items = []
    for side in ("lead", "trail"):
        if any(p.side == side for p in points):
            items.append((tr(side), side))
    if any(p.source is PointSource.HAND for p in points):
        items.append((tr("set by hand"), "hand"))
    if any(p.source is PointSource.FOUND and p.name in scene.told for p in points):
        items.append((tr("found"), "found"))
    scale = scene.view.scale
    if any(2 * p.sigma * scale > DOUBT_PX and (p.name in scene.told or p.by_hand) for p in points):
        items.append((tr("likely area"), "doubt"))
    aim = scene.opened.aim
    if isinstance(aim.ghost, Ghost):
        items.append((tr("aim"), "aim"))
    elif aim.shown is Aimed.FIGURE:
        items.append((tr("reference figure"), "figure"))
    elif address_frame(scene.opened) not in (None, scene.opened.cursor.frame) and points:
        items.append((tr("address"), "ghost"))
    return items


def paint_legend(painter: QPainter, scene: Scene) -> None:
    """What the signs mean, in a line or a column, where neither body nor number stands; else left out."""
    items = legend_items(scene)
    if not items:
        return
    type_ = font(11.5)
    widths = [wide(words, type_) + 32 for words, _ in items]
    line, column = QSizeF(sum(widths) + 8, HIGH), QSizeF(max(widths) + 8, ROW * len(items) + HIGH - ROW)
    shown = scene.area
    for size in (line, column):
        corner = QPointF(shown.right() - size.width() / 2 - 10, shown.bottom() - size.height() / 2 - 8)
        box = scene.room.place_free(size, corner, 1, scene.places.get("legend"))
        if box is not None:
            break
    else:
        return
    scene.places["legend"] = box.topLeft()
    paint_plate(painter, box)
    at = box.topLeft() + QPointF(16, HIGH / 2)
    for (words, kind), width in zip(items, widths, strict=True):
        _sign(painter, scene.look, kind, at)
        write(painter, QRectF(at.x() + 11, at.y() - HIGH / 2, width - 20, HIGH), words, type_, PLATE_TEXT)
        at += QPointF(width, 0) if size is line else QPointF(0, ROW)


def _sign(painter: QPainter, look: Look, kind: str, at: QPointF) -> None:
    if kind in ("lead", "trail"):
        draw_joint(painter, look, kind, at, size=4.5)
        return
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if kind == "hand":
        painter.setPen(QPen(INK, 1.4))
        painter.drawLine(at - QPointF(5, 0), at + QPointF(5, 0))
        painter.drawLine(at - QPointF(0, 5), at + QPointF(0, 5))
        return
    if kind == "found":
        draw_joint(painter, look, "trail", at, size=4.5, source="found")
        return
    firm = kind in ("aim", "figure")
    pen = QPen(look.colour("clear") if kind == "aim" else INK, 1.6 if firm else 1.2)
    if not firm:
        pen.setDashPattern([2, 2])
    painter.setPen(pen)
    if kind == "doubt":
        painter.drawEllipse(at, 5, 5)
    else:
        painter.drawLine(at - QPointF(6, 0), at + QPointF(6, 0))


def paint_hint(painter: QPainter, scene: Scene, words: str, look: Look) -> None:
    """What a click will do now, under the upper edge."""
    type_ = font(13, 600)
    shown = scene.area
    width = min(wide(words, type_) + 28, shown.width() - 16)
    box = QRectF(shown.center().x() - width / 2, shown.top() + 42, width, 30)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.colour("chosen"))
    painter.drawRoundedRect(box, 6, 6)
    write(painter, box.adjusted(12, 0, -12, 0), words, type_, look.colour("text"), CENTRE)


def _sentence_font(width: float) -> QFont:
    return font(max(22.0, min(width / 36.0, 44.0)), 600)


def sentence_height(width: float) -> float:
    """How high the strip of a sentence of two lines is under a picture so wide."""
    return 2 * QFontMetricsF(_sentence_font(width)).lineSpacing() + 28


def paint_sentence(painter: QPainter, box: QRectF, words: str) -> None:
    """One sentence in large type in its strip under the picture, for an eye two metres off."""
    type_ = QFont(_sentence_font(box.width()))
    inner = box.adjusted(32, 10, -32, -10)
    flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignCenter)
    while QFontMetricsF(type_).boundingRect(inner, flags, words).height() > inner.height():
        type_.setPixelSize(type_.pixelSize() - 1)
    painter.fillRect(box, PLATE)
    write_block(painter, inner, words, type_, PLATE_TEXT, Qt.AlignmentFlag.AlignCenter)
