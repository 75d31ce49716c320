"""The stage: the canvas, and what the hands do on it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent

from kneel.desk.stage import captions
from kneel.desk.stage.gestures import DragPoint, DrawLength, DrawShape
from kneel.desk.stage.hands import HandledCanvas, Hands
from kneel.desk.stage.loupe import paint_empty, paint_loupe
from kneel.desk.stage.scene import HALO, INK, Held
from kneel.desk.stage.tools import Draw, MarkPoint, MeasureLength, PointOut, Tool
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.model.take import Drawn


class Stage(HandledCanvas):
    """The canvas with hands.

    ``placed`` tells that an armed point has been marked, ``gripped`` that the hand has taken hold of
    something, ``skipped`` that the next point is wanted, ``armed_changed`` that the next click does another
    thing, ``browse_wanted`` that the empty stage was clicked, ``laid`` that the picture has another place.
    """

    skipped = pyqtSignal()
    browse_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__(opened, look)
        self.hands = Hands(self, opened)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Picture of the swing"))

    # What the next click does

    def take_up(self, tool: Tool | None) -> None:
        """Let the next click do something; None lets go."""
        self.tool = tool
        self.hands.put_by()
        if tool is None:
            self._frame_once()
        else:
            self._open.stay()
        self.setCursor(Qt.CursorShape.CrossCursor if tool else Qt.CursorShape.ArrowCursor)
        self.armed_changed.emit()
        self.update()

    def arm(self, point: str | None) -> None:
        """Let the next click mark ``point``, named by lead and trail; None lets go."""
        self.take_up(MarkPoint(point) if point else None)

    def arm_length(self, length_cm: float, what: str) -> None:
        """Let the next drag mark something of known length."""
        self.take_up(MeasureLength(length_cm, what))

    def arm_golfer(self) -> None:
        """Let the next click say which of the people in the picture is the golfer."""
        self.take_up(PointOut())

    def draw(self, shape: str) -> None:
        """Let the next press draw."""
        self.take_up(Draw(shape))
        self.setFocus()

    def held(self) -> Held:
        gesture = self.hands.gesture
        return (gesture.point, gesture.place) if isinstance(gesture, DragPoint) else None

    def drawing(self) -> Drawn | None:
        gesture = self.hands.gesture
        return gesture.drawn if isinstance(gesture, DrawShape) else None

    def marking(self) -> bool:
        return self.armed is not None

    def _frame_once(self) -> None:
        if self.tool is None:
            super()._frame_once()

    def _begin(self) -> None:
        super()._begin()
        self.take_up(None)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._open.store is None:
            painter.fillRect(self.rect(), self._look.colour("ground"))
            paint_empty(painter, self._look, self.rect())
            return
        self.paint(painter)
        if self.tool is not None:
            hint = self.tool.hint()
            if isinstance(self.hands.gesture, DrawShape) and self.hands.gesture.asks == "leg":
                hint = tr("Click on the other leg · Esc to leave it")
            captions.paint_hint(painter, self.scene(), hint, self._look)
        gesture = self.hands.gesture
        if isinstance(gesture, DrawLength):
            self._paint_length(painter, gesture)
        if isinstance(gesture, DragPoint):
            paint_loupe(painter, self.view, self._open, gesture.place, self.rect())

    def _paint_length(self, painter: QPainter, gesture: DrawLength) -> None:
        start, stop = self.view.to_widget(*gesture.start), self.view.to_widget(*gesture.stop)
        for pen in (QPen(HALO, 4), QPen(INK, 1.8)):
            painter.setPen(pen)
            painter.drawLine(start, stop)

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._open.store is None:
            self.browse_wanted.emit()
        else:
            self.hands.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.hands.release(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.25**turn, event.position())
        elif self.hands.gesture is None:
            self._open.cursor.step(-round(turn) if abs(turn) >= 1 else 0)

    def event(self, event: QEvent | None) -> bool:
        override = isinstance(event, QKeyEvent) and event.type() is QEvent.Type.ShortcutOverride
        if override and self.hands.claims(event):
            event.accept()
            return True
        return super().event(event)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab goes to the next point while points are being marked, else to the next part of the desk."""
        if self.armed and next:
            self.skipped.emit()
            return True
        return super().focusNextPrevChild(next)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.hands.key(event):
            super().keyPressEvent(event)

    def cancel(self) -> None:
        """Give up a gesture under way, else what is armed."""
        self.hands.cancel()
