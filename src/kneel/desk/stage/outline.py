"""The outline of a body over a picture: about its joints as they are tracked, or moved, and the club."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from kneel.desk.stage.facts import CHAINS, HIDDEN_SIGMA_M
from kneel.desk.stage.scene import HALO, INK
from kneel.desk.stage.viewport import Viewport
from kneel.desk.widgets.theme import Look
from kneel.model import Hand, anatomical
from kneel.motion.drawn import Place
from kneel.motion.outline import NAMES, pieces_of
from kneel.motion.study import Study

LINE_PX, WIDEST_PX = 2.0, 4.4

At = Callable[[float, float], QPointF]


def places_of(study: Study, hand: Hand, frame: int) -> dict[str, Place]:
    """Where the points of a frame lie that are known well enough to be drawn, px by lead and trail."""
    limit, found = HIDDEN_SIGMA_M * study.px_per_m, {}
    for name in NAMES:
        point = anatomical(name, hand)
        track = study.tracks.get(point)
        if track is not None and track.sigma[frame] <= limit and not study.gone(point, frame):
            found[name] = (float(track.xy[frame, 0]), float(track.xy[frame, 1]))
    return found


def paint_outline(
    painter: QPainter,
    canvas: QWidget,
    view: Viewport,
    places: Mapping[str, Place],
    px_per_m: float,
    look: Look,
    rim: QColor = INK,
) -> None:
    """Paint a body as an outline, its legs as lines in its colour, in those of their sides where it is ink.

    ``view`` is how the picture lies on which ``places`` are px, ``canvas`` what is painted on.
    """
    ratio, pieces = canvas.devicePixelRatioF(), _laid(places, view, px_per_m)
    if not pieces:
        return
    box = _box(pieces).toAlignedRect().intersected(canvas.rect())
    image = QImage(box.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    pen = QPainter(image)
    pen.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen.translate(QPointF(-box.topLeft()))
    # All pieces a little wider, twice; then what is inside them taken away again: the rim is left.
    for wide, colour in ((WIDEST_PX, HALO), (LINE_PX, rim)):
        _fill(pen, pieces, wide, colour)
    pen.setCompositionMode(QPainter.CompositionMode.CompositionMode_Clear)
    _fill(pen, pieces, 0.0, INK)
    pen.end()
    painter.drawImage(QPointF(box.topLeft()), image)
    _paint_legs(painter, look, places, view.to_widget, None if rim is INK else rim)


Laid = tuple[QPointF, QPointF, float, float]


def _laid(places: Mapping[str, Place], view: Viewport, px_per_m: float) -> list[Laid]:
    """The pieces as they lie on the widget."""
    at, per = view.to_widget, view.scale
    return [
        (at(*one.start), at(*one.end), per * one.at_start, per * one.at_end)
        for one in pieces_of(places, px_per_m)
    ]


def _box(pieces: list[Laid]) -> QRectF:
    """What all pieces lie in."""
    ends = [
        (end, radius + WIDEST_PX + 1)
        for a, b, *radii in pieces
        for end, radius in zip((a, b), radii, strict=True)
    ]
    left, top = min(p.x() - r for p, r in ends), min(p.y() - r for p, r in ends)
    right, bottom = max(p.x() + r for p, r in ends), max(p.y() + r for p, r in ends)
    return QRectF(QPointF(left, top), QPointF(right, bottom))


def _fill(painter: QPainter, pieces: list[Laid], rim: float, colour: QColor) -> None:
    """Fill the pieces, each wider by ``rim``, one by one: as one shape it takes twice as long."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    for a, b, first, second in pieces:
        x, y = b.x() - a.x(), b.y() - a.y()
        length = math.hypot(x, y)
        painter.drawEllipse(a, first + rim, first + rim)
        if length <= 1e-6:
            continue
        painter.drawEllipse(b, second + rim, second + rim)
        side = QPointF(-y / length, x / length)
        corners = [a + side * (first + rim), b + side * (second + rim)]
        corners += [b - side * (second + rim), a - side * (first + rim)]
        painter.drawConvexPolygon(QPolygonF(corners))


def _paint_legs(
    painter: QPainter, look: Look, places: Mapping[str, Place], at: At, colour: QColor | None
) -> None:
    for side, names in CHAINS:
        if not side or any(name not in places for name in names):
            continue
        line = QPolygonF([at(*places[name]) for name in names])
        for pen in (QPen(HALO, 3.4), QPen(colour or look.colour(side), 1.5, Qt.PenStyle.DashLine)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(line)
