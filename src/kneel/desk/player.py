"""Playback in real time at a chosen speed; frames are dropped rather than time stretched."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from kneel.desk.session import Session

SPEEDS = (1.0, 0.5, 0.25, 0.125)
TICK_MS = 8


class Player(QObject):
    """Runs the cursor along real time. ``changed`` tells of play, pause and speed."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.speed = 0.25
        self._clock = QElapsedTimer()
        self._start_s = 0.0
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self._tick)
        session.opened.connect(self.pause)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def toggle(self) -> None:
        if self.playing:
            self.pause()
        elif self._session.frames > 1:
            if self._session.frame >= self._session.frames - 1:
                self._session.go(0)
            self._begin()
            self._timer.start()
            self.changed.emit()

    def pause(self) -> None:
        self._timer.stop()
        self.changed.emit()

    def change_speed(self, by: int) -> None:
        """One speed slower (+1) or faster (-1)."""
        place = min(max(SPEEDS.index(self.speed) + by, 0), len(SPEEDS) - 1)
        self.speed = SPEEDS[place]
        self._begin()
        self.changed.emit()

    def _begin(self) -> None:
        times = self._session.times_s
        self._start_s = float(times[self._session.frame]) if len(times) else 0.0
        self._clock.restart()

    def _tick(self) -> None:
        times = self._session.times_s
        now = self._start_s + self._clock.elapsed() / 1000.0 * self.speed
        if len(times) == 0 or now >= times[-1]:
            self._session.go(self._session.frames - 1)
            self.pause()
            return
        self._session.go(int(np.searchsorted(times, now, side="right")) - 1)
