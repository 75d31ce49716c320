"""The ribbon: the scrubber is the measurement. Drag to scrub, wheel to step, drag a pennant to pin."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.timeline.axis import TimeAxis, Zoom
from kneel.desk.timeline.choice import LaneChoice
from kneel.desk.timeline.lane import RibbonLane
from kneel.desk.timeline.paint import boxes_of, paint_cursor, paint_hover, paint_times
from kneel.desk.timeline.painted import Painted
from kneel.desk.timeline.pegs import head_px, paint_pegs
from kneel.desk.timeline.pennants import Pennants
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, tip, write
from kneel.desk.widgets.theme import Look, font
from kneel.speech.units import spoken_unit

LEFT, NARROW_LEFT, RIGHT = 148, 116, 22
AXIS = 20
NARROW = 760


class Ribbon(QWidget):
    """Lanes of measures over real time, with the checkpoints as pennants.

    ``lanes_wanted`` tells that the lanes' names were clicked.
    """

    lanes_wanted = pyqtSignal()
    cut_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.choice = LaneChoice(opened, look)
        self._zoom = Zoom()
        self.pennants = Pennants(opened)
        self._scrubbing = False
        self._panned: tuple[float, tuple[float, float]] | None = None
        self._hover: QPointF | None = None
        self._painted: dict[str, Painted] = {}
        self._whole_painted = Painted()
        self.setMinimumSize(QSize(360, 190))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Ribbon: measures over time, with checkpoints"))
        for signal in (
            opened.numbers.renewed,
            opened.opened,
            opened.sighted,
            opened.aim.changed,
            look.changed,
        ):
            signal.connect(self.update)
        opened.cursor.moved.connect(self._follow)
        opened.opened.connect(self.whole)

    # Places

    @property
    def left(self) -> int:
        return NARROW_LEFT if self.width() < NARROW else LEFT

    @property
    def axis(self) -> TimeAxis | None:
        """How the frames lie along the ribbon, None where there is nothing to lay out."""
        return self._zoom.axis(self._open.times_s, self.left, max(self.width() - self.left - RIGHT, 1))

    def sizeHint(self) -> QSize:
        return QSize(1000, 224)

    @property
    def rows(self) -> int:
        """Rows of pennants, as many as the checkpoints need; one under the hand does not move the lanes."""
        return self.pennants.rows(self.axis, self.width())

    @property
    def head(self) -> int:
        """The height over the lanes that the pennants take, px."""
        return head_px(self.rows)

    def x_of(self, frame: float) -> float:
        """Where a frame lies, by its real time."""
        axis = self.axis
        return self.left if axis is None else axis.x_of(frame)

    def whole(self) -> None:
        """Show all of the swing."""
        self._zoom.whole()
        self.update()

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Zoom in time about a place, or about the cursor."""
        axis = self.axis
        if axis is not None:
            about = axis.s_at(x) if x is not None else float(axis.times_s[self._open.cursor.frame])
            self._zoom.by(axis, factor, about)
            self.update()

    def _follow(self, frame: int) -> None:
        """Keep the cursor in what is shown."""
        axis = self.axis
        if axis is not None:
            self._zoom.follow(axis, frame)
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
        cursor, lanes = self._open.cursor.frame, self.choice.lanes
        paint_cursor(painter, self._look, axis.x_of(cursor), axis, self.head - 4, self.height() - AXIS + 4)
        for lane, box in zip(lanes, boxes, strict=True):
            lane.paint_aim(painter, box, axis)
            lane.paint_value(painter, box, axis)
        if self._hover is not None and not self._scrubbing and not self.pennants.held:
            paint_hover(painter, self._look, zip(lanes, boxes, strict=True), axis, self._hover, cursor)
        if self.hasFocus():
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _boxes(self) -> list[QRectF]:
        """Where each lane lies."""
        room = QRectF(
            self.left, self.head, self.width() - self.left - RIGHT, self.height() - self.head - AXIS
        )
        return boxes_of(room, len(self.choice.lanes))

    def _still(self, axis: TimeAxis, boxes: list[QRectF]) -> QPixmap:
        """Lanes and pennants, painted anew only when they have changed, and not at every step."""
        opened, size = self._open, (self.width(), self.height(), self.devicePixelRatioF())
        look, keys = self._look.colours, self.choice.keys
        peg = self.pennants.held

        reading = opened.numbers.reading
        layers = [self._lane(lane, box, axis) for lane, box in zip(self.choice.lanes, boxes, strict=True)]

        study = opened.analysis
        address = study.checkpoints.get("address") if study is not None else None
        zero = address.time_s if address is not None else float(opened.times_s[0])

        def both(painter: QPainter) -> None:
            for box, layer in zip(boxes, layers, strict=True):
                painter.drawPixmap(QPointF(0, box.top()), layer)
            paint_times(painter, self._look, axis, zero, self.height() - AXIS, self.width())
            paint_pegs(
                painter,
                self._look,
                self.pennants.placed(axis, self.width()),
                opened.checkpoint,
                self.height() - AXIS,
            )

        about = (axis, opened.analysis, reading, keys, opened.checkpoint, look, peg, spoken_unit("cm"))
        return self._whole_painted.layer(size, about, both)

    def _lane(self, lane: RibbonLane, box: QRectF, axis: TimeAxis) -> QPixmap:
        """One lane's picture with its title, of the whole width."""
        size = (self.width(), round(box.height()) + 1, self.devicePixelRatioF())
        here = QRectF(box.left(), 0, box.width(), box.height())
        about = (axis, self._open.figures_of(lane.key), self._look.colours, f"{here}", spoken_unit("cm"))
        held = self._painted.setdefault(lane.key, Painted())
        return held.layer(size, about, lambda painter: lane.paint(painter, here, axis))

    # Hands

    def _peg_at(self, at: QPointF) -> str | None:
        axis = self.axis
        return None if axis is None or at.y() > self.head else self.pennants.near(axis, self.width(), at)

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
            self.pennants.held = peg, float(shown)
            self._open.cursor.go(shown)
        elif at.x() < self.left - 4 and at.y() > self.head:
            self.lanes_wanted.emit()
        else:
            self._scrubbing = True
            self._open.cursor.go(round(axis.frame_at(at.x())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        axis = self.axis
        if axis is None:
            return
        at = event.position()
        self._hover = at
        frame = axis.frame_at(at.x())
        if self._panned is not None:
            start, (first, last) = self._panned
            self._zoom.show(axis, first - (at.x() - start) / axis.per_s, last - first)
            self.update()
        elif self.pennants.held:
            self.pennants.held = self.pennants.held[0], float(round(frame))
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
        held, analysis = self.pennants.held, self._open.analysis
        self.cancel()
        if held and analysis:
            peg, frame = held
            found = analysis.checkpoints.get(peg)
            if found is None or found.shown != frame:
                self._open.document.pin(peg, frame)
        self.update()

    def choose_lanes(self) -> None:
        """Let measures be chosen by typing; a choice comes on the ribbon, or goes from it."""
        self.choice.choose(self)

    def cancel(self) -> bool:
        """Give up a peg under the hand, which stays where it was; False where there is none."""
        held = self.pennants.held is not None
        self.pennants.held, self._scrubbing, self._panned = None, False, None
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
