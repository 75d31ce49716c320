"""Both cameras of one swing on the Bench: the pictures side by side, and under them the body in space."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSettings, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kneel.desk.stage.gestures import Pan
from kneel.desk.stage.space import SpaceView
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip
from kneel.desk.widgets.theme import Look

EDGE, GAP, HIGH = 3, 5, 172
LEAST_HIGH = 380
"""In less height the pictures need all of it."""

ALONE, BOTH = QSize(260, 220), QSize(150, 150)
STILL_PX = 4.0
SHOWN = "bench/body in space"


class OtherStage(Stage):
    """The other camera's picture. Points are dragged on it as on the first; ``chosen`` tells that it was
    clicked, ``stepped`` by how many frames the wheel went.
    """

    chosen = pyqtSignal()
    stepped = pyqtSignal(int)

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__(opened, look)
        self._pressed: QPointF | None = None
        self.setAccessibleName(tr("Picture of the other camera"))
        self.setToolTip(tip(tr("Click to work on this picture")))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        left = event.button() is Qt.MouseButton.LeftButton
        plain = self.hands.gesture is None or isinstance(self.hands.gesture, Pan)
        self._pressed = event.position() if left and plain else None

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        super().mouseReleaseEvent(event)
        if pressed is not None and (event.position() - pressed).manhattanLength() < STILL_PX:
            self.chosen.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().wheelEvent(event)
        else:
            self.stepped.emit(-1 if event.angleDelta().y() > 0 else 1)


class Cameras(QWidget):
    """Holds the stage, and beside it the other camera's where the swing has two. The one that the document
    names first lies left; an edge goes round the one that is worked on.
    """

    def __init__(self, takes: TwoTakes, stage: Stage, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._takes, self._look, self._settings = takes, look, settings
        self.stage, self.other = stage, OtherStage(takes.second, look)
        self.space = SpaceView(takes.first, look)
        self.space.setFixedHeight(HIGH)
        self._alone = False
        self._row = QHBoxLayout()
        self._row.setSpacing(GAP)
        for picture in (self.stage, self.other):
            self._row.addWidget(picture, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GAP)
        column.addLayout(self._row, 1)
        column.addWidget(self.space)
        self.other.hide()
        self.space.hide()
        self.other.chosen.connect(takes.turn)
        self.other.stepped.connect(takes.first.cursor.step)
        takes.changed.connect(self.arrange)
        takes.first.numbers.renewed.connect(self._show_space)
        look.changed.connect(self.update)

    def show_alone(self, alone: bool) -> None:
        """The picture that is worked on alone, or everything again."""
        self._alone = alone
        self.arrange()

    @property
    def space_wanted(self) -> bool:
        """Whether the body in space is shown, where it is told."""
        return self._settings.value(SHOWN, "yes") == "yes"

    def toggle_space(self) -> None:
        """Show the body in space, or leave the pictures all the room."""
        self._settings.setValue(SHOWN, "no" if self.space_wanted else "yes")
        self._show_space()

    @property
    def _both(self) -> bool:
        return self._takes.shown and not self._alone

    def arrange(self) -> None:
        """Lay the pictures as the document has them."""
        shown, turned = self._both, self._takes.first.document.turned
        order = (self.other, self.stage) if turned else (self.stage, self.other)
        if [self._row.indexOf(one) for one in order] != [0, 1]:
            for picture in order:
                self._row.removeWidget(picture)
            for picture in order:
                self._row.addWidget(picture, 1)
        for picture in order:
            picture.setMinimumSize(BOTH if shown else ALONE)
        edge = EDGE if shown else 0
        self._row.setContentsMargins(edge, edge, edge, edge)
        self.other.setVisible(shown)
        self._show_space()
        self.update()

    def _show_space(self) -> None:
        linked = self._takes.linked if self._both else None
        room = self.height() >= LEAST_HIGH
        self.space.show_linked(linked if self.space_wanted and room else None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_space()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self._both:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self._look.colour("chosen_edge"), 2))
        box = QRectF(self.stage.geometry()).adjusted(-2, -2, 2, 2)
        painter.drawRoundedRect(box, 4, 4)
