"""The layer of what is measured: plumbs and lines, the distance or angle itself, and its number beside the
body.
"""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from kneel.desk.stage.figure import DrawnMeasure
from kneel.desk.stage.scene import HALO, INK, PAST, PLATE_SECOND, PLATE_TEXT, Scene, paint_plate
from kneel.desk.widgets.text import wide, write
from kneel.desk.widgets.theme import font
from kneel.desk.widgets.theme.glyphs import hatch
from kneel.speech.home import plain

ARC_PX = 34.0
OVER_PX = 62.0
"""A plumb begins so far above what crosses it."""


def paint_measured(painter: QPainter, scene: Scene) -> None:
    """All figures, the chosen one last so that it lies on top."""
    for figure in reversed(scene.figures):
        _lines(painter, scene, figure)
        _gap(painter, scene, figure)
        _corner(painter, scene, figure)


def paint_numbers(painter: QPainter, scene: Scene) -> None:
    """The number of each figure, where it is free, with a line to where it is measured."""
    opened = scene.opened
    if not scene.figures or opened.analysis is None:
        return
    away = opened.analysis.direction if scene.view.pose.mirrored else -opened.analysis.direction
    for figure in scene.figures:
        _plate(painter, scene, figure, away)


def _pens(main: bool, *, dashed: bool = False, colour: QColor = INK) -> tuple[QPen, QPen]:
    halo, pen = QPen(HALO, 4.0 if main else 3.0), QPen(colour, 1.7 if main else 1.1)
    if dashed:
        pen.setStyle(Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([5, 4])
        halo.setColor(QColor(16, 21, 22, 110))
    return halo, pen


def _lines(painter: QPainter, scene: Scene, figure: DrawnMeasure) -> None:
    for place in figure.plumbs:
        x, top = scene.at(place).x(), min(scene.at(place).y(), scene.at(figure.at).y()) - OVER_PX
        foot = _ground(scene)
        for pen in _pens(figure.main, dashed=not figure.main):
            painter.setPen(pen)
            painter.drawLine(QPointF(x, top), QPointF(x, foot))
        painter.setPen(QPen(HALO, 1.0))
        painter.setBrush(INK)
        size = 5.5 if figure.main else 4.0
        painter.drawPolygon(
            QPolygonF([QPointF(x - size, foot), QPointF(x + size, foot), QPointF(x, foot + 1.8 * size)])
        )
    for lines, dashed in ((figure.faint, True), (figure.firm, False)):
        for a, b in lines:
            for pen in _pens(figure.main, dashed=dashed):
                painter.setPen(pen)
                painter.drawLine(scene.at(a), scene.at(b))


def _gap(painter: QPainter, scene: Scene, figure: DrawnMeasure) -> None:
    """The distance itself, from line to body."""
    if figure.gap is None:
        return
    start, end = (scene.at(place) for place in figure.gap)
    across = end - start
    length = float(np.hypot(across.x(), across.y()))
    if length < 1.5:
        return
    colour = scene.look.colour("fault") if figure.past else QColor(INK)
    half = 13.0 if figure.main else 7.0
    side = QPointF(-across.y(), across.x()) * (half / length)
    band = QPolygonF([start - side, end - side, end + side, start + side])
    soft = QColor(colour)
    soft.setAlphaF(0.30)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(soft)
    painter.drawPolygon(band)
    if figure.past:
        painter.setBrush(hatch(scene.look))
        painter.drawPolygon(band)
    for pen in (QPen(HALO, 4.0), QPen(colour, 2.4 if figure.main else 1.6)):
        painter.setPen(pen)
        painter.drawLine(start, end)


def _corner(painter: QPainter, scene: Scene, figure: DrawnMeasure) -> None:
    """The angle itself, an arc between its limbs."""
    if figure.corner is None:
        return
    a, at, b = (scene.at(place) for place in figure.corner)
    start, stop = (float(np.degrees(np.arctan2(at.y() - p.y(), p.x() - at.x()))) for p in (a, b))
    sweep = (stop - start + 180) % 360 - 180
    box = QRectF(at.x() - ARC_PX, at.y() - ARC_PX, 2 * ARC_PX, 2 * ARC_PX)
    colour = scene.look.colour("fault") if figure.past else QColor(INK)
    soft = QColor(colour)
    soft.setAlphaF(0.28)
    path = QPainterPath(at)
    path.arcTo(box, start, sweep)
    path.closeSubpath()
    painter.fillPath(path, soft)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(HALO, 3.4), QPen(colour, 1.8)):
        painter.setPen(pen)
        painter.drawArc(box, round(16 * start), round(16 * sweep))


def words_of(scene: Scene, figure: DrawnMeasure) -> str:
    """What stands under a number: for a student left and right instead of lead and trail."""
    return plain(figure.words, scene.opened.swing.hand) if scene.large else figure.words


def _plate(painter: QPainter, scene: Scene, figure: DrawnMeasure, away: int) -> None:
    """The number beside the body on its trail side, where nothing else stands."""
    words = words_of(scene, figure)
    grown = 1.7 if scene.large else 1.0
    big, middling, small = font(15 * grown, 600), font(13 * grown), font(11.5 * grown)
    value_width = wide(figure.value, big)
    first = value_width + 8 + wide(figure.error, middling)
    size = QSizeF(max(first, wide(words, small)) + 24, 44 * grown)
    target = scene.at(figure.at)
    key = f"figure {figure.key}"
    near = QPointF(target.x() + away * (size.width() / 2 + 40), target.y())
    box = scene.room.place(size, near, away, scene.places.get(key))
    scene.places[key] = box.topLeft()
    _thread(painter, box, target)
    paint_plate(painter, box)
    top = QRectF(box.left() + 12, box.top() + 4 * grown, size.width() - 24, 20 * grown)
    write(painter, top, figure.value, big, PLATE_TEXT)
    write(painter, top.adjusted(value_width + 8, 0, 0, 0), figure.error, middling, PLATE_SECOND)
    low = QRectF(box.left() + 12, box.top() + 23 * grown, size.width() - 24, 17 * grown)
    write(painter, low, words, small, PAST if figure.past else PLATE_SECOND)


def _thread(painter: QPainter, box: QRectF, target: QPointF) -> None:
    """A thin line from the plate to where it is measured."""
    x = box.right() if target.x() > box.center().x() else box.left()
    near = QPointF(x, min(max(target.y(), box.top() + 8), box.bottom() - 8))
    way = target - near
    length = float(np.hypot(way.x(), way.y()))
    if length < 24:
        return
    end = target - way * (12.0 / length)
    for pen in (QPen(HALO, 2.6), QPen(PLATE_SECOND, 1.0)):
        painter.setPen(pen)
        painter.drawLine(near, end)


def _ground(scene: Scene) -> float:
    """How far down plumbs hang: to the feet."""
    feet = [scene.at((p.x, p.y)).y() for p in scene.points if p.name.endswith(("ankle", "toe", "heel"))]
    if feet:
        return max(feet) + 14
    return scene.view.shown.bottom() - 24
