"""Where a voice comes from: a microphone of the machine, or a simulated one for demo and tests."""

from __future__ import annotations

import os
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal

from kneel.desk.widgets.language import tr

RATE = 48_000
PART_MS = 40
SIMULATED = "simulated"
SILENT = "none"

CHOSEN_BY = "KNEEL_MICROPHONE"
"""The environment can say which one is used: by its name, “simulated” or “none”."""


@dataclass(frozen=True)
class Device:
    """A microphone: its key, and its name in words."""

    key: str
    title: str


class Microphone(QObject):
    """A voice as it comes, 16 bits, one channel. ``heard`` carries samples (N,), ``failed`` a sentence."""

    heard = pyqtSignal(object)
    failed = pyqtSignal(str)
    rate = RATE

    def start(self) -> None:
        """Begin to listen."""
        raise NotImplementedError

    def stop(self) -> None:
        """Listen no longer."""
        raise NotImplementedError


class Speech(Protocol):
    """What a simulated microphone hears: samples (N,), -1 to 1, from one sample to another."""

    def __call__(self, first: int, last: int) -> np.ndarray: ...


def murmur(first: int, last: int) -> np.ndarray:
    """Something like a voice: a hum that swells in syllables."""
    t = np.arange(first, last) / RATE
    swell = np.clip(np.sin(2 * np.pi * 2.1 * t) + 0.4 * np.sin(2 * np.pi * 0.31 * t), 0, None)
    return 0.16 * swell * (np.sin(2 * np.pi * 140 * t) + 0.5 * np.sin(2 * np.pi * 280 * t))


class SimulatedMicrophone(Microphone):
    """Hears what it is told, in real time."""

    def __init__(self, parent: QObject, speech: Speech = murmur) -> None:
        super().__init__(parent)
        self._speech, self._given = speech, 0
        self._clock = QElapsedTimer()
        self._timer = QTimer(self, interval=PART_MS)
        self._timer.timeout.connect(self._give)

    def start(self) -> None:
        self._given = 0
        self._clock.start()
        self._timer.start()

    def stop(self) -> None:
        if self._timer.isActive():
            self._give()
        self._timer.stop()

    def _give(self) -> None:
        due = int(self._clock.nsecsElapsed() * RATE // 1_000_000_000)
        if due > self._given:
            part = np.clip(self._speech(self._given, due), -1, 1)
            self._given = due
            self.heard.emit((part * 32767).astype(np.int16))


class QtMicrophone(Microphone):
    """A microphone of the machine, through Qt's own multimedia."""

    def __init__(self, parent: QObject, key: str) -> None:
        super().__init__(parent)
        qt = media()
        assert qt is not None
        devices = {_key_of(one): one for one in qt.QMediaDevices.audioInputs()}
        device = devices.get(key) or qt.QMediaDevices.defaultAudioInput()
        wanted = qt.QAudioFormat()
        wanted.setSampleRate(RATE)
        wanted.setChannelCount(1)
        wanted.setSampleFormat(qt.QAudioFormat.SampleFormat.Int16)
        if not device.isFormatSupported(wanted):
            wanted.setSampleRate(device.preferredFormat().sampleRate())
            wanted.setChannelCount(device.preferredFormat().channelCount())
        self.rate, self._channels = wanted.sampleRate(), wanted.channelCount()
        self._source = qt.QAudioSource(device, wanted, self)
        self._source.stateChanged.connect(self._on_state)
        self._flow: Any = None
        self._left = b""

    def start(self) -> None:
        self._left = b""
        self._flow = self._source.start()
        if self._flow is None:
            self.failed.emit(tr("The microphone cannot be used; choose another, or lay a sound file under."))
            return
        self._flow.readyRead.connect(self._read)

    def stop(self) -> None:
        flow, self._flow = self._flow, None
        if flow is not None:
            self._flow = flow
            self._read()
            self._flow = None
        self._source.stop()

    def _read(self) -> None:
        if self._flow is None:
            return
        raw = self._left + bytes(self._flow.readAll().data())
        whole = len(raw) // (2 * self._channels) * (2 * self._channels)
        raw, self._left = raw[:whole], raw[whole:]
        samples = np.frombuffer(raw, "<i2")
        if self._channels > 1:
            samples = samples.reshape(-1, self._channels).mean(axis=1).astype(np.int16)
        if len(samples):
            self.heard.emit(samples)

    def _on_state(self, state: Any) -> None:
        if self._flow is not None and state == type(state).StoppedState:
            self.failed.emit(tr("The microphone fell silent: it was unplugged, or another program took it."))


def media() -> Any:
    """Qt's multimedia, or None where this machine lacks what it needs, or is not to be asked."""
    if os.environ.get(CHOSEN_BY) in (SIMULATED, SILENT):
        return None
    try:
        from PyQt6 import QtMultimedia
    except ImportError:
        return None
    return QtMultimedia


def _key_of(device: Any) -> str:
    return bytes(device.id().data()).decode("utf-8", "replace")


def devices() -> list[Device]:
    """The microphones there are, and the simulated one last."""
    found = []
    qt = media()
    if qt is not None:
        found = [Device(_key_of(one), one.description()) for one in qt.QMediaDevices.audioInputs()]
    return [*found, Device(SIMULATED, tr("Simulated microphone (a murmur, for trying out)"))]


def microphone(parent: QObject, wanted: str) -> Microphone | None:
    """The microphone wanted, else the first real one; None where there is none, or none is wanted by name."""
    wanted = os.environ.get(CHOSEN_BY) or wanted
    if wanted == SIMULATED:
        return SimulatedMicrophone(parent)
    real = [one.key for one in devices() if one.key != SIMULATED]
    if not real or wanted == SILENT:
        return None
    return QtMicrophone(parent, wanted if wanted in real else real[0])
