"""Where numbers can stand: beside the body and beside each other, never on either."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSizeF

STEP_PX = 20.0
APART_PX = 8.0
EDGE_PX = 8.0
FAR_PX, NEAR_PX = 150.0, 260.0
COVERED = 1000.0
"""What it costs to lie on the body by 40 px."""

ON_BODY = 2.0
"""What it costs to lie on it at all, the same: a place across the whole stage is nearer."""

KEEPS_PX = 70.0
"""So much farther off a plate may stand to stay where it is while frames go by."""


class Room:
    """The stage at one frame: where the body is (discs), and what is taken already."""

    def __init__(self, area: QRectF, discs: np.ndarray) -> None:
        """``discs`` are (N, 3): middle and radius, px of the widget."""
        self._area, self._discs = area, discs
        self._taken: list[QRectF] = []

    def take(self, box: QRectF) -> None:
        """Something stands here."""
        self._taken.append(box)

    def place(self, size: QSizeF, near: QPointF, away: int, last: QPointF | None = None) -> QRectF:
        """The free place for a plate nearest to a point, taken at once.

        ``away`` is the side preferred, -1 for the left; ``last`` is where it stood on the frame before,
        which it keeps as long as that is free and near. Where all is taken it covers as little as it can.
        """
        box = self._best(size, near, away, last)
        self.take(box)
        return box

    def place_free(self, size: QSizeF, near: QPointF, away: int, last: QPointF | None) -> QRectF | None:
        """The same where nothing at all is covered; None, and nothing taken, where there is no such place."""
        box = self._best(size, near, away, last)
        taken = self._taken_by(np.array([_edges(box)]))[0]
        if not self._area.contains(box) or taken or self.on_body(box):
            return None
        self.take(box)
        return box

    def _best(self, size: QSizeF, near: QPointF, away: int, last: QPointF | None) -> QRectF:
        if last is not None:
            # Mostly it is free there still, and nothing need be searched.
            box = QRectF(last, size)
            if self._keeps(box, near):
                return box
            if not self._area.contains(box):
                last = None
        # Mostly there is room near by; only where there is none the whole stage is searched.
        about = QRectF(near.x() - NEAR_PX, near.y() - NEAR_PX / 2, 2 * NEAR_PX, NEAR_PX)
        cost, boxes = self._cost(self._candidates(size, last, about), near, size, away, last)
        if not len(boxes) or cost.min() > COVERED:
            cost, boxes = self._cost(self._candidates(size, last, self._area), near, size, away, last)
        left, top = boxes[int(np.argmin(cost)), :2]
        return QRectF(float(left), float(top), size.width(), size.height())

    def _cost(
        self, boxes: np.ndarray, near: QPointF, size: QSizeF, away: int, last: QPointF | None
    ) -> tuple[np.ndarray, np.ndarray]:
        """What each place costs, px of way; and the places."""
        deep = self._depth(boxes, APART_PX)
        on_body = (deep > APART_PX).any(axis=1)
        covered = deep.sum(axis=1) / 40.0 + ON_BODY * on_body + 4.0 * self._taken_by(boxes)
        middle = boxes[:, :2] + 0.5 * np.array([size.width(), size.height()])
        off = np.abs(middle - np.array([near.x(), near.y()])).sum(axis=1)
        other = (middle[:, 0] - near.x()) * away < 0
        # A plate on the other side has to be nearer by a good deal; one on the body has no business there.
        cost = off + 60.0 * other + COVERED * covered
        if last is not None and len(cost):
            cost[-1] -= KEEPS_PX
        return cost, boxes

    def _keeps(self, box: QRectF, near: QPointF) -> bool:
        """Whether a plate may stay where it stood: inside, free, and near what it speaks of."""
        way = box.center() - near
        inner = self._area.adjusted(EDGE_PX, EDGE_PX, -EDGE_PX, -EDGE_PX)
        if not inner.contains(box) or abs(way.x()) + abs(way.y()) > FAR_PX:
            return False
        edges = np.array([_edges(box)])
        return not self._taken_by(edges)[0] and not self._depth(edges, APART_PX / 2).any()

    def on_body(self, box: QRectF) -> bool:
        """Whether a box lies on the body."""
        return bool(self._depth(np.array([_edges(box)]), 0.0).any())

    def _candidates(self, size: QSizeF, last: QPointF | None, about: QRectF) -> np.ndarray:
        """Places in the area and about another, (K, 4): left, top, right, bottom; the last where it stood."""
        area, width, height = self._area, size.width(), size.height()
        right, low = area.right() - width - EDGE_PX, area.bottom() - height - EDGE_PX
        xs = np.arange(area.left() + EDGE_PX, max(right, area.left() + EDGE_PX) + 1, STEP_PX)
        ys = np.arange(area.top() + EDGE_PX, max(low, area.top() + EDGE_PX) + 1, STEP_PX)
        xs = np.append(xs, max(right, xs[0]))
        xs = xs[(xs + width > about.left()) & (xs < about.right())]
        ys = ys[(ys + height > about.top()) & (ys < about.bottom())]
        left, top = (axis.reshape(-1) for axis in np.meshgrid(xs, ys))
        if last is not None:
            left, top = np.append(left, last.x()), np.append(top, last.y())
        return np.stack([left, top, left + width, top + height], axis=1)

    def _depth(self, boxes: np.ndarray, apart: float) -> np.ndarray:
        """How deep each box lies in each disc of the body, px, (K, N)."""
        left, top, right, bottom = boxes.T[:, :, None]
        x, y, radius = self._discs.T
        dx = np.maximum(np.maximum(left - x, x - right), 0.0)
        dy = np.maximum(np.maximum(top - y, y - bottom), 0.0)
        return np.maximum(radius + apart - np.hypot(dx, dy), 0.0)

    def _taken_by(self, boxes: np.ndarray) -> np.ndarray:
        """By how many things each box is taken, (K,)."""
        left, top, right, bottom = boxes.T
        count = np.zeros(len(boxes))
        for other in self._taken:
            across = np.minimum(right, other.right() + APART_PX) > np.maximum(left, other.left() - APART_PX)
            down = np.minimum(bottom, other.bottom() + APART_PX) > np.maximum(top, other.top() - APART_PX)
            count += across & down
        return count


def _edges(box: QRectF) -> tuple[float, float, float, float]:
    return box.left(), box.top(), box.right(), box.bottom()
