"""What the next click on the picture does: mark a point, measure a length, point out the golfer, draw."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPointF

from kneel.desk.stage.gestures import DragPoint, DrawLength, DrawShape, Gesture
from kneel.desk.stage.viewport import Viewport
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import point_title
from kneel.desk.widgets.language import tr
from kneel.model import anatomical


class Tool(Protocol):
    """What the stage knows of a tool: what it says, and what it begins; ``stays`` after one use."""

    stays: bool

    def hint(self) -> str: ...

    def begin(self, opened: OpenSwing, view: Viewport, at: QPointF) -> Gesture | None: ...


class MarkPoint:
    """Marks a point, named by lead and trail; the next one follows."""

    stays = True

    def __init__(self, point: str) -> None:
        self.point = point

    def hint(self) -> str:
        words = tr("Click the %s, or Enter and arrows · Tab for the next · Esc to end")
        where = WHERE.get(self.point.rsplit("_", 1)[-1], "")
        return words % " ".join(part for part in (point_title(self.point), tr(where)) if part)

    def begin(self, opened: OpenSwing, view: Viewport, at: QPointF) -> Gesture:
        drag = DragPoint(opened, view, anatomical(self.point, opened.swing.hand), at, at)
        drag.move(at)
        return drag


WHERE = {
    "hip": "(the joint, a hand under the belt)",
    "knee": "(the middle of the joint)",
    "shoulder": "(the joint, under the seam)",
    "grip": "(where the hands meet)",
}
"""Where a point lies that clothes hide (common practice, no source)."""


class MeasureLength:
    """Takes something of known length for the scale."""

    stays = False

    def __init__(self, length_cm: float, what: str) -> None:
        self._length_cm, self._what = length_cm, what

    def hint(self) -> str:
        return tr("Drag along the %s, end to end · Esc to end") % self._what

    def begin(self, opened: OpenSwing, view: Viewport, at: QPointF) -> Gesture:
        return DrawLength(opened, view, at, self._length_cm, self._what)


class PointOut:
    """Says who of those in the picture is the golfer."""

    stays = False

    def hint(self) -> str:
        return tr("Click on the golfer · Esc to leave it")

    def begin(self, opened: OpenSwing, view: Viewport, at: QPointF) -> None:
        opened.point_out(*view.to_picture(at), opened.cursor.frame)


HOW = {
    "dot": "Click where the dot goes",
    "cross": "Click where the cross goes",
    "line": "Drag the line",
    "arrow": "Drag the arrow to its tip",
    "circle": "Drag the circle from its middle",
    "angle": "Drag from the corner along one leg, then click on the other",
    "pen": "Draw with the button held",
    "word": "Click where the words go",
    "prop": "Drag along the thing: a stick, a chair, a wall",
}


class Draw:
    """Draws a shape that only says something."""

    stays = False

    def __init__(self, shape: str) -> None:
        self.shape = shape

    def hint(self) -> str:
        return tr("%s · Esc to leave it") % tr(HOW[self.shape])

    def begin(self, opened: OpenSwing, view: Viewport, at: QPointF) -> Gesture:
        return DrawShape(opened, view, at, self.shape)
