"""The Trainer's picture: plain until it is answered, with the stick under the hand; argued after that."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent

from kneel.desk.places.trainer.running import Phase, RunningRound
from kneel.desk.places.trainer.stick import Stick, stick_of
from kneel.desk.places.trainer.trained import TrainedSwing
from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.scene import HALO, PLATE_TEXT, paint_plate
from kneel.desk.swing.player import Player
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.trainer.asked import asked_faults
from kneel.trainer.records import Sure
from kneel.trainer.scores import unit_of
from kneel.trainer.words import sized

SURE_KEYS = {
    Qt.Key.Key_G: Sure.GUESS,
    Qt.Key.Key_H: Sure.HALF,
    Qt.Key.Key_R: Sure.RATHER,
    Qt.Key.Key_C: Sure.CERTAIN,
}
STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Comma: -1, Qt.Key.Key_Period: 1}
STICK = QColor("#f6d98b")


class TrainerStage(Canvas):
    """``ghost_wanted`` tells that Z was pressed."""

    ghost_wanted = pyqtSignal()

    def __init__(self, trained: TrainedSwing, round_: RunningRound, look: Look) -> None:
        super().__init__(trained, look)  # type: ignore[arg-type]
        self._trained, self._round = trained, round_
        self.player = Player(trained)  # type: ignore[arg-type]
        self.anchor: tuple[float, float] | None = None
        self._laying = self._away = False
        self.empty = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Picture of the swing that is asked about"))
        self.player.changed.connect(self._on_player)
        round_.changed.connect(self._on_round)
        round_.laid.connect(self.update)

    # What is shown

    def show_once(self) -> None:
        """Play it from its first frame, as the round has it."""
        self.anchor = None
        self._trained.cursor.go(0)
        self.player.speed = self._speed
        if not self.player.playing:
            self.player.toggle()

    def pause(self) -> None:
        """Nobody looks for now: what is being shown once is shown again from its beginning."""
        self._away = True
        self.player.pause()
        self._away = False

    @property
    def _speed(self) -> float:
        return 1.0 if self._round.settings.shown == "full" else 0.5

    def _on_player(self) -> None:
        if self._round.phase is Phase.SHOWING and not self.player.playing and not self._away:
            if self._round.settings.shown != "steps":
                # What was shown once is gone; the stick lies on the body as it stood.
                self._trained.cursor.go(0)
            self._round.shown()

    def _on_round(self) -> None:
        self.plain = self._round.phase is not Phase.ARGUED
        self.update()

    @property
    def stick(self) -> Stick | None:
        """The stick of the fault whose size is being set."""
        stocked, key = self._trained.stocked, self._round.sized
        return stick_of(asked_faults()[key], stocked) if stocked is not None and key else None

    def _anchor(self) -> tuple[float, float]:
        """Where the stick lies: where the hand laid it, else beside the body."""
        if self.anchor is not None:
            return self.anchor
        shown = self.view.shown
        return self.view.to_picture(QPointF(shown.left() + 0.22 * shown.width(), shown.center().y()))

    # Hands

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, round_ = Qt.Key(event.key()), self._round
        number = event.key() - Qt.Key.Key_1
        if key in SURE_KEYS:
            round_.say_sure(SURE_KEYS[key])
        elif 0 <= number <= len(round_.faults):
            if number == 0:
                round_.name_nothing()
            else:
                round_.name(round_.faults[number - 1].key)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.nudge(1 if key == Qt.Key.Key_Up else -1)
        elif not self._step(key, event):
            super().keyPressEvent(event)

    def _step(self, key: Qt.Key, event: QKeyEvent) -> bool:
        """Keys that move through the swing, where the hand may."""
        if not self._round.steps_freely:
            return key in STEPS or key == Qt.Key.Key_Space
        cursor = self._trained.cursor
        if key in STEPS:
            far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self.player.pause()
            cursor.step(far * STEPS[key])
        elif key == Qt.Key.Key_Home:
            cursor.go(0)
        elif key == Qt.Key.Key_End:
            cursor.go(cursor.frames - 1)
        elif key == Qt.Key.Key_Space:
            self.player.toggle()
        elif key == Qt.Key.Key_Z:
            self.ghost_wanted.emit()
        else:
            return False
        return True

    def nudge(self, by: int) -> None:
        """Half a centimetre, or a degree, more or less of the number that is asked."""
        round_ = self._round
        if round_.sized and round_.phase is Phase.ANSWERING:
            step = 0.5 if unit_of(round_.sized) == "cm" else 1.0
            round_.say_size(round_.said.get(round_.sized, 0.0) + by * step)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._round.steps_freely:
            self._trained.cursor.step(-1 if event.angleDelta().y() > 0 else 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if (
            event.button() == Qt.MouseButton.LeftButton
            and self.stick
            and self._round.phase is Phase.ANSWERING
        ):
            self.player.pause()
            self.anchor = self.view.to_picture(event.position())
            self._laying = True
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        stick = self.stick
        if self._laying and stick is not None and self.anchor is not None:
            self._round.say_size(stick.value(self.anchor, self.view.to_picture(event.position())))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._laying = False

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._trained.store is None or self._round.phase in (Phase.IDLE, Phase.OPENING):
            painter.fillRect(self.rect(), self._look.colour("panel"))
            box = QRectF(self.rect()).adjusted(40, 0, -40, 0)
            words = tr("Opening the swing …") if self._round.phase is Phase.OPENING else self.empty
            write(painter, box, words, font(14), self._look.colour("secondary"), CENTRE)
            return
        self.paint(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        round_ = self._round
        stick = self.stick
        if stick is not None and round_.sized in round_.said and round_.phase is Phase.ANSWERING:
            self._paint_stick(painter, stick, round_.said[round_.sized])

    def _paint_stick(self, painter: QPainter, stick: Stick, value: float) -> None:
        anchor = self._anchor()
        lines = stick.lines(anchor, value)
        for width, colour in ((5.0, HALO), (2.4, STICK)):
            painter.setPen(QPen(colour, width, cap=Qt.PenCapStyle.RoundCap))
            for a, b in lines:
                painter.drawLine(self.view.to_widget(*a), self.view.to_widget(*b))
        words, type_ = sized(stick.asked.key, value), font(14, 600)
        size = QSizeF(wide(words, type_) + 20, 26)
        ends = [self.view.to_widget(*p) for line in lines for p in line]
        top = min(p.y() for p in ends)
        middle = sum(p.x() for p in ends) / len(ends)
        box = QRectF(QPointF(middle - size.width() / 2, top - size.height() - 8), size)
        shown = self.view.shown
        box.moveLeft(min(max(box.left(), shown.left() + 4), shown.right() - size.width() - 4))
        box.moveTop(max(box.top(), shown.top() + 4))
        paint_plate(painter, box)
        write(painter, box, words, type_, PLATE_TEXT, CENTRE)
