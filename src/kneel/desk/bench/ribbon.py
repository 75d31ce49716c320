"""The ribbon: the scrubber is the measurement. Drag to scrub, wheel to step, drag a pennant to pin."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QMenu, QSizePolicy, QWidget

from kneel.desk.bench.axis import TimeAxis
from kneel.desk.bench.lane import Lane
from kneel.desk.glyphs import pennant
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import MINUS, checkpoint_title, tr
from kneel.motion.measures import lanes_of

LEFT, RIGHT = 142, 26
FLAGS, AXIS, GAP = 54, 20, 8
FLAG_ROWS, FLAG_STEP = 3, 16.0
GRAB_PX = 9
MOST_LANES = 3


class Painted:
    """A picture that is painted anew only when what it shows has changed."""

    def __init__(self) -> None:
        self._made = QPixmap()
        self._about: tuple[object, ...] | None = None

    def layer(
        self, size: tuple[int, int, float], about: tuple[object, ...], paint: Callable[[QPainter], None]
    ) -> QPixmap:
        """The picture of ``size`` (width, height, device pixels each) about some things."""
        key = (size, *about)
        known = self._about
        # Large things are compared by being the same one, and held: an address is given away again.
        if known is None or not all(
            a is b or (isinstance(a, str | tuple) and a == b) for a, b in zip(key, known, strict=True)
        ):
            width, height, ratio = size
            self._made = QPixmap(round(width * ratio), round(height * ratio))
            self._made.setDevicePixelRatio(ratio)
            self._made.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter)
            painter.end()
            self._about = key
        return self._made


class Ribbon(QWidget):
    """Lanes of measures over real time, with the checkpoints as pennants."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._every: dict[str, Lane] = {}
        self._peg: str | None = None
        self._peg_frame = 0.0
        self._scrubbing = False
        self._axis: TimeAxis | None = None
        self._lanes_painted, self._whole_painted = Painted(), Painted()
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Ribbon: measures over time, with checkpoints"))
        for signal in (opened.numbers.renewed, opened.cursor.moved, opened.opened, look.changed):
            signal.connect(self.update)

    @property
    def lanes(self) -> list[Lane]:
        """Those that the swing's view asks for."""
        keys = lanes_of(self._open.swing.view)[:MOST_LANES]
        return [self._every.setdefault(key, Lane(self._open, self._look, key)) for key in keys]

    def sizeHint(self) -> QSize:
        return QSize(1000, 224)

    # Places

    @property
    def axis(self) -> TimeAxis | None:
        """How the frames lie along the ribbon, None where there is nothing to lay out."""
        times, width = self._open.times_s, max(self.width() - LEFT - RIGHT, 1)
        if len(times) < 2:
            return None
        if self._axis is None or self._axis.times_s is not times or self._axis.width != width:
            self._axis = TimeAxis(times, LEFT, width)
        return self._axis

    def x_of(self, frame: float) -> float:
        """Where a frame lies, by its real time."""
        axis = self.axis
        return LEFT if axis is None else axis.x_of(frame)

    def frame_at(self, x: float) -> float:
        """The frame, fractions allowed, at a place."""
        axis = self.axis
        return 0.0 if axis is None else axis.frame_at(x)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis = self.axis
        if axis is None:
            self._paint_empty(painter)
            return
        boxes = self._boxes()
        painter.drawPixmap(0, 0, self._still(axis, boxes))
        self._paint_cursor(painter)
        for lane, box in zip(self.lanes, boxes, strict=True):
            lane.paint_value(painter, box, axis)

    def _boxes(self) -> list[QRectF]:
        """Where each lane lies."""
        count = len(self.lanes)
        room = self.height() - FLAGS - AXIS - GAP * (count - 1)
        share = [0.6, 0.4] if count == 2 else [1 / count] * count
        top = float(FLAGS)
        boxes = []
        for part in share:
            boxes.append(QRectF(LEFT, top, self.width() - LEFT - RIGHT, room * part))
            top += room * part + GAP
        return boxes

    def _still(self, axis: TimeAxis, boxes: list[QRectF]) -> QPixmap:
        """Lanes and pennants, painted anew only when they have changed, and not at every step."""
        opened, size = self._open, (self.width(), self.height(), self.devicePixelRatioF())
        look = self._look.colours
        peg = (self._peg, self._peg_frame) if self._peg else None

        def lanes(painter: QPainter) -> None:
            for lane, box in zip(self.lanes, boxes, strict=True):
                lane.paint(painter, box, axis)
            self._paint_times(painter)

        under = self._lanes_painted.layer(size, (axis, opened.analysis, opened.swing.school, look), lanes)

        def both(painter: QPainter) -> None:
            painter.drawPixmap(0, 0, under)
            self._paint_pegs(painter)

        about = (axis, opened.analysis, opened.swing.school, opened.checkpoint, look, peg)
        return self._whole_painted.layer(size, about, both)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(12.5))
        painter.drawText(
            self.rect(),
            Qt.AlignmentFlag.AlignCenter,
            tr("The swing's measures run here once a clip is open."),
        )

    def _pegs(self) -> list[tuple[str, float, bool]]:
        """Name, frame and whether pinned, with the one being dragged where the hand is."""
        analysis = self._open.analysis
        if analysis is None:
            return []
        pegs = [(n, c.frame, c.source == "marked") for n, c in analysis.checkpoints.items()]
        return [(n, self._peg_frame, True) if n == self._peg else (n, f, m) for n, f, m in pegs]

    def _paint_pegs(self, painter: QPainter) -> None:
        current = self._open.checkpoint
        taken = [-1e9] * FLAG_ROWS
        for name, frame, pinned in self._pegs():
            x = self.x_of(frame)
            bold = name == current
            painter.setFont(font(11.5, 600 if bold else 400))
            title = tr(checkpoint_title(name))
            width = painter.fontMetrics().horizontalAdvance(title)
            lowest_first = range(FLAG_ROWS - 1, -1, -1)
            row = next((r for r in lowest_first if x >= taken[r]), int(np.argmin(taken)))
            taken[row] = x + width + 24
            y = 4.0 + FLAG_STEP * row
            painter.setPen(QPen(self._look.colour("faint", 0.55), 1))
            painter.drawLine(QPointF(x, y), QPointF(x, self.height() - AXIS))
            ink = self._look.colour("text")
            pen = QPen(ink, 1.2)
            if not pinned:
                pen.setDashPattern([2, 1.5])
            painter.setPen(pen)
            painter.setBrush(ink if pinned else Qt.BrushStyle.NoBrush)
            painter.drawPath(pennant(QPointF(x, y + 1)))
            painter.setPen(ink if bold else self._look.colour("secondary"))
            painter.drawText(QPointF(x + 13, y + 9), title)

    def _paint_cursor(self, painter: QPainter) -> None:
        x = self.x_of(self._open.cursor.frame)
        painter.setPen(QPen(self._look.colour("ink"), 1.6))
        painter.drawLine(QPointF(x, FLAGS - 4), QPointF(x, self.height() - AXIS + 4))

    def _paint_times(self, painter: QPainter) -> None:
        """Milliseconds of real time from address, or from the first frame."""
        times, analysis, axis = self._open.times_s, self._open.analysis, self.axis
        if axis is None:
            return
        zero = times[0]
        if analysis and "address" in analysis.checkpoints:
            zero = analysis.checkpoints["address"].time_s
        span = times[-1] - times[0]
        step = min((0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0), key=lambda s: abs(span / s - 10))
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        for k in range(int(np.ceil((times[0] - zero) / step)), int((times[-1] - zero) / step) + 1):
            x = axis.x_at_s(zero + k * step)
            text = f"{k * step * 1000:.0f} ms" if span < 8 else f"{k * step:g} s"
            box = QRectF(x - 40, self.height() - AXIS + 3, 80, AXIS - 3)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text.replace("-", MINUS))

    # Hands

    def _peg_at(self, at: QPointF) -> str | None:
        if at.y() > FLAGS:
            return None
        near = [(abs(self.x_of(f) + 4 - at.x()), n) for n, f, _ in self._pegs()]
        distance, name = min(near, default=(1e9, ""))
        return name if distance <= GRAB_PX else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if len(self._open.times_s) < 2 or event.button() is not Qt.MouseButton.LeftButton:
            return
        peg, analysis = self._peg_at(event.position()), self._open.analysis
        if peg and analysis is not None:
            shown = analysis.checkpoints[peg].shown
            self._peg, self._peg_frame = peg, float(shown)
            self._open.cursor.go(shown)
        else:
            self._scrubbing = True
            self._open.cursor.go(round(self.frame_at(event.position().x())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if len(self._open.times_s) < 2:
            return
        frame = self.frame_at(event.position().x())
        if self._peg:
            self._peg_frame = float(round(frame))
            self._open.cursor.go(round(frame))
            self.update()
        elif self._scrubbing:
            self._open.cursor.go(round(frame))
        else:
            over = self._peg_at(event.position())
            shape = Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            self.setToolTip(tr("Drag to pin, right-click to set free") if over else "")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        peg, self._peg, self._scrubbing = self._peg, None, False
        if peg and self._open.analysis:
            found = self._open.analysis.checkpoints.get(peg)
            if found is None or found.shown != self._peg_frame:
                self._open.document.pin(peg, self._peg_frame)
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        peg = self._peg_at(QPointF(event.pos()))
        if peg and peg in self._open.swing.pinned:
            menu = QMenu(self)
            free = menu.addAction(tr("Set free: find it again"))
            if free is not None:
                free.triggered.connect(lambda: self._open.document.pin(peg, None))
            menu.exec(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if abs(turn) >= 1:
            self._open.cursor.step(-round(turn))
