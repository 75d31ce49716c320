"""What a layer of the stage needs to paint one frame, gathered once for all of them."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter

from kneel.desk.stage.facts import PointFact, body_discs, points_at
from kneel.desk.stage.figure import DrawnMeasure, figures_at
from kneel.desk.stage.room import Room
from kneel.desk.stage.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.theme import Look
from kneel.model import anatomical

HALO = QColor(16, 21, 22, 190)
INK = QColor("#f3efe4")
PLATE = QColor(16, 23, 25, 222)
PLATE_TEXT = QColor("#e9eeea")
PLATE_SECOND = QColor("#a9b9b9")
PAST = QColor("#f08a57")

DOUBT_PX = 7.0
"""An ellipse of doubt smaller than this lies under the point's own sign."""

Held = tuple[str, tuple[float, float]] | None
"""The point in the hand and where it is, px."""

ON_PICTURE = Look(dark=True)
"""What lies on a picture has to stand against grass and sky, whatever the desk wears."""


@dataclass
class Scene:
    """One frame of an open swing on a stage of ``area``; ``large`` for far eyes."""

    view: Viewport
    opened: OpenSwing
    area: QRectF
    selected: str | None = None
    held: Held = None
    marking: bool = False
    large: bool = False
    places: dict[str, QPointF] = field(default_factory=dict)
    """Where plates stood last, by what they say; kept by the stage from frame to frame."""

    @property
    def look(self) -> Look:
        return ON_PICTURE

    @cached_property
    def points(self) -> list[PointFact]:
        return points_at(self.opened)

    @cached_property
    def figures(self) -> list[DrawnMeasure]:
        return figures_at(self.opened)

    @cached_property
    def told(self) -> frozenset[str]:
        """The points that what is measured rests on, as files name them."""
        hand = self.opened.swing.hand
        return frozenset(anatomical(name, hand) for figure in self.figures for name in figure.points)

    @cached_property
    def room(self) -> Room:
        """Where plates can stand."""
        opened = self.opened
        discs = body_discs(opened.analysis, opened.cursor.frame, opened.swing.hand)
        if len(discs):
            at = [self.at((x, y)) for x, y, _ in discs.tolist()]
            discs = np.column_stack([[p.x() for p in at], [p.y() for p in at], discs[:, 2] * self.view.scale])
        return Room(self.area, discs)

    def at(self, place: tuple[float, float]) -> QPointF:
        return self.view.to_widget(*place)


def paint_plate(painter: QPainter, box: QRectF) -> None:
    """The dark ground under words on the picture."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(PLATE)
    painter.drawRoundedRect(box, 6, 6)
