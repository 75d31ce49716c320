"""What appears on the stage when it is wanted: a small transport with drawing, ways into an empty desk."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.places.place import Handlers
from kneel.desk.stage.drawing import TITLES
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.player import Player
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip
from kneel.desk.widgets.theme import Look

RESTS_MS = 2200
"""The transport goes once the pointer has rested for so long."""

EDGE = 10
SPEEDS = {1.0: "×1", 0.5: "×½", 0.25: "×¼", 0.125: "×⅛"}

LEAVE = (QEvent.Type.Leave, QEvent.Type.MouseButtonPress)
KEYS = (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)


class Transport(QFrame):
    """Step back, play, step on, speed and drawing, at the foot of the picture while the pointer moves."""

    def __init__(
        self, opened: OpenSwing, stage: Stage, player: Player, look: Look, handlers: Handlers
    ) -> None:
        super().__init__(stage)
        self._open, self._stage, self._player, self._look = opened, stage, player, look
        self._handlers = handlers
        self.setProperty("role", "transport")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._gone = QTimer(self, singleShot=True, interval=RESTS_MS)
        self._gone.timeout.connect(self._rest)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 4, 6, 4)
        row.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, name, deed in (
            ("back", "◂", tr("One frame back"), handlers["back"]),
            ("play", "", tr("Play and pause"), handlers["play"]),
            ("on", "▸", tr("One frame on"), handlers["on"]),
            ("speed", "", tr("Speed"), self._next_speed),
            ("draw", tr("Draw"), tr("Draw on the picture"), self._choose_shape),
        ):
            button = QPushButton(words)
            button.setProperty("small", True)
            button.setAccessibleName(name)
            button.setToolTip(tip(name))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, act=deed: act())
            row.addWidget(button)
            self.buttons[key] = button
        player.changed.connect(self._say)
        opened.opened.connect(self.hide)
        stage.laid.connect(self.hide)
        stage.installEventFilter(self)
        self._say()
        self.hide()

    def _say(self) -> None:
        self.buttons["play"].setText(tr("Pause") if self._player.playing else tr("Play"))
        self.buttons["speed"].setText(SPEEDS[self._player.speed])
        self.adjustSize()

    def _next_speed(self) -> None:
        """Half as fast; from the slowest to life."""
        before = self._player.speed
        self._player.change_speed(1)
        if self._player.speed == before:
            self._player.change_speed(-len(SPEEDS))

    def _choose_shape(self) -> None:
        choices = [Choice(tr(title), self._handlers[f"draw_{shape}"]) for shape, title in TITLES.items()]
        Chooser(self._stage, self._look, tr("Draw on the picture"), choices, typing=False).open(
            self.buttons["draw"]
        )

    def _rest(self) -> None:
        if self.underMouse():
            self._gone.start()
        else:
            self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or watched is not self._stage:
            return False
        idle = self._stage.tool is None and self._stage.hands.gesture is None
        wanted = self._open.store is not None and idle
        if event.type() is QEvent.Type.MouseMove and wanted and not self._stage.large:
            self.adjustSize()
            self.move(EDGE, self._stage.height() - self.height() - EDGE)
            self.show()
            self._gone.start()
        elif event.type() in KEYS or (event.type() in LEAVE and not self.underMouse()):
            self.hide()
        return False


class EmptyDesk(QWidget):
    """Two buttons in the empty middle: clips of one's own, and the demo."""

    def __init__(self, opened: OpenSwing, stage: Stage) -> None:
        super().__init__(stage)
        self._open, self._stage = opened, stage
        self.clips, self.demo = QPushButton(tr("Open clips …")), QPushButton(tr("See the demo lesson"))
        self.clips.setProperty("primary", "true")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.clips)
        row.addWidget(self.demo)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        stage.installEventFilter(self)
        opened.opened.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """There while nothing is open."""
        self.setVisible(self._open.store is None)
        self.adjustSize()
        self.move((self._stage.width() - self.width()) // 2, self._stage.height() // 2 + 66)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.Resize, QEvent.Type.Show):
            self.refresh()
        return False
