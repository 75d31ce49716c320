"""The frame on show: one owner of the place in the swing, to whom all else listens."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal


class Cursor(QObject):
    """A frame of the swing, counted from its first one."""

    moved = pyqtSignal(int)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.frame = 0
        self.frames = 0

    def begin(self, frames: int, frame: int) -> None:
        """Stand on a frame of a swing just opened; told by whoever opens it."""
        self.frames = frames
        self.frame = int(np.clip(frame, 0, max(frames - 1, 0)))

    def go(self, frame: int) -> None:
        """Stand on a frame, as near as the swing allows."""
        frame = int(np.clip(frame, 0, max(self.frames - 1, 0)))
        if frame != self.frame:
            self.frame = frame
            self.moved.emit(frame)

    @contextmanager
    def glance(self, frame: int) -> Iterator[None]:
        """Look at another frame for as long as a picture of it is painted elsewhere; nobody is told."""
        here, self.frame = self.frame, frame
        try:
            yield
        finally:
            self.frame = here

    def step(self, by: int) -> None:
        self.go(self.frame + by)
