"""Makes more swings while the Trainer is on show: one nice process, which rests while the desk works."""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Jobs
from kneel.desk.operations.threads import send
from kneel.disk import safe_environment
from kneel.trainer.records import GO_ON, REST, Settings, Shot
from kneel.trainer.shots import shots

AHEAD = 40
"""So many swings that fit and were never answered are kept ready."""


class Stocking(QObject):
    """Has swings made one after another as long as it is on; ``made`` names each."""

    made = pyqtSignal(str)
    changed = pyqtSignal()

    def __init__(self, folder: Path, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self.folder, self._jobs = folder, jobs
        self._process: subprocess.Popen[str] | None = None
        self._shots: Iterator[Shot] | None = None
        self._settings: Settings | None = None
        self._on = self._resting = False
        self.command = [sys.executable, "-P", "-m", "kneel.trainer", "--into", str(folder)]
        self.room: Callable[[], bool] = lambda: True
        """Makes room for one more, and says whether there is; called beside the interface thread."""

        jobs.changed.connect(self._mind)

    @property
    def working(self) -> bool:
        """Whether one is being made now."""
        return self._process is not None and self._on and not self._resting

    def want(self, settings: Settings, ready: int, seed: int) -> None:
        """Make swings that fit these settings, ``ready`` of which are there."""
        if settings != self._settings:
            self._settings, self._shots = settings, shots(settings, seed)
        self._on = ready < AHEAD
        if self._on and self._process is None:
            self._start()
        self._mind()

    def pause(self) -> None:
        """The Trainer is off show."""
        self._on = False
        self._mind()

    def end(self) -> None:
        """Make no more; what is being made is left."""
        self._on = False
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            self.changed.emit()

    def _start(self) -> None:
        try:
            process = self._process = subprocess.Popen(
                self.command,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                text=True,
                env=safe_environment(os.environ),
            )
        except OSError:
            # Without it there are those that ship.
            self._on = False
            return
        self._resting = False
        threading.Thread(target=self._listen, args=(process,), daemon=True).start()
        self._ask(process)

    def _listen(self, process: subprocess.Popen[str]) -> None:
        """In a thread of its own: hear what was made, ask for the next once there is room, and reap it."""
        assert process.stdout is not None and process.stdin is not None
        for line in process.stdout:
            name = line.strip()
            send(lambda name=name: self._heard(process, name))
            if not self.room():
                break
            self._ask(process)
        process.kill()
        process.wait()
        for pipe in (process.stdin, process.stdout):
            with contextlib.suppress(OSError, ValueError):
                pipe.close()
        send(lambda: self._ended(process))

    def _heard(self, process: subprocess.Popen[str], name: str) -> None:
        if process is self._process and name:
            self.made.emit(name)

    def _ended(self, process: subprocess.Popen[str]) -> None:
        if process is self._process:
            self.end()

    def _ask(self, process: subprocess.Popen[str]) -> None:
        source = self._shots
        if source is not None:
            self._say(process, msgspec.json.encode(next(source)).decode())

    def _mind(self) -> None:
        """Let it rest while anything else is under way, or nobody looks."""
        process = self._process
        if process is None:
            return
        resting = not self._on or bool(self._jobs.running)
        if resting is not self._resting:
            self._resting = resting
            self._say(process, REST if resting else GO_ON)
            self.changed.emit()

    @staticmethod
    def _say(process: subprocess.Popen[str], line: str) -> None:
        with contextlib.suppress(OSError, ValueError):
            assert process.stdin is not None
            process.stdin.write(line + "\n")
            process.stdin.flush()
