"""The checkpoints on top of the ribbon: pennants, filled where pinned by hand, hollow where found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import LEFT, RIGHT, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import pennant

ROWS, STEP, TOP = 3, 16.0, 4.0
GRAB_PX = 9
FLAG_PX = 13.0


@dataclass(frozen=True)
class Peg:
    """A checkpoint on the ribbon: its name, its frame, and whether it is pinned."""

    name: str
    frame: float
    pinned: bool


@dataclass(frozen=True)
class Placed:
    """A peg with its place: x, the row of its pennant, its title (empty without room), and on which side."""

    peg: Peg
    x: float
    row: int
    title: str
    left: bool


def rows_of(pegs: Sequence[Peg], axis: TimeAxis, right: float) -> int:
    """How many rows the pegs take, 1 to ``ROWS``, whichever of them is current: so lanes keep their place."""
    currents = (None, *(peg.name for peg in pegs))
    used = (ROWS - one.row for c in currents for one in placed(pegs, axis, c, right, ROWS))
    return max(used, default=1)


def head_px(rows: int) -> int:
    """How high the head over the lanes is, px."""
    return round(TOP + STEP * rows + 2)


def placed(pegs: Sequence[Peg], axis: TimeAxis, current: str | None, right: float, rows: int) -> list[Placed]:
    """Pegs in rows, so that no title runs over another; the current one has its title whatever happens."""
    taken: list[list[tuple[float, float]]] = [[] for _ in range(rows)]
    found: list[Placed] = []
    in_order = sorted(pegs, key=lambda peg: (peg.name != current, peg.frame))
    for peg in in_order:
        x = axis.x_of(peg.frame)
        if not axis.holds(x):
            continue
        title = tr(checkpoint_title(peg.name))
        width = wide(title, font(11.5, 600 if peg.name == current else 400))
        left = x + FLAG_PX + width > right
        span = (x - width - 6, x + FLAG_PX) if left else (x - 2, x + FLAG_PX + width + 6)
        free = (r for r in range(rows - 1, -1, -1) if all(span[1] < a or span[0] > b for a, b in taken[r]))
        row = next(free, None)
        if row is None:
            title, span = "", (x - 2, x + FLAG_PX)
            row = rows - 1
        taken[row].append(span)
        found.append(Placed(peg, x, row, title, left))
    return found


def paint_pegs(
    painter: QPainter, look: Look, pegs: Sequence[Placed], current: str | None, foot: float
) -> None:
    """Pennants with their titles, and their poles down to the foot of the ribbon."""
    ink, ground = look.colour("text"), look.colour("ground")
    painter.setPen(QPen(look.colour("faint", 0.55), 1))
    for one in pegs:
        painter.drawLine(QPointF(one.x, TOP + STEP * one.row), QPointF(one.x, foot))
    for one in pegs:
        y = TOP + STEP * one.row
        pen = QPen(ink, 1.2)
        if not one.peg.pinned:
            pen.setDashPattern([2, 1.5])
        painter.setPen(pen)
        painter.setBrush(ink if one.peg.pinned else Qt.BrushStyle.NoBrush)
        painter.drawPath(pennant(QPointF(one.x, y + 1)))
        if not one.title:
            continue
        bold = one.peg.name == current
        type_, colour = font(11.5, 600 if bold else 400), ink if bold else look.colour("secondary")
        width = wide(one.title, type_) + 1
        left = one.x - width - 4 if one.left else one.x + FLAG_PX
        box = QRectF(left, y - 3, width, 16)
        # The pole of another pennant does not run through a title.
        painter.fillRect(box, ground)
        write(painter, box, one.title, type_, colour, RIGHT if one.left else LEFT)


def peg_near(pegs: Sequence[Placed], at: QPointF) -> str | None:
    """The peg under the hand: the one of its own row first."""
    near = [
        (
            abs(one.x + 4 - at.x()) + (0 if abs(TOP + STEP * one.row + 5 - at.y()) < STEP / 2 else 4),
            one.peg.name,
        )
        for one in pegs
        if abs(one.x + 4 - at.x()) <= GRAB_PX
    ]
    return min(near)[1] if near else None
