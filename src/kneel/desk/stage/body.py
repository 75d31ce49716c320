"""Layers of the body: its limbs now and at address, its points with their doubt, the way of the pelvis."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from kneel.desk.stage.facts import address_frame, lines_at, pelvis_trail
from kneel.desk.stage.scene import DOUBT_PX, HALO, INK, Scene
from kneel.desk.swing.aim import Aimed
from kneel.desk.widgets.theme.glyphs import draw_joint
from kneel.motion.ghost import Ghost


def paint_ghost(painter: QPainter, scene: Scene) -> None:
    """The limbs as they were at address, broken lines; none where an aim is shown, which is enough."""
    address = address_frame(scene.opened)
    aim = scene.opened.aim
    aimed = isinstance(aim.ghost, Ghost) or aim.shown is Aimed.FIGURE
    if address is None or address == scene.opened.cursor.frame or aimed:
        return
    colour = QColor(INK)
    colour.setAlphaF(0.6)
    pen = QPen(colour, 1.2, Qt.PenStyle.CustomDashLine)
    pen.setDashPattern([3, 3])
    painter.setPen(pen)
    for _, run in lines_at(scene.opened, address, spine=_trunk_told(scene)):
        painter.drawPolyline(QPolygonF([scene.at(place) for place in run]))


def _trunk_told(scene: Scene) -> bool:
    """Whether the trunk matters now: something measured rests on the shoulders."""
    return any(name.endswith("shoulder") for name in scene.told)


def paint_trail(painter: QPainter, scene: Scene) -> None:
    """The way of the pelvis's middle since address."""
    places = pelvis_trail(scene.opened)
    if len(places) < 2:
        return
    line = QPolygonF([scene.at(place) for place in places])
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(HALO, 4.0), QPen(scene.look.colour("clear"), 1.8)):
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.drawPolyline(line)


def paint_limbs(painter: QPainter, scene: Scene) -> None:
    """The limbs now: legs in the colour of their side."""
    wide = 1.6 if scene.large else 1.0
    for side, run in lines_at(scene.opened, scene.opened.cursor.frame, spine=_trunk_told(scene)):
        line = QPolygonF([scene.at(place) for place in run])
        colour = scene.look.colour(side) if side else INK
        for pen in (QPen(HALO, 4.4 * wide), QPen(colour, 2.0 * wide)):
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPolyline(line)


def paint_points(painter: QPainter, scene: Scene) -> None:
    """Points: large where the figure rests on them or the hand works, small where they only help."""
    for point in scene.points:
        held = scene.held if scene.held and scene.held[0] == point.name else None
        at = scene.at(held[1] if held else (point.x, point.y))
        counts = scene.marking or point.by_hand or point.name in scene.told or point.name == scene.selected
        if counts:
            _doubt(painter, scene, point.side, at, 2.0 * point.sigma * scene.view.scale)
        if point.name == scene.selected:
            painter.setPen(QPen(INK, 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 13, 13)
        size = (9.0 if scene.large else 6.0) if counts else 3.6
        draw_joint(painter, scene.look, point.side, at, size=size, source=point.source.value)


def _doubt(painter: QPainter, scene: Scene, side: str | None, at: QPointF, radius: float) -> None:
    if radius <= DOUBT_PX:
        return
    pen = QPen(INK, 1.0, Qt.PenStyle.CustomDashLine)
    pen.setDashPattern([2, 3])
    painter.setPen(pen)
    glow = scene.look.colour(side) if side else QColor(INK)
    glow.setAlphaF(0.13)
    painter.setBrush(glow)
    painter.drawEllipse(at, radius, radius)
