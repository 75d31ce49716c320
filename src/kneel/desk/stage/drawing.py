"""Marks that only say something: dots, lines, arrows, circles, strokes, words; and a line along a thing that
stands.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from kneel.desk.stage.facts import Place, carried
from kneel.desk.stage.scene import HALO, PLATE_SECOND, PLATE_TEXT, Scene, paint_plate
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import wide, write
from kneel.desk.widgets.theme import font
from kneel.model import Drawn, Swing, spoken
from kneel.motion.scale import Scale
from kneel.speech.words import number, with_unit

CHALK = QColor("#fff2b8")
"""Marks by hand are neither side nor verdict: a colour of their own, the same on every ground."""

GRAB_PX = 9.0
ARROW_PX = 13.0

TITLES = {
    "dot": "Dot",
    "cross": "Cross",
    "line": "Line",
    "arrow": "Arrow",
    "circle": "Circle",
    "angle": "Angle",
    "pen": "Pen",
    "word": "Word",
    "prop": "Line along a thing, with its gap to the body",
}


def places_of(drawn: Drawn) -> list[Place]:
    """The places of something drawn, px of the picture it was drawn on."""
    return list(zip(drawn.points[::2], drawn.points[1::2], strict=True))


def drawn_at(opened: OpenSwing) -> list[tuple[int, Drawn, list[Place]]]:
    """What is drawn on the frame on show: its number in the document, itself, and its places here."""
    frame, found = opened.cursor.frame, []
    for k, one in enumerate(opened.swing.drawn):
        if one.frame in (None, frame):
            found.append((k, one, _here(opened, one, frame)))
    return found


def _here(opened: OpenSwing, one: Drawn, frame: int) -> list[Place]:
    """What lasts for the whole swing stays with the ground where the camera moves."""
    analysis = opened.analysis
    if one.frame is not None or analysis is None or analysis.camera is None:
        return places_of(one)
    return [carried(analysis, place, 0, frame) for place in places_of(one)]


def nearest_drawn(scene: Scene, at: QPointF) -> int | None:
    """Which of the things drawn lies under the hand."""
    best: tuple[float, int] | None = None
    for k, one, places in drawn_at(scene.opened):
        shown = np.array([[p.x(), p.y()] for p in map(scene.at, places)])
        far = _distance(one.shape, shown, np.array([at.x(), at.y()]))
        if far <= GRAB_PX and (best is None or far < best[0]):
            best = far, k
    return best[1] if best else None


def _distance(shape: str, places: np.ndarray, at: np.ndarray) -> float:
    if shape == "circle" and len(places) > 1:
        radius = float(np.linalg.norm(places[1] - places[0]))
        return abs(float(np.linalg.norm(at - places[0])) - radius)
    if len(places) == 1:
        return max(float(np.linalg.norm(at - places[0])) - 8.0, 0.0)
    return min(_from_segment(a, b, at) for a, b in pairwise(places))


def _from_segment(a: np.ndarray, b: np.ndarray, at: np.ndarray) -> float:
    along = b - a
    share = float(np.clip(np.dot(at - a, along) / max(float(np.dot(along, along)), 1e-9), 0, 1))
    return float(np.linalg.norm(at - a - share * along))


def moved(swing: Swing, which: int, dx: float, dy: float) -> Swing:
    """The swing with one thing drawn moved by some px."""
    one = swing.drawn[which]
    shift = (dx, dy) * (len(one.points) // 2)
    there = msgspec.structs.replace(
        one, points=tuple(float(p + d) for p, d in zip(one.points, shift, strict=True))
    )
    return _with(swing, which, there)


def without(swing: Swing, which: int) -> Swing:
    """The swing without one of the things drawn."""
    return _with(swing, which)


def lasting(swing: Swing, which: int, frame: int) -> Swing:
    """The swing with one thing drawn kept for the whole of it, or for one frame again."""
    one = swing.drawn[which]
    there = msgspec.structs.replace(one, frame=None if one.frame is not None else frame)
    return _with(swing, which, there)


def _with(swing: Swing, which: int, *instead: Drawn) -> Swing:
    """The swing with other things, or none, in the place of one thing drawn."""
    return swing.given(drawn=(*swing.drawn[:which], *instead, *swing.drawn[which + 1 :]))


def paint_drawn(painter: QPainter, scene: Scene, chosen: int | None, under_way: Drawn | None) -> None:
    """Everything drawn on this frame, and what the hand is drawing now."""
    for k, one, places in drawn_at(scene.opened):
        _paint(painter, scene, one, places, strong=k == chosen)
        if one.shape == "prop":
            _paint_gap(painter, scene, one, places)
    if under_way is not None:
        _paint(painter, scene, under_way, places_of(under_way), strong=True)


def _paint(painter: QPainter, scene: Scene, one: Drawn, places: list[Place], *, strong: bool) -> None:
    at = [scene.at(place) for place in places]
    if one.shape == "word":
        _paint_word(painter, scene, one, at[0])
        return
    pens = [QPen(HALO, 5.0), QPen(CHALK, 3.0 if strong else 2.2)]
    for pen in pens:
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if one.shape == "prop":
            pen.setStyle(Qt.PenStyle.DashDotLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if one.shape == "dot":
            painter.setBrush(QBrush(CHALK))
            painter.drawEllipse(at[0], 4.5, 4.5)
        elif one.shape == "cross":
            for d in (QPointF(8, 8), QPointF(8, -8)):
                painter.drawLine(at[0] - d, at[0] + d)
        elif one.shape == "circle":
            radius = float(np.hypot(at[1].x() - at[0].x(), at[1].y() - at[0].y()))
            painter.drawEllipse(at[0], radius, radius)
        else:
            painter.drawPolyline(QPolygonF(at))
    if one.shape == "arrow":
        _paint_head(painter, at[0], at[-1])
    if one.shape == "angle" and len(at) == 3:
        _paint_angle(painter, at)


def _paint_head(painter: QPainter, start: QPointF, tip: QPointF) -> None:
    way = np.array([tip.x() - start.x(), tip.y() - start.y()])
    length = float(np.linalg.norm(way))
    if length < 1:
        return
    way = way / length
    side = np.array([-way[1], way[0]])
    back = np.array([tip.x(), tip.y()]) - ARROW_PX * way
    corners = [back + 0.5 * ARROW_PX * side, back - 0.5 * ARROW_PX * side]
    painter.setPen(QPen(HALO, 1.2))
    painter.setBrush(QBrush(CHALK))
    painter.drawPolygon(QPolygonF([tip, *(QPointF(float(x), float(y)) for x, y in corners)]))


def _paint_angle(painter: QPainter, at: list[QPointF]) -> None:
    """The angle of three places in the picture's plane, at its corner."""
    a, b = (np.array([p.x() - at[1].x(), p.y() - at[1].y()]) for p in (at[0], at[2]))
    cosine = float(np.dot(a, b) / max(float(np.linalg.norm(a) * np.linalg.norm(b)), 1e-9))
    words = f"{np.degrees(np.arccos(np.clip(cosine, -1, 1))):.0f}°"
    type_ = font(13, 600)
    box = QRectF(at[1].x() + 12, at[1].y() - 11, wide(words, type_) + 16, 22)
    paint_plate(painter, box)
    write(painter, box.adjusted(8, 0, -8, 0), words, type_, PLATE_TEXT)


def _paint_word(painter: QPainter, scene: Scene, one: Drawn, at: QPointF) -> None:
    type_ = font(15 if not scene.large else 24, 600)
    box = QRectF(at.x(), at.y() - 13, wide(one.words, type_) + 18, 26 if not scene.large else 38)
    paint_plate(painter, box)
    write(painter, box.adjusted(9, 0, -9, 0), one.words, type_, CHALK)


@dataclass(frozen=True)
class Gap:
    """The gap of a point of the body to a line along a thing: where, and how wide with its error."""

    body: Place
    foot: Place
    value: str
    error: str


def gap_of(opened: OpenSwing, one: Drawn, places: list[Place]) -> Gap | None:
    """How far a point is from a line, in the picture's plane and the scale's unit; None where unknown."""
    analysis, frame = opened.analysis, opened.cursor.frame
    track = analysis.tracks.get(one.words) if analysis else None
    if analysis is None or track is None or not isinstance(analysis.scale, Scale):
        return None
    a, b, p = np.array(places[0]), np.array(places[-1]), track.xy[frame]
    along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    foot = a + float(np.dot(p - a, along)) * along
    px = float(np.linalg.norm(p - foot))
    scale = analysis.scale
    value = px * scale.per_px
    sigma = float(np.hypot(track.sigma[frame] * scale.per_px, value * scale.relative))
    return Gap(
        (float(p[0]), float(p[1])),
        (float(foot[0]), float(foot[1])),
        with_unit(number(value, scale.unit, signed=False), scale.unit),
        f"± {number(sigma, scale.unit, signed=False)}",
    )


def _paint_gap(painter: QPainter, scene: Scene, one: Drawn, places: list[Place]) -> None:
    gap = gap_of(scene.opened, one, places)
    if gap is None:
        return
    start, end = scene.at(gap.foot), scene.at(gap.body)
    for pen in (QPen(HALO, 4.0), QPen(CHALK, 1.8)):
        painter.setPen(pen)
        painter.drawLine(start, end)
    words = tr("%s to the line") % spoken(one.words, scene.opened.swing.hand)
    big, small = font(13, 600), font(11.5)
    first = wide(gap.value, big)
    width = max(first + 8 + wide(gap.error, small), wide(words, small)) + 20
    middle = (start + end) / 2
    key = f"prop {one.words}"
    box = scene.room.place(QSizeF(width, 40), middle, 1, scene.places.get(key))
    scene.places[key] = box.topLeft()
    paint_plate(painter, box)
    line = QRectF(box.left() + 10, box.top() + 3, width - 20, 18)
    write(painter, line, gap.value, big, PLATE_TEXT)
    write(painter, line.adjusted(first + 8, 0, 0, 0), gap.error, small, PLATE_SECOND)
    write(painter, line.translated(0, 17), words, small, PLATE_SECOND)
