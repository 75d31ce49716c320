"""What the mouse does on the stage: it holds points, what is drawn, or the picture, or uses the tool."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QLineEdit

from kneel.desk.stage import drawing
from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.facts import points_at
from kneel.desk.stage.gestures import DragPoint, DrawShape, Gesture, MoveDrawn, Pan
from kneel.desk.stage.tools import MarkPoint, Tool
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip
from kneel.model import Mark, anatomical, side_of

GRAB_PX = 14
NUDGE_PX = 0.25
STEP_TIMES, FAR_TIMES = 4.0, 40.0
"""A point that is being set by keyboard goes by a whole pixel, or by ten."""

NUDGES = {
    Qt.Key.Key_Left: (-NUDGE_PX, 0.0),
    Qt.Key.Key_Right: (NUDGE_PX, 0.0),
    Qt.Key.Key_Up: (0.0, -NUDGE_PX),
    Qt.Key.Key_Down: (0.0, NUDGE_PX),
}


class HandledCanvas(Canvas):
    """A canvas on which hands work: what the next click does, and what tells of it."""

    armed_changed = pyqtSignal()
    placed = pyqtSignal()
    gripped = pyqtSignal()
    tool: Tool | None = None

    @property
    def armed(self) -> str | None:
        """The point that the next click marks, by lead and trail."""
        return self.tool.point if isinstance(self.tool, MarkPoint) else None

    def take_up(self, tool: Tool | None) -> None:
        """Let the next click do something; None lets go."""
        raise NotImplementedError


class Hands:
    """One gesture at a time, from press to release, or given up by Esc."""

    def __init__(self, stage: HandledCanvas, opened: OpenSwing) -> None:
        self._stage, self._open = stage, opened
        self.gesture: Gesture | None = None
        self.aimed: tuple[float, float] | None = None
        """Where the armed point is being set by keyboard, px of the picture."""

        self._word = QLineEdit(stage)
        self._word.setAccessibleName(tr("Words to write on the picture"))
        self._word.hide()
        self._word.returnPressed.connect(self._write_word)

    def put_by(self) -> None:
        """The tool has changed: words begun are not wanted, nor a point that is being set by keyboard."""
        self._word.hide()
        if self.aimed is not None:
            self.aimed = None
            self._open.document.drop_preview()

    def press(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._open.store is None:
            return
        if isinstance(self.gesture, DrawShape) and self.gesture.asks:
            return
        if event.button() is Qt.MouseButton.MiddleButton:
            self.gesture = Pan(self._stage.view, at)
        elif event.button() is Qt.MouseButton.LeftButton:
            # What is taken hold of stands on one frame; the picture must not run away under the hand.
            self._stage.gripped.emit()
            self.gesture = self._begin_gesture(at)
        self._stage.update()

    def _begin_gesture(self, at: QPointF) -> Gesture | None:
        view, opened = self._stage.view, self._open
        if not view.shown.contains(at):
            return None
        if self._stage.tool is not None:
            gesture = self._stage.tool.begin(opened, view, at)
            if isinstance(gesture, DragPoint):
                self._stage.selected = gesture.point
            elif gesture is None:
                self._stage.take_up(None)
            return gesture
        near = self._nearest(at)
        self._stage.selected = near[0] if near else None
        if near:
            self._stage.drawn = None
            return DragPoint(opened, view, near[0], at, near[1])
        self._stage.drawn = drawing.nearest_drawn(self._stage.scene(), at)
        if self._stage.drawn is not None:
            return MoveDrawn(opened, view, self._stage.drawn, at, drawing.moved)
        return Pan(view, at)

    def _nearest(self, at: QPointF) -> tuple[str, QPointF] | None:
        places = [(p.name, self._stage.view.to_widget(p.x, p.y)) for p in points_at(self._open)]
        reach = [(QPointF.dotProduct(place - at, place - at), name, place) for name, place in places]
        best = min(reach, default=None, key=lambda r: r[0])
        return (best[1], best[2]) if best and best[0] <= GRAB_PX**2 else None

    def move(self, event: QMouseEvent) -> None:
        if self.gesture is not None:
            self.gesture.move(event.position())
            if isinstance(self.gesture, Pan):
                self._stage.forget_places()
            self._stage.update()
        elif self._stage.tool is None:
            near = self._nearest(event.position()) if self._open.store else None
            self._stage.setCursor(Qt.CursorShape.OpenHandCursor if near else Qt.CursorShape.ArrowCursor)
            self._stage.setToolTip(tip(self._tip(near[0]) if near else ""))

    def _tip(self, name: str) -> str:
        side = side_of(name, self._open.swing.hand)
        joint = name.rsplit("_", maxsplit=1)[-1] if side else name
        sure = next((p.sigma for p in points_at(self._open) if p.name == name), 0.0)
        words = f"{side} {joint}" if side else joint
        return tr("%s, ± %.1f px. Drag to correct, Delete to unmark.") % (words, sure)

    def release(self, event: QMouseEvent) -> None:
        gesture = self.gesture
        if gesture is None:
            return
        gesture.end(event.position())
        if isinstance(gesture, DrawShape) and not gesture.finished:
            if gesture.asks == "word":
                self._ask_word(event.position())
            self._stage.update()
            return
        self.gesture = None
        if isinstance(gesture, DragPoint) and self._stage.armed:
            self._stage.placed.emit()
        elif self._stage.tool is not None and not self._stage.tool.stays:
            self._stage.take_up(None)
        self._stage.update()

    def _ask_word(self, at: QPointF) -> None:
        self._word.clear()
        self._word.setGeometry(
            round(at.x()), round(at.y()) - 14, min(220, self._stage.width() - round(at.x())), 30
        )
        self._word.show()
        self._word.setFocus()

    def _write_word(self) -> None:
        gesture, self.gesture = self.gesture, None
        if isinstance(gesture, DrawShape):
            gesture.word(self._word.text())
        self._stage.take_up(None)
        self._stage.setFocus()

    def claims(self, event: QKeyEvent) -> bool:
        """Whether an arrow is meant for what the hand holds, and not for the next frame."""
        alt = event.modifiers() & Qt.KeyboardModifier.AltModifier
        held = isinstance(self.gesture, DragPoint) or self.aimed or (self._stage.selected and alt)
        return bool(held) and event.key() in NUDGES

    def key(self, event: QKeyEvent) -> bool:
        """Nudge by a key; False where the key means something else."""
        way = NUDGES.get(event.key())
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._stage.armed:
            self._set_armed()
        elif way and self.aimed is not None:
            self._aim_on(*way, event.modifiers())
        elif way and isinstance(self.gesture, DragPoint):
            self.gesture.nudge(*way)
            self._stage.update()
        elif way and self._stage.selected and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.nudge_selected(*way)
        else:
            return False
        return True

    def _set_armed(self) -> None:
        """Take up the armed point where it is believed to be; asked again, leave it there as a mark."""
        assert self._stage.armed is not None
        name, frame = anatomical(self._stage.armed, self._open.swing.hand), self._open.cursor.frame
        if self.aimed is None:
            known = next(((p.x, p.y) for p in points_at(self._open) if p.name == name), None)
            self.aimed = known or self._stage.view.to_picture(QPointF(self._stage.rect().center()))
            self._stage.selected = name
            self._preview(name, frame)
            return
        (x, y), self.aimed = self.aimed, None
        self._open.document.place(name, frame, x, y)
        self._stage.placed.emit()

    def _aim_on(self, dx: float, dy: float, held: Qt.KeyboardModifier) -> None:
        """A pixel further by an arrow key; with Shift ten, with Alt a quarter."""
        times = STEP_TIMES
        if held & Qt.KeyboardModifier.ShiftModifier:
            times = FAR_TIMES
        elif held & Qt.KeyboardModifier.AltModifier:
            times = 1.0
        assert self.aimed is not None and self._stage.armed is not None
        self.aimed = self.aimed[0] + times * dx, self.aimed[1] + times * dy
        self._preview(anatomical(self._stage.armed, self._open.swing.hand), self._open.cursor.frame)

    def _preview(self, name: str, frame: int) -> None:
        assert self.aimed is not None
        now = self._open.document.now
        self._open.document.preview(now.with_mark(Mark(name, frame, *self.aimed)))
        self._stage.update()

    def nudge_selected(self, dx: float, dy: float) -> None:
        """Move the selected point by fractions of a pixel, as a mark on this frame."""
        here = next((p for p in points_at(self._open) if p.name == self._stage.selected), None)
        if here is not None:
            frame = self._open.cursor.frame
            self._open.document.place(here.name, frame, here.x + dx, here.y + dy)

    def cancel(self) -> None:
        """Give up a gesture under way, else what is armed."""
        if self.gesture is not None:
            self.gesture.cancel()
            self.gesture = None
            if self._stage.tool is not None and not self._stage.tool.stays:
                self._stage.take_up(None)
        else:
            self._stage.take_up(None)
            self._stage.selected = self._stage.drawn = None
        self._stage.update()
