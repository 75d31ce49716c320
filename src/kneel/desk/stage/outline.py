"""The outline of a body over a picture: about its joints as they are tracked, or moved, and the club.

How far flesh and clothes reach about the lines between joints is that of a usual build (common practice, no
source); it says where a body is, and nothing of its own shape.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from kneel.desk.stage.facts import CHAINS, HIDDEN_SIGMA_M
from kneel.desk.stage.scene import HALO, INK
from kneel.desk.stage.viewport import Viewport
from kneel.desk.widgets.theme import Look
from kneel.model import Hand, anatomical
from kneel.motion.drawn import Place
from kneel.motion.study import Study

BULK_M = (
    ("lead_hip", "lead_knee", 0.088, 0.060),
    ("trail_hip", "trail_knee", 0.088, 0.060),
    ("lead_knee", "lead_ankle", 0.058, 0.038),
    ("trail_knee", "trail_ankle", 0.058, 0.038),
    ("lead_ankle", "lead_ankle", 0.055, 0.055),
    ("trail_ankle", "trail_ankle", 0.055, 0.055),
    ("lead_hip", "trail_hip", 0.100, 0.100),
    ("lead_shoulder", "lead_hip", 0.075, 0.085),
    ("trail_shoulder", "trail_hip", 0.075, 0.085),
    ("lead_shoulder", "trail_hip", 0.075, 0.085),
    ("lead_shoulder", "trail_shoulder", 0.070, 0.070),
    ("lead_shoulder", "grip", 0.050, 0.036),
    ("trail_shoulder", "grip", 0.050, 0.036),
    ("head", "head", 0.115, 0.115),
    ("grip", "clubhead", 0.006, 0.012),
)
"""Half widths about the line from one joint to the next, metres."""

NAMES = tuple(dict.fromkeys(name for start, end, *_ in BULK_M for name in (start, end)))

LINE_PX = 2.0

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
    at, ratio = view.to_widget, canvas.devicePixelRatioF()
    pieces = list(_pieces(places, px_per_m * view.scale, at))
    if not pieces:
        return
    image = QImage(canvas.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    pen = QPainter(image)
    pen.setRenderHint(QPainter.RenderHint.Antialiasing)
    # All pieces a little wider, twice; then what is inside them taken away again: the rim is left.
    for wide, colour in ((2.2 * LINE_PX, HALO), (LINE_PX, rim)):
        _fill(pen, pieces, wide, colour)
    pen.setCompositionMode(QPainter.CompositionMode.CompositionMode_Clear)
    _fill(pen, pieces, 0.0, INK)
    pen.end()
    painter.drawImage(QPointF(0, 0), image)
    _paint_legs(painter, look, places, at, None if rim is INK else rim)


Piece = tuple[QPointF, QPointF, float, float]


def _pieces(places: Mapping[str, Place], px_per_m: float, at: At) -> Iterator[Piece]:
    for start, end, first, second in BULK_M:
        if start in places and end in places:
            yield at(*places[start]), at(*places[end]), first * px_per_m, second * px_per_m


def _fill(painter: QPainter, pieces: list[Piece], rim: float, colour: object) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    for a, b, first, second in pieces:
        way = np.array([b.x() - a.x(), b.y() - a.y()])
        length = float(np.hypot(*way))
        painter.drawEllipse(a, first + rim, first + rim)
        painter.drawEllipse(b, second + rim, second + rim)
        if length > 1e-6:
            x, y = (np.array([-way[1], way[0]]) / length).tolist()
            side = QPointF(x, y)
            corners = [a + side * (first + rim), b + side * (second + rim)]
            corners += [b - side * (second + rim), a - side * (first + rim)]
            painter.drawPolygon(QPolygonF(corners))


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
