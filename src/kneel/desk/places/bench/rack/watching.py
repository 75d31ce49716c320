"""A watched folder: a clip is taken when its size has stood still for two seconds and it opens."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.desk.operations import Lane, Operation
from kneel.footage import Clip
from kneel.model import CLIP_SUFFIXES, KneelError

LOOK_EVERY_MS = 500
STILL_S = 2.0


class Watching(QObject):
    """Looks into a folder now and then; ``came`` carries the path of each new clip that is whole."""

    came = pyqtSignal(object)
    changed = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.folder: Path | None = None
        self._known: set[Path] = set()
        self._growing: dict[Path, tuple[int, float]] = {}
        self._refused: dict[Path, int] = {}
        self._looks = Lane(self)
        self._timer = QTimer(self, interval=LOOK_EVERY_MS)
        self._timer.timeout.connect(self._look)

    def watch_again(self, folder: Path, since: float, told: Callable[[list[Path]], None]) -> None:
        """Watch a folder that was watched before; ``told`` is told which clips came ``since`` then."""

        def take(found: dict[Path, float]) -> None:
            if self.folder is not None:
                return
            self.folder, self._known = folder, set(found)
            self._timer.start()
            self.changed.emit()
            told(sorted(path for path, at in found.items() if at > since))

        # A folder of another machine may take its time to answer, or never do.
        self._looks.start(Operation(work=lambda _: _times(folder), done=take))

    def watch(self, folder: Path | None) -> None:
        """Watch a folder from now on, or none; what lies there already is not new."""
        self.folder = folder
        self._growing.clear()
        self._refused.clear()
        # At once: what comes a moment later is new.
        self._known = set(_clips(folder)) if folder is not None else set()
        if folder is None:
            self._timer.stop()
        else:
            self._timer.start()
        self.changed.emit()

    def _look(self) -> None:
        folder = self.folder
        if folder is None or self._looks.busy:
            return
        known, growing, refused = set(self._known), dict(self._growing), dict(self._refused)
        self._looks.start(
            Operation(
                subject=lambda: self.folder,
                work=lambda _: _looked(folder, known, growing, refused, time.monotonic()),
                done=self._take,
            )
        )

    def _take(self, found: tuple[list[Path], dict, dict]) -> None:
        whole, self._growing, self._refused = found
        for path in whole:
            self._known.add(path)
            self.came.emit(path)


def _clips(folder: Path) -> dict[Path, int]:
    """The clips of a folder with their sizes."""
    try:
        beside = [p for p in folder.iterdir() if p.suffix.lower() in CLIP_SUFFIXES]
        return {p: p.stat().st_size for p in beside if p.is_file()}
    except OSError:
        return {}


def _times(folder: Path) -> dict[Path, float]:
    """The clips of a folder, and when each was written last."""
    found = {}
    for path in _clips(folder):
        with contextlib.suppress(OSError):
            found[path] = path.stat().st_mtime
    return found


def _looked(
    folder: Path,
    known: set[Path],
    growing: dict[Path, tuple[int, float]],
    refused: dict[Path, int],
    now: float,
) -> tuple[list[Path], dict[Path, tuple[int, float]], dict[Path, int]]:
    """Which clips are whole now, how large the others are since when, and which do not open at that size."""
    whole, still, no = [], {}, dict(refused)
    for path, size in sorted(_clips(folder).items()):
        if path in known or no.get(path) == size:
            continue
        before = growing.get(path)
        if before is None or before[0] != size or size == 0:
            still[path] = size, now
        elif now - before[1] < STILL_S:
            still[path] = before
        elif _opens(path):
            whole.append(path)
        else:
            # A camera may only have paused: it is tried again once it has grown.
            no[path] = size
    return whole, still, no


def _opens(path: Path) -> bool:
    try:
        with Clip(path):
            return True
    except (KneelError, OSError):
        return False
