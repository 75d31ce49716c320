"""Looking for the joints in the background, and keeping what was seen for the next opening."""

from __future__ import annotations

import hashlib
import logging
from pathlib import Path

import msgspec
import numpy as np
import platformdirs
from PyQt6.QtCore import QObject

from kneel.desk.background import Background
from kneel.desk.tasks import Task
from kneel.footage import FrameReader, FrameStore
from kneel.model import CameraPath, Links, Sighting
from kneel.vision import Looked, installed, look

LOG = logging.getLogger(__name__)

METHOD = 7
"""Raise when looking changes, so that what an older Kneel kept is looked for anew."""

KEPT_FILES = 200


class _Kept(msgspec.Struct, frozen=True):
    """How a :class:`Looked` lies in the cache; arrays as raw bytes of float64."""

    sightings: dict[str, list[tuple[bytes, bytes, float, float, float]]]
    links: dict[str, list[tuple[bytes, bytes]]]
    warnings: tuple[str, ...]
    camera: tuple[bytes, bytes] | None = None


class Looking(Background):
    """What the body model saw of the open swing."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._wanted: str | None = None
        self.found = Looked()
        self._found_for: str | None = None

    @property
    def busy(self) -> bool:
        return self._task is not None

    def need(self, store: FrameStore, first: int, times_s: np.ndarray) -> None:
        """Ask for the joints of a swing; answered at once where they are known, else looked for."""
        key = _key(store.info.path, first, times_s)
        if key in (self._found_for, self._wanted):
            return
        self.cancel()
        self._wanted = key
        self._begin(Task(lambda task: _look(task, store.info.path, first, times_s, key)))

    def cancel(self) -> None:
        """Give up what is under way."""
        self._drop()
        self._wanted = None

    def end(self) -> None:
        """Give up, forget, and wait for the worker."""
        self.cancel()
        self._pool.waitForDone()
        self.found, self._found_for = Looked(), None

    def _take(self, found: Looked) -> None:
        self.found, self._found_for, self._wanted = found, self._wanted, None

    def _give_up(self) -> None:
        self._found_for, self._wanted = self._wanted, None


def _look(task: Task, path: Path, first: int, times_s: np.ndarray, key: str) -> Looked:
    """The work itself, in a thread of the pool: from the cache, else by looking."""
    kept = _load(key)
    if kept is not None:
        return kept
    found = look(
        lambda: FrameReader(path, first, budget=0).picture,
        lambda: FrameReader(path, first).luma,
        times_s,
        progress=task.progressed.emit,
        stopped=task.stopped,
    )
    if not task.stopped() and found.sightings:
        _keep(key, found)
    return found


def _key(path: Path, first: int, times_s: np.ndarray) -> str:
    """What a clip's part is, by content as far as size and time of change tell."""
    try:
        stat = path.stat()
        about = f"{METHOD} {path.resolve()} {stat.st_size} {stat.st_mtime_ns} {first} {len(times_s)}"
    except OSError:
        about = f"{METHOD} {path} {first} {len(times_s)}"
    length = float(times_s[-1] - times_s[0]) if len(times_s) else 0.0
    return hashlib.sha256(f"{about} {length:.6f} {installed()}".encode()).hexdigest()[:32]


def _folder() -> Path:
    return platformdirs.user_cache_path("kneel") / "looked"


def _load(key: str) -> Looked | None:
    try:
        kept = msgspec.msgpack.decode((_folder() / f"{key}.bin").read_bytes(), type=_Kept)
        sightings = {
            name: [
                Sighting(_array(xy).reshape(-1, 2), _array(s), offset=o, wander=w, wander_s=t)
                for xy, s, o, w, t in seen
            ]
            for name, seen in kept.sightings.items()
        }
        links = {
            name: [Links(_array(step).reshape(-1, 2), _array(s)) for step, s in found]
            for name, found in kept.links.items()
        }
        camera = None
        if kept.camera is not None:
            camera = CameraPath(_array(kept.camera[0]).reshape(-1, 2, 3), _array(kept.camera[1]))
    except (OSError, msgspec.MsgspecError, ValueError):
        return None
    return Looked(sightings, links, kept.warnings, camera)


def _array(raw: bytes) -> np.ndarray:
    return np.frombuffer(raw, dtype="<f8").copy()


def _raw(array: np.ndarray) -> bytes:
    return np.ascontiguousarray(array, dtype="<f8").tobytes()


def _keep(key: str, found: Looked) -> None:
    """Write what was seen; a cache that cannot be written is no harm."""
    kept = _Kept(
        {
            name: [(_raw(s.xy), _raw(s.sigma), s.offset, s.wander, s.wander_s) for s in seen]
            for name, seen in found.sightings.items()
        },
        {name: [(_raw(k.step), _raw(k.sigma)) for k in many] for name, many in found.links.items()},
        found.warnings,
        None if found.camera is None else (_raw(found.camera.maps), _raw(found.camera.sigma)),
    )
    try:
        folder = _folder()
        folder.mkdir(parents=True, exist_ok=True)
        part = folder / f"{key}.part"
        part.write_bytes(msgspec.msgpack.encode(kept))
        part.replace(folder / f"{key}.bin")
        for old in sorted(folder.glob("*.bin"), key=lambda p: p.stat().st_mtime)[:-KEPT_FILES]:
            old.unlink()
    except OSError:
        LOG.info("what was seen is not kept for the next opening", exc_info=True)
