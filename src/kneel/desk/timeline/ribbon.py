"""The ribbon: the scrubber is the measurement. Drag to scrub, wheel to step, drag a pennant to pin."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.timeline.axis import TimeAxis
from kneel.desk.timeline.lane import Lane
from kneel.desk.timeline.painted import Painted
from kneel.desk.timeline.pegs import Peg, Placed, head_px, paint_pegs, peg_near, placed, rows_of
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import MINUS, tr
from kneel.desk.widgets.text import CENTRE, tip, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.model.sight import MOST_LANES
from kneel.motion.measures import REGISTRY, Domain, lanes_of
from kneel.motion.study import Study
from kneel.speech.units import spoken_unit

LEFT, NARROW_LEFT, RIGHT = 148, 116, 22
AXIS, GAP = 20, 8
PEGS_RIGHT = 4.0
NARROW = 760
USUAL_LANES = 3
CLOSEST_S = 0.12


class Ribbon(QWidget):
    """Lanes of measures over real time, with the checkpoints as pennants.

    ``lanes_wanted`` tells that the lanes' names were clicked.
    """

    lanes_wanted = pyqtSignal()
    cut_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._every: dict[str, Lane] = {}
        self._peg: str | None = None
        self._peg_frame = 0.0
        self._scrubbing = False
        self._panned: tuple[float, tuple[float, float]] | None = None
        self._hover: QPointF | None = None
        self._span: tuple[float, float] | None = None
        self._axis: TimeAxis | None = None
        self._rows: tuple[TimeAxis | None, Study | None, int] = (None, None, 1)
        self._painted: dict[str, Painted] = {}
        self._whole_painted = Painted()
        self.setMinimumSize(QSize(360, 190))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Ribbon: measures over time, with checkpoints"))
        for signal in (opened.numbers.renewed, opened.opened, opened.sighted, look.changed):
            signal.connect(self.update)
        opened.cursor.moved.connect(self._follow)
        opened.opened.connect(self.whole)

    # Lanes

    @property
    def keys(self) -> tuple[str, ...]:
        """The measures shown: those chosen, else those that the swing's view asks for."""
        view = self._open.swing.view
        chosen = tuple(k for k in self._open.sight.lanes if k in REGISTRY and view in REGISTRY[k].views)
        return chosen or tuple(lanes_of(view)[:USUAL_LANES])

    @property
    def lanes(self) -> list[Lane]:
        for key in self.keys:
            if key not in self._every:
                self._every[key] = Lane(self._open, self._look, key)
        return [self._every[key] for key in self.keys]

    def choose_lanes(self) -> Chooser | None:
        """Let measures be chosen by typing; a choice comes on the ribbon, or goes from it."""
        if self._open.store is None:
            return None
        view, now = self._open.swing.view, self.keys
        entries = [
            m for m in REGISTRY.values() if view in m.views and m.domain is Domain.FRAMES and not m.recorded
        ]
        entries.sort(key=lambda m: (m.key not in now, m.title))
        choices = [
            Choice(tr(m.title), lambda k=m.key: self.toggle(k), detail=tr(m.positive), checked=m.key in now)
            for m in entries
        ]
        chooser = Chooser(self, self._look, tr("Measures on the ribbon"), choices, typing=True)
        chooser.open()
        return chooser

    def toggle(self, key: str) -> None:
        """Show a measure, or no longer; of more than four the one that was there longest goes."""
        now = self.keys
        new = tuple(k for k in now if k != key) if key in now else (*now, key)[-MOST_LANES:]
        if new:
            self._open.look_at(lanes=new)

    def sizeHint(self) -> QSize:
        return QSize(1000, 224)

    # Places

    @property
    def left(self) -> int:
        return NARROW_LEFT if self.width() < NARROW else LEFT

    @property
    def axis(self) -> TimeAxis | None:
        """How the frames lie along the ribbon, None where there is nothing to lay out."""
        times, width = self._open.times_s, max(self.width() - self.left - RIGHT, 1)
        if len(times) < 2:
            return None
        known = self._axis
        shown = self._span or (float(times[0]), float(times[-1]))
        if known is None or known.times_s is not times or known.width != width or known.shown != shown:
            self._axis = TimeAxis(times, self.left, width, shown)
        return self._axis

    @property
    def rows(self) -> int:
        """Rows of pennants, as many as the checkpoints need; a peg under the hand does not move the lanes."""
        axis, analysis = self.axis, self._open.analysis
        if self._rows[0] is not axis or self._rows[1] is not analysis:
            points = analysis.checkpoints if analysis is not None and axis is not None else {}
            pegs = [Peg(name, found.frame, pinned=True) for name, found in points.items()]
            rows = rows_of(pegs, axis, self.width() - PEGS_RIGHT) if axis is not None else 1
            self._rows = axis, analysis, rows
        return self._rows[2]

    @property
    def head(self) -> int:
        """The height over the lanes that the pennants take, px."""
        return head_px(self.rows)

    def x_of(self, frame: float) -> float:
        """Where a frame lies, by its real time."""
        axis = self.axis
        return self.left if axis is None else axis.x_of(frame)

    def frame_at(self, x: float) -> float:
        """The frame, fractions allowed, at a place."""
        axis = self.axis
        return 0.0 if axis is None else axis.frame_at(x)

    def whole(self) -> None:
        """Show all of the swing."""
        self._span = None
        self.update()

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Zoom in time about a place, or about the cursor."""
        axis = self.axis
        if axis is None:
            return
        times = self._open.times_s
        about = axis.s_at(x) if x is not None else float(times[self._open.cursor.frame])
        first, last = axis.shown
        length = max((last - first) / factor, CLOSEST_S)
        share = (about - first) / max(last - first, 1e-9)
        self._show(about - share * length, length)

    def _show(self, first: float, length: float) -> None:
        times = self._open.times_s
        whole = float(times[-1] - times[0])
        if length >= whole:
            self._span = None
        else:
            first = min(max(first, float(times[0])), float(times[-1]) - length)
            self._span = (first, first + length)
        self.update()

    def _follow(self, frame: int) -> None:
        """Keep the cursor in what is shown."""
        axis = self.axis
        if axis is not None and self._span is not None and not axis.holds(axis.x_of(frame)):
            length = self._span[1] - self._span[0]
            self._show(float(self._open.times_s[frame]) - length / 2, length)
        self.update()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis = self.axis
        if axis is None:
            words = (
                tr("A held pose has no course: its numbers stand beside the picture.")
                if self._open.store is not None
                else tr("The swing’s measures run here once a clip is open.")
            )
            write(painter, QRectF(self.rect()), words, font(12.5), self._look.colour("secondary"), CENTRE)
            return
        boxes = self._boxes()
        painter.drawPixmap(0, 0, self._still(axis, boxes))
        self._paint_cursor(painter, axis)
        for lane, box in zip(self.lanes, boxes, strict=True):
            lane.paint_value(painter, box, axis)
        self._paint_hover(painter, axis, boxes)
        if self.hasFocus():
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _boxes(self) -> list[QRectF]:
        """Where each lane lies."""
        count = len(self.lanes)
        room = self.height() - self.head - AXIS - GAP * (count - 1)
        share = [0.6, 0.4] if count == 2 else [1 / count] * count
        top = float(self.head)
        boxes = []
        for part in share:
            boxes.append(QRectF(self.left, top, self.width() - self.left - RIGHT, room * part))
            top += room * part + GAP
        return boxes

    def _still(self, axis: TimeAxis, boxes: list[QRectF]) -> QPixmap:
        """Lanes and pennants, painted anew only when they have changed, and not at every step."""
        opened, size = self._open, (self.width(), self.height(), self.devicePixelRatioF())
        look, keys = self._look.colours, self.keys
        peg = (self._peg, self._peg_frame) if self._peg else None

        reading = opened.numbers.reading
        layers = [self._lane(lane, box, axis) for lane, box in zip(self.lanes, boxes, strict=True)]

        def both(painter: QPainter) -> None:
            for box, layer in zip(boxes, layers, strict=True):
                painter.drawPixmap(QPointF(0, box.top()), layer)
            self._paint_times(painter, axis)
            paint_pegs(painter, self._look, self._placed(axis), opened.checkpoint, self.height() - AXIS)

        about = (axis, opened.analysis, reading, keys, opened.checkpoint, look, peg, spoken_unit("cm"))
        return self._whole_painted.layer(size, about, both)

    def _lane(self, lane: Lane, box: QRectF, axis: TimeAxis) -> QPixmap:
        """One lane's picture with its title, of the whole width."""
        size = (self.width(), round(box.height()) + 1, self.devicePixelRatioF())
        here = QRectF(box.left(), 0, box.width(), box.height())
        about = (axis, self._open.figures_of(lane.key), self._look.colours, f"{here}", spoken_unit("cm"))
        held = self._painted.setdefault(lane.key, Painted())
        return held.layer(size, about, lambda painter: lane.paint(painter, here, axis))

    def _pegs(self) -> list[Peg]:
        """The checkpoints, the one being dragged where the hand is."""
        analysis = self._open.analysis
        if analysis is None:
            return []
        return [
            Peg(n, self._peg_frame, pinned=True) if n == self._peg else Peg(n, c.frame, c.source == "marked")
            for n, c in analysis.checkpoints.items()
        ]

    def _placed(self, axis: TimeAxis) -> list[Placed]:
        return placed(self._pegs(), axis, self._open.checkpoint, self.width() - PEGS_RIGHT, self.rows)

    def _paint_cursor(self, painter: QPainter, axis: TimeAxis) -> None:
        x = axis.x_of(self._open.cursor.frame)
        if axis.holds(x):
            painter.setPen(QPen(self._look.colour("ink"), 1.6))
            painter.drawLine(QPointF(x, self.head - 4), QPointF(x, self.height() - AXIS + 4))

    def _paint_hover(self, painter: QPainter, axis: TimeAxis, boxes: list[QRectF]) -> None:
        """What the lane under the hand says there."""
        at = self._hover
        if at is None or self._scrubbing or self._peg:
            return
        for lane, box in zip(self.lanes, boxes, strict=True):
            if not box.contains(at):
                continue
            frame = round(axis.frame_at(at.x()))
            words = lane.told(frame)
            if not words or frame == self._open.cursor.frame:
                return
            unsure = lane.suspected()
            if frame < len(unsure) and unsure[frame]:
                words += " · " + tr("unsure here")
            painter.setPen(QPen(self._look.colour("faint"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()))
            type_ = font(11.5)
            width = wide(words, type_) + 14
            left = min(max(at.x() - width / 2, box.left()), box.right() - width)
            tag = QRectF(left, box.top() + 2, width, 19)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.colour("raised"))
            painter.drawRoundedRect(tag, 5, 5)
            write(painter, tag, words, type_, self._look.colour("text"), CENTRE)

    def _paint_times(self, painter: QPainter, axis: TimeAxis) -> None:
        """Milliseconds of real time from address, or from the first frame."""
        analysis, (first, last) = self._open.analysis, axis.shown
        zero = float(self._open.times_s[0])
        if analysis and "address" in analysis.checkpoints:
            zero = analysis.checkpoints["address"].time_s
        span = last - first
        most = max(axis.width / 90.0, 2.0)
        steps = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0)
        step = next((s for s in steps if span / s <= most), steps[-1])
        type_, colour = font(11.5), self._look.colour("secondary")
        for k in range(int(np.ceil((first - zero) / step)), int((last - zero) / step) + 1):
            x = axis.x_at_s(zero + k * step)
            text = f"{k * step * 1000:.0f} ms" if span < 8 else f"{k * step:g} s"
            box = QRectF(x - 40, self.height() - AXIS + 3, 80, AXIS - 3)
            if box.right() <= self.width() and box.left() >= self.left - 50:
                write(painter, box, text.replace("-", MINUS), type_, colour, CENTRE)

    # Hands

    def _peg_at(self, at: QPointF) -> str | None:
        axis = self.axis
        return None if axis is None or at.y() > self.head else peg_near(self._placed(axis), at)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        axis = self.axis
        if axis is None:
            return
        at = event.position()
        if event.button() is Qt.MouseButton.MiddleButton:
            self._panned = at.x(), axis.shown
            return
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        peg, analysis = self._peg_at(at), self._open.analysis
        if peg and analysis is not None:
            shown = analysis.checkpoints[peg].shown
            self._peg, self._peg_frame = peg, float(shown)
            self._open.cursor.go(shown)
        elif at.x() < self.left - 4 and at.y() > self.head:
            self.lanes_wanted.emit()
        else:
            self._scrubbing = True
            self._open.cursor.go(round(self.frame_at(at.x())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        axis = self.axis
        if axis is None:
            return
        at = event.position()
        self._hover = at
        frame = self.frame_at(at.x())
        if self._panned is not None:
            start, (first, last) = self._panned
            self._show(first - (at.x() - start) / axis.per_s, last - first)
        elif self._peg:
            self._peg_frame = float(round(frame))
            self._open.cursor.go(round(frame))
            self.update()
        elif self._scrubbing:
            self._open.cursor.go(round(frame))
        else:
            self._point(at)
            self.update()

    def _point(self, at: QPointF) -> None:
        """What the hand would take hold of here."""
        over = self._peg_at(at)
        names = at.x() < self.left - 4 and at.y() > self.head
        hand = Qt.CursorShape.PointingHandCursor if names else Qt.CursorShape.ArrowCursor
        self.setCursor(Qt.CursorShape.SizeHorCursor if over else hand)
        words = tr("%s: drag to pin, right-click to set free") % tr(checkpoint_title(over)) if over else ""
        self.setToolTip(tip(words or (tr("Choose the measures shown (R)") if names else "")))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        peg, self._peg, self._scrubbing, self._panned = self._peg, None, False, None
        if peg and self._open.analysis:
            found = self._open.analysis.checkpoints.get(peg)
            if found is None or found.shown != self._peg_frame:
                self._open.document.pin(peg, self._peg_frame)
        self.update()

    def cancel(self) -> bool:
        """Give up a peg under the hand, which stays where it was; False where there is none."""
        held, self._peg, self._scrubbing, self._panned = self._peg is not None, None, False, None
        self.update()
        return held

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = None
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        peg = self._peg_at(QPointF(event.pos()))
        if peg and peg in self._open.swing.pinned:
            free = Choice(tr("Set free: find it again"), lambda: self._open.document.pin(peg, None))
            Chooser(self, self._look, tr(checkpoint_title(peg)), [free]).open(self)
        elif self.axis is not None and self._open.store is not None:
            self._open.cursor.go(round(self.axis.frame_at(event.pos().x())))
            self.cut_wanted.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.3**turn, event.position().x())
        elif abs(turn) >= 1:
            self._open.cursor.step(-round(turn))
