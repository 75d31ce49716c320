"""What a page is made with, loaded before the first is asked for."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.places.handout.beside import page_ready
from kneel.desk.swing import OpenSwing

READY_MS = 5000
"""A swing has been read for so long, and nothing else is under way: soon its page may be asked for."""


class Ready(QObject):
    """Has the process beside the desk load what lays out a page, once a session and while nobody waits."""

    def __init__(self, parent: QObject, opened: OpenSwing, context: Context) -> None:
        super().__init__(parent)
        self._open, self._beside = opened, context.beside
        self._lane = Lane(self)
        self.done = False
        self._still = QTimer(self, singleShot=True, interval=READY_MS)
        self._still.timeout.connect(self._load)
        opened.numbers.renewed.connect(self._read)

    def close_down(self) -> None:
        """Give up what is under way."""
        self._still.stop()
        self._lane.stop()

    def _read(self) -> None:
        if not self.done:
            self._still.start()

    def _load(self) -> None:
        if self._open.gathering.busy or self._open.numbers.busy:
            self._still.start()
            return
        self.done = True
        self._lane.start(Operation(work=lambda task: self._beside.call(page_ready, stopped=task.stopped)))
