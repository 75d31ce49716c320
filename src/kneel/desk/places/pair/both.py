"""How the two pictures lie: beside each other, one under the other, in one place, with an edge between."""

from __future__ import annotations

from enum import Enum

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from kneel.desk.places.pair.canvas import PairCanvas
from kneel.desk.stage.scene import HALO, INK
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip

GAP = 8
WIDE = 17
STEP = 0.02
NEAREST = 0.04


class Shown(Enum):
    """How the two are looked at."""

    BESIDE = "side by side"
    UNDER = "over and under"
    WIPE = "wipe"
    GHOST = "outline over it"
    FLIP = "one at a time"


class Edge(QWidget):
    """The edge between two pictures in one place; ``moved`` tells where it is drawn to, px of its parent."""

    moved = pyqtSignal(float)
    nudged = pyqtSignal(float)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Edge between both pictures"))
        self.setToolTip(tip(tr("Drag to uncover one or the other; by keyboard with the arrows")))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.rect().toRectF().center()
        for pen in (QPen(HALO, 5), QPen(INK, 2 if not self.hasFocus() else 3)):
            painter.setPen(pen)
            painter.drawLine(QPointF(middle.x(), 0), QPointF(middle.x(), self.height()))
        painter.setPen(QPen(HALO, 1.5))
        painter.setBrush(INK)
        painter.drawRoundedRect(QRectF(middle.x() - 5, middle.y() - 17, 10, 34), 5, 5)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.moved.emit(self.mapToParent(event.position()).x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: -STEP, Qt.Key.Key_Right: STEP}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self.nudged.emit(way)


class BothPictures(QWidget):
    """Lays two pictures by a way of looking. ``laid`` tells that they lie otherwise.

    In one place the first lies over the second, and is seen up to the edge.
    """

    laid = pyqtSignal()

    def __init__(self, first: PairCanvas, second: PairCanvas) -> None:
        super().__init__()
        self.way = Shown.BESIDE
        self.share = 0.5
        """How far from the left the edge lies, of the width."""

        self.on_show = 1
        """Which of them is seen where one is at a time."""

        self.pictures = first, second
        for canvas in self.pictures:
            canvas.setParent(self)
        self.edge = Edge(self)
        self.edge.moved.connect(lambda x: self.draw_to(x / max(self.width(), 1)))
        self.edge.nudged.connect(lambda by: self.draw_to(self.share + by))
        self.setMinimumSize(QSize(420, 200))

    def set_first(self, canvas: PairCanvas) -> None:
        """Let another picture be the first."""
        old, self.pictures = self.pictures[0], (canvas, self.pictures[1])
        if old is not canvas:
            old.hide()
            canvas.setParent(self)
        self.lay()

    def show_way(self, way: Shown) -> None:
        """Look at them in another way."""
        self.way = way
        self.on_show = 1
        self.lay()

    def draw_to(self, share: float) -> None:
        """Draw the edge to another place."""
        self.share = min(max(share, NEAREST), 1 - NEAREST)
        self._uncover()

    def lay(self) -> None:
        """Give each its place."""
        first = self.pictures[0]
        whole, way = self.rect(), self.way
        boxes = [whole, whole]
        if way is Shown.BESIDE:
            half = (whole.width() - GAP) // 2
            boxes = [QRect(0, 0, half, whole.height()), QRect(half + GAP, 0, half, whole.height())]
        elif way is Shown.UNDER:
            half = (whole.height() - GAP) // 2
            boxes = [QRect(0, 0, whole.width(), half), QRect(0, half + GAP, whole.width(), half)]
        seen = [True, True]
        if way is Shown.GHOST:
            seen = [False, True]
        elif way is Shown.FLIP:
            seen = [self.on_show == 0, self.on_show == 1]
        for canvas, box, shown in zip(self.pictures, boxes, seen, strict=True):
            canvas.setGeometry(box)
            canvas.setVisible(shown)
            if not shown:
                canvas.lay_on(box.size())
        first.raise_()
        self._uncover()
        self.laid.emit()

    def _uncover(self) -> None:
        """Let each be seen up to the edge."""
        (first, second), whole, wipe = self.pictures, self.rect(), self.way is Shown.WIPE
        at = round(self.share * whole.width())
        first.show_part(QRect(0, 0, at, whole.height()) if wipe else None)
        second.show_part(QRect(at, 0, whole.width() - at, whole.height()) if wipe else None)
        self.edge.setVisible(wipe)
        self.edge.setGeometry(at - WIDE // 2, 0, WIDE, whole.height())
        self.edge.raise_()

    def seen(self) -> QImage:
        """Both as they are seen, without the tools, in the screen's own pixels."""
        ratio = self.devicePixelRatioF()
        image = QImage(self.size() * ratio, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        image.fill(HALO.rgb())
        painter = QPainter(image)
        for canvas in reversed(self.pictures):
            if canvas.isVisibleTo(self):
                painter.save()
                painter.translate(QPointF(canvas.pos()))
                painter.setClipRect(canvas.seen_part)
                canvas.paint(painter)
                painter.restore()
        if self.edge.isVisibleTo(self):
            at = self.edge.geometry().toRectF().center().x()
            painter.setPen(QPen(INK, 2))
            painter.drawLine(QPointF(at, 0), QPointF(at, self.height()))
        painter.end()
        return image

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.lay()
        super().resizeEvent(event)
