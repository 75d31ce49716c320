"""One of the two pictures: a stage of its own, or a part of one that both share."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QRegion, QWheelEvent

from kneel.desk.stage.gestures import Pan
from kneel.desk.stage.scene import Scene
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, write
from kneel.desk.widgets.theme import Look, font


class PairCanvas(Stage):
    """The stage of one of two swings.

    ``stepped`` tells by how many of its frames the wheel went, ``put`` that the hand has zoomed or moved the
    picture. It can stand on a ``moment`` of its own, be seen in a part alone, and have something painted over
    it.
    """

    stepped = pyqtSignal(int)
    put = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look, name: str) -> None:
        super().__init__(opened, look)
        self.moment: int | None = None
        """The frame it stands on; None where that is the cursor's."""

        self.over: Callable[[QPainter], None] | None = None
        self._seen_part: QRect | None = None
        self.setMinimumSize(QSize(200, 160))
        self.setAccessibleName(tr("Picture of %s") % name)

    def show_part(self, part: QRect | None) -> None:
        """Show only a part of it, so that what lies under the rest is seen; None for all of it."""
        if part == self._seen_part:
            return
        self._seen_part = part
        if part is None:
            self.clearMask()
        else:
            self.setMask(QRegion(part))
        self.forget_places()
        self.update()

    @property
    def seen_part(self) -> QRect:
        """The part of it that can be seen."""
        return self.rect() if self._seen_part is None else self._seen_part

    def scene(self) -> Scene:
        scene = super().scene()
        scene.area = scene.area.intersected(QRectF(self.seen_part))
        return scene

    def paint(self, painter: QPainter) -> None:
        if self._open.store is None:
            painter.fillRect(self.rect(), self._look.colour("panel"))
            words = tr("No swing is here yet.")
            write(painter, QRectF(self.rect()), words, font(12.5), self._look.colour("secondary"), CENTRE)
            return
        if self.moment is None:
            super().paint(painter)
        else:
            with self._open.cursor.glance(self.moment):
                super().paint(painter)
        if self.over is not None:
            painter.save()
            painter.setClipRect(self.view.shown, Qt.ClipOperation.IntersectClip)
            self.over(painter)
            painter.restore()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._open.store is not None:
            super().paintEvent(event)
            return
        self.paint(QPainter(self))

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        self.view.zoom_at(at or QPointF(self.rect().center()), factor, smallest=0.05)
        self._moved_view()
        self.put.emit()

    def _frame_once(self) -> None:
        # Both are laid together.
        return

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().wheelEvent(event)
        else:
            self.stepped.emit(-1 if event.angleDelta().y() > 0 else 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self._open.store is not None and self.moment is None:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._open.store is None or self.moment is not None:
            return
        super().mouseMoveEvent(event)
        if isinstance(self.hands.gesture, Pan):
            self.put.emit()
