"""The outline of a body over another picture: about its joints as they are tracked, and the club.

How far flesh and clothes reach about the lines between joints is that of a usual build (common practice, no
source); it says where a body is, and nothing of its own shape.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen, QPolygonF

from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.facts import CHAINS, HIDDEN_SIGMA_M
from kneel.desk.stage.scene import HALO, INK
from kneel.desk.widgets.theme import Look
from kneel.model import Hand, anatomical
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

LINE_PX = 2.0

At = Callable[[float, float], QPointF]


def paint_outline(
    painter: QPainter, canvas: Canvas, look: Look, study: Study, hand: Hand, frame: int
) -> None:
    """Paint the body of a frame as an outline, its legs as lines in the colours of their sides.

    ``canvas`` is one that its own picture lies on, as large as what is painted on.
    """
    at, ratio = canvas.view.to_widget, canvas.devicePixelRatioF()
    pieces = list(_pieces(study, hand, frame, at, canvas.view.scale))
    if not pieces:
        return
    image = QImage(canvas.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    pen = QPainter(image)
    pen.setRenderHint(QPainter.RenderHint.Antialiasing)
    # All pieces a little wider, twice; then what is inside them taken away again: the rim is left.
    for rim, colour in ((2.2 * LINE_PX, HALO), (LINE_PX, INK)):
        _fill(pen, pieces, rim, colour)
    pen.setCompositionMode(QPainter.CompositionMode.CompositionMode_Clear)
    _fill(pen, pieces, 0.0, INK)
    pen.end()
    painter.drawImage(QPointF(0, 0), image)
    _paint_legs(painter, look, study, hand, frame, at)


Piece = tuple[QPointF, QPointF, float, float]


def _pieces(study: Study, hand: Hand, frame: int, at: At, scale: float) -> Iterator[Piece]:
    px = study.px_per_m * scale
    for start, end, first, second in BULK_M:
        ends = _ends(study, hand, frame, (start, end))
        if ends is not None:
            yield at(*ends[0]), at(*ends[1]), first * px, second * px


def _ends(study: Study, hand: Hand, frame: int, names: tuple[str, ...]) -> list[tuple[float, float]] | None:
    """Places of points at a frame, px; None where one of them is not known well enough to be drawn."""
    limit, found = HIDDEN_SIGMA_M * study.px_per_m, []
    for name in names:
        point = anatomical(name, hand)
        track = study.tracks.get(point)
        if track is None or track.sigma[frame] > limit or study.gone(point, frame):
            return None
        found.append((float(track.xy[frame, 0]), float(track.xy[frame, 1])))
    return found


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


def _paint_legs(painter: QPainter, look: Look, study: Study, hand: Hand, frame: int, at: At) -> None:
    for side, names in CHAINS:
        ends = _ends(study, hand, frame, names) if side else None
        if ends is None:
            continue
        line = QPolygonF([at(*place) for place in ends])
        for pen in (QPen(HALO, 3.4), QPen(look.colour(side), 1.5, Qt.PenStyle.DashLine)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(line)
