"""Where lessons from elsewhere are read: a folder, of which no link is followed, or a zip, of which names are
only ever compared.
"""

from __future__ import annotations

import lzma
import stat
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import IO, Protocol

from kneel.book.exchange.exporting import MANIFEST
from kneel.disk import TooLargeError, demand_file, read_bounded, shown
from kneel.model import ParcelError

MOST_FILES = 20_000
DAMAGED = (zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError)
"""How a zip that cannot be unpacked shows, whichever way it was packed."""

MOST_TIMES, ALWAYS_BYTES = 50, 64 << 20
"""Films do not get smaller in a zip: what unpacks to so many times its size is no lessons."""


class LessonFiles(Protocol):
    """Where lessons come from: files by their names, in folders."""

    def manifests(self) -> list[PurePosixPath]: ...
    def open(self, name: PurePosixPath) -> IO[bytes]: ...
    def read(self, name: PurePosixPath, most: int) -> bytes: ...


@contextmanager
def opened(source: Path) -> Iterator[LessonFiles]:
    try:
        if source.is_dir():
            yield _Folder(source)
            return
        demand_file(source)
        with zipfile.ZipFile(source) as packed:
            yield _Zip(packed)
    except FileNotFoundError as error:
        raise ParcelError(f"There is no file {shown(source)}.") from error
    except DAMAGED as error:
        raise ParcelError(f"{shown(source.name)} is no zip that can be read; nothing was kept.") from error
    except OSError as error:
        why = shown(error.strerror or error)
        raise ParcelError(f"{shown(source.name)} cannot be read ({why}); nothing was kept.") from error


class _Folder:
    """Lessons in a folder; no link in it is followed."""

    def __init__(self, root: Path) -> None:
        self._root = root

    def manifests(self) -> list[PurePosixPath]:
        here = [PurePosixPath(MANIFEST)] if (self._root / MANIFEST).is_file() else []
        under = [
            PurePosixPath(path.name) / MANIFEST
            for path in sorted(self._root.iterdir())
            if path.is_dir() and not path.is_symlink() and (path / MANIFEST).is_file()
        ]
        return here or under

    def _path(self, name: PurePosixPath) -> Path:
        path = self._root
        for part in name.parts:
            path = path / part
            if path.is_symlink():
                raise ParcelError(f"{shown(name.name)} is a link; nothing was kept.")
        if not path.is_file():
            raise KeyError(str(name))
        return path

    def open(self, name: PurePosixPath) -> IO[bytes]:
        return self._path(name).open("rb")

    def read(self, name: PurePosixPath, most: int) -> bytes:
        return read_bounded(self._path(name), most)


class _Zip:
    """Lessons in a zip; names in it are only ever compared, never taken as paths."""

    def __init__(self, packed: zipfile.ZipFile) -> None:
        self._packed = packed
        infos = packed.infolist()
        if len(infos) > 2 * MOST_FILES:
            raise ParcelError("The zip holds more files than lessons can; nothing was kept.")
        self._known: dict[str, zipfile.ZipInfo] = {}
        for info in infos:
            if str(PurePosixPath(info.filename)) != info.filename.rstrip("/"):
                raise ParcelError(f"{shown(info.filename)} is no plain name; nothing was kept.")
            if info.filename in self._known:
                raise ParcelError(f"{shown(info.filename)} stands twice in the zip; nothing was kept.")
            if stat.S_ISLNK(info.external_attr >> 16):
                raise ParcelError(f"{shown(info.filename)} is a link; nothing was kept.")
            self._known[info.filename] = info
        unpacked, packed_size = (sum(getattr(i, n) for i in infos) for n in ("file_size", "compress_size"))
        if unpacked > max(MOST_TIMES * packed_size, ALWAYS_BYTES):
            raise ParcelError("The zip would unpack to far more than it weighs; nothing was kept.")

    def manifests(self) -> list[PurePosixPath]:
        names = [PurePosixPath(name) for name in self._known if name.rsplit("/", 1)[-1] == MANIFEST]
        return [name for name in names if len(name.parts) <= 2]

    def open(self, name: PurePosixPath) -> IO[bytes]:
        return self._packed.open(self._known[str(name)])

    def read(self, name: PurePosixPath, most: int) -> bytes:
        with self.open(name) as stream:
            content = stream.read(most + 1)
        if len(content) > most:
            raise TooLargeError(27, "it is larger than it can be", str(name))
        return content
