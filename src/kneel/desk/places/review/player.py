"""Playing a review: its time runs, and its voice is heard where the machine has something to hear it by."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from kneel.desk.operations.microphone import media
from kneel.review.voice import RATE

TICK_MS = 16


class ReviewPlayer(QObject):
    """``moved`` tells of another time, ``changed`` of play and pause."""

    moved = pyqtSignal(float)
    changed = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.at = self.seconds = 0.0
        self._samples = np.zeros(0, np.float32)
        self._clock, self._from = QElapsedTimer(), 0.0
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._sink: object | None = None
        self._buffer: QBuffer | None = None

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def show_review(self, seconds: float, samples: np.ndarray) -> None:
        """Play another review, or the same one otherwise."""
        self.pause()
        self.seconds, self._samples = seconds, samples
        self.go(min(self.at, seconds))

    def go(self, t: float) -> None:
        """Stand at a time; playing goes on from there."""
        self.at = min(max(t, 0.0), self.seconds)
        if self.playing:
            self._begin()
        self.moved.emit(self.at)

    def toggle(self) -> None:
        """Play on, from the beginning where it is over, or pause."""
        if self.playing:
            self.pause()
        elif self.seconds > 0:
            if self.at >= self.seconds - 0.01:
                self.at = 0.0
            self._begin()
            self._timer.start()
            self.changed.emit()

    def pause(self) -> None:
        if self.playing:
            self._timer.stop()
            self._silence()
            self.changed.emit()

    def _begin(self) -> None:
        self._silence()
        self._from = self.at
        self._clock.start()
        qt = media()
        if qt is None or not len(self._samples) or qt.QMediaDevices.defaultAudioOutput().isNull():
            return
        wanted = qt.QAudioFormat()
        wanted.setSampleRate(RATE)
        wanted.setChannelCount(1)
        wanted.setSampleFormat(qt.QAudioFormat.SampleFormat.Int16)
        part = self._samples[round(self.at * RATE) :]
        self._buffer = QBuffer(self)
        self._buffer.setData(QByteArray((np.clip(part, -1, 1) * 32767).astype("<i2").tobytes()))
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = qt.QAudioSink(wanted, self)
        self._sink.start(self._buffer)

    def _silence(self) -> None:
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
        if self._buffer is not None:
            self._buffer.deleteLater()
        self._sink = self._buffer = None

    def _tick(self) -> None:
        self.at = min(self._from + self._clock.nsecsElapsed() / 1e9, self.seconds)
        self.moved.emit(self.at)
        if self.at >= self.seconds:
            self.pause()
