"""The stock: swings with their truth, a folder each. Those that ship are only read; more are made."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import io
import shutil
import time
import zlib
from collections.abc import Collection
from dataclasses import dataclass
from importlib.resources import as_file, files
from pathlib import Path

import msgspec
import numpy as np
import platformdirs

from kneel.disk import read_bounded
from kneel.model import KneelError
from kneel.trainer.asked import asked_in
from kneel.trainer.records import Settings, Shot, Stocked

CLIP, TRUTH = "swing.mp4", "truth.json.gz"
SHIPPED = "data"
MAKING = ".making-"
LEFT_S = 3600.0
"""What has not been made in this time was broken off."""

MOST_BYTES = 60 * 2**20
LONGEST_TRUTH = 2 * 2**20
LONGEST_TEXT = 8 * 2**20


@dataclass(frozen=True)
class OnShelf:
    """A stocked swing and where it lies."""

    folder: Path
    stocked: Stocked

    @property
    def id(self) -> str:
        return self.stocked.id

    @property
    def clip(self) -> Path:
        return self.folder / CLIP


def stock_folder() -> Path:
    """Where this user's made swings lie."""
    return platformdirs.user_cache_path("kneel") / "trainer"


def id_of(shot: Shot) -> str:
    """One shot, one name."""
    return hashlib.sha256(msgspec.json.encode(shot)).hexdigest()[:16]


def read(folder: Path) -> OnShelf:
    """A stocked swing. Raises :class:`KneelError` where it is none, or not whole."""
    try:
        packed = read_bounded(folder / TRUTH, LONGEST_TRUTH)
        with gzip.GzipFile(fileobj=io.BytesIO(packed)) as file:
            text = file.read(LONGEST_TEXT + 1)
        if len(text) > LONGEST_TEXT:
            raise ValueError("it is far too long")
        stocked = msgspec.json.decode(text, type=Stocked)
        _demand_whole(stocked)
    except (OSError, EOFError, zlib.error, ValueError, KneelError) as error:
        raise KneelError(f"{folder.name} holds no swing of the trainer; it is left out.") from error
    if not (folder / CLIP).is_file():
        raise KneelError(f"{folder.name} has lost its clip; it is left out.")
    return OnShelf(folder, stocked)


def _demand_whole(stocked: Stocked) -> None:
    lengths = {len(values) for xy in stocked.points.values() for values in xy}
    known = {one.key for one in asked_in(stocked.shot.view)}
    if len(lengths) != 1 or lengths == {0} or not {"address", "top", "impact"} <= set(stocked.checkpoints):
        raise ValueError("its points are not whole")
    if not set(stocked.past) <= known or not set(stocked.values) <= known:
        raise ValueError("it speaks of faults that are not asked")
    numbers = [*stocked.past.values(), *stocked.values.values(), *stocked.checkpoints.values()]
    if not (
        np.isfinite(numbers).all() and stocked.cm_per_px > 0 and stocked.rate > 0 and stocked.version == 1
    ):
        raise ValueError("its numbers are none")


def listed(folder: Path | None = None, *, shipped: bool = True) -> list[OnShelf]:
    """All that can be shown: those that ship, and those made since; what cannot be read is left out."""
    found: dict[str, OnShelf] = {}
    folders = [*_inside(folder or stock_folder())]
    if shipped:
        with as_file(files("kneel.trainer") / SHIPPED) as there:
            folders = [*_inside(there), *folders]
    for place in folders:
        with contextlib.suppress(KneelError):
            one = read(place)
            found.setdefault(one.id, one)
    return list(found.values())


def _inside(folder: Path) -> list[Path]:
    try:
        every = sorted(path for path in folder.iterdir() if not path.name.startswith("."))
    except OSError:
        return []
    return [path for path in every if path.is_dir() and not path.is_symlink()]


def fits(stocked: Stocked, settings: Settings) -> bool:
    """Whether a swing is one that these settings ask for.

    >>> one = listed(Path("nowhere"))[0].stocked
    >>> fits(one, Settings(most=2)), fits(one, Settings(hand=one.shot.hand, most=2, size=2.0))
    (True, False)
    """
    shot = stocked.shot
    return (
        settings.view in (None, shot.view)
        and settings.hand in (None, shot.hand)
        and settings.clothes in (None, shot.clothes)
        and settings.light in (None, shot.light)
        and (shot.size == settings.size or not shot.planted)
        and len(shot.planted) <= settings.most
    )


def make_room(folder: Path, answered: Collection[str], most: int = MOST_BYTES, room: int = 2**20) -> bool:
    """Take away made swings that were answered, the oldest first, until ``room`` bytes of ``most`` are free.
    False where none is left to go and there is no room.
    """
    held = [(path, _bytes_of(path), path.stat().st_mtime) for path in _inside(folder)]
    total = sum(size for _, size, _ in held)
    for path, size, _ in sorted(held, key=lambda one: one[2]):
        if total + room <= most:
            return True
        if path.name in answered:
            shutil.rmtree(path, ignore_errors=True)
            total -= size
    return total + room <= most


def sweep(folder: Path) -> None:
    """Take away what was broken off while it was made; what another desk is making now stays."""
    with contextlib.suppress(OSError):
        for path in list(folder.iterdir()):
            if path.name.startswith(MAKING) and time.time() - path.stat().st_mtime > LEFT_S:
                shutil.rmtree(path, ignore_errors=True)


def _bytes_of(folder: Path) -> int:
    with contextlib.suppress(OSError):
        return sum(path.stat().st_size for path in folder.iterdir() if path.is_file())
    return 0
