"""Playback in real time at a chosen speed; frames are dropped rather than time stretched."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from kneel.desk.swing import OpenSwing

SPEEDS = (1.0, 0.5, 0.25, 0.125)
TICK_MS = 8
TOP_S = 0.18
"""How far across the top to-and-fro runs, real seconds each way."""


class Player(QObject):
    """Runs the cursor along real time. ``changed`` tells of play, pause, speed and way of running.

    ``mode`` is ``through`` to the end, ``loop`` round and round between the
    checkpoints about the cursor, or ``to and fro`` across the top.
    """

    changed = pyqtSignal()

    def __init__(self, opened: OpenSwing) -> None:
        super().__init__(opened)
        self._open = opened
        self.speed = 0.25
        self.mode = "through"
        self._clock = QElapsedTimer()
        self._start_s = 0.0
        self._bounds_s = (0.0, 0.0)
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self._tick)
        opened.opened.connect(self.pause)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def toggle(self) -> None:
        """Play on from the cursor, from the start where it stands at the end, or pause."""
        if self.playing:
            self.pause()
        elif self._open.frames > 1:
            if self.mode == "through" and self._open.cursor.frame >= self._open.frames - 1:
                self._open.cursor.go(0)
            self._begin()
            self._timer.start()
            self.changed.emit()

    def run_in(self, mode: str) -> None:
        """Play in a mode, or pause where it is playing so already."""
        if self.playing and self.mode == mode:
            self.pause()
            return
        self.mode = mode
        self._begin()
        self._timer.start()
        self.changed.emit()

    def pause(self) -> None:
        self._timer.stop()
        self.mode = "through"
        self.changed.emit()

    def change_speed(self, by: int) -> None:
        """One speed slower (+1) or faster (-1)."""
        place = min(max(SPEEDS.index(self.speed) + by, 0), len(SPEEDS) - 1)
        self.speed = SPEEDS[place]
        self._begin()
        self.changed.emit()

    def _begin(self) -> None:
        times = self._open.times_s
        if len(times) == 0:
            return
        self._bounds_s = self._bounds(times)
        self._start_s = float(np.clip(times[self._open.cursor.frame], *self._bounds_s))
        self._clock.restart()

    def _bounds(self, times: np.ndarray) -> tuple[float, float]:
        """Where playing begins and ends, in real seconds."""
        whole = (float(times[0]), float(times[-1]))
        analysis = self._open.analysis
        if self.mode == "through" or analysis is None:
            return whole
        marks = sorted(c.time_s for c in analysis.checkpoints.values())
        if self.mode == "to and fro" and "top" in analysis.checkpoints:
            top = analysis.checkpoints["top"].time_s
            return max(whole[0], top - TOP_S), min(whole[1], top + TOP_S)
        # A checkpoint half a frame on is the one the cursor stands on.
        frame = self._open.cursor.frame
        ahead = float(times[min(frame + 1, len(times) - 1)] - times[frame])
        now = float(times[frame]) + 0.51 * ahead + 1e-6
        before, after = [t for t in marks if t <= now], [t for t in marks if t > now]
        return (before[-1] if before else whole[0]), (after[0] if after else whole[1])

    def _tick(self) -> None:
        times = self._open.times_s
        if len(times) == 0:
            self.pause()
            return
        now = self._start_s + self._clock.elapsed() / 1000.0 * self.speed
        place = self._place(now)
        if place is None:
            self._open.cursor.go(self._open.frames - 1)
            self.pause()
            return
        self._open.cursor.go(int(np.searchsorted(times, place, side="right")) - 1)

    def _place(self, now: float) -> float | None:
        """Where playing stands at a running time, or None where it is over."""
        first, last = self._bounds_s
        length = max(last - first, 1e-3)
        if self.mode == "through":
            return now if now < last else None
        if self.mode == "loop":
            return first + (now - first) % length
        run = (now - first) % (2 * length)
        return first + min(run, 2 * length - run)
