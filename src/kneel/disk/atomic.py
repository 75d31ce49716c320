"""Writing files so that a crash leaves the old one or the new one, never half of either."""

from __future__ import annotations

import contextlib
import fcntl
import os
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from kneel.disk.regular import real_target

PART_PREFIX, PART_SUFFIX = ".kneel-", ".part"


def write_text(path: Path, text: str, *, private: bool = False, lasting: bool = True) -> None:
    """Write UTF-8 text as :func:`replacing` does. Raises ``OSError``."""
    write_bytes(path, text.encode("utf-8"), private=private, lasting=lasting)


def write_bytes(path: Path, content: bytes, *, private: bool = False, lasting: bool = True) -> None:
    """Write bytes as :func:`replacing` does. Raises ``OSError``."""
    with replacing(path, private=private, lasting=lasting) as part:
        part.write_bytes(content)


@contextmanager
def replacing(path: Path, *, private: bool = False, lasting: bool = True) -> Iterator[Path]:
    """A new file to fill, which takes the place of ``path`` once the block ends well.

    An existing file keeps its mode and group, a link goes on leading to it. A
    new one is as the user's mask has it, or with ``private`` for the owner
    alone, and for the group where the folder is the group's to write to.
    Without ``lasting`` a crash may lose what was written, never leave half of
    it. Raises ``OSError`` as :func:`kneel.disk.regular.real_target` does.
    """
    target = real_target(path)
    sweep(target.parent)
    handle, part = _part(target.parent)
    try:
        yield part
        _dress(handle, target, private=private)
        if lasting:
            os.fsync(handle)
        part.replace(target)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    finally:
        os.close(handle)
    if lasting:
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def _part(folder: Path) -> tuple[int, Path]:
    """A new file to write, held as long as it is open so that nobody takes it for one left behind."""
    while True:
        handle, name = tempfile.mkstemp(dir=folder, prefix=PART_PREFIX, suffix=PART_SUFFIX)
        with contextlib.suppress(OSError):
            fcntl.flock(handle, fcntl.LOCK_EX)
        # Another writer may have swept it away before it was held.
        if os.fstat(handle).st_nlink:
            return handle, Path(name)
        os.close(handle)


def sweep(folder: Path) -> None:
    """Take away parts left behind by a program that ended while writing."""
    with contextlib.suppress(OSError):
        for part in folder.glob(f"{PART_PREFIX}*{PART_SUFFIX}"):
            with contextlib.suppress(OSError):
                _take_away_if_left(part)
        for beside in folder.glob(f"{PART_PREFIX}*{PART_SUFFIX}-*"):
            # What a database kept beside its part while it was written.
            if not beside.with_name(beside.name.rpartition("-")[0]).exists():
                beside.unlink(missing_ok=True)


def _take_away_if_left(part: Path) -> None:
    handle = os.open(part, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        part.unlink()
    finally:
        os.close(handle)


def _dress(handle: int, target: Path, *, private: bool) -> None:
    """Give the new file the mode and group it is to have."""
    try:
        old = target.stat()
    except FileNotFoundError:
        group = target.parent.stat().st_mode & stat.S_IWGRP
        os.fchmod(handle, (0o660 if group else 0o600) if private else 0o666 & ~_mask())
        return
    with contextlib.suppress(OSError):
        os.fchown(handle, old.st_uid, old.st_gid)
    os.fchmod(handle, stat.S_IMODE(old.st_mode))


def _mask() -> int:
    """The user's file mode mask, read without setting it: other threads write files too."""
    with contextlib.suppress(OSError, ValueError, StopIteration):
        lines = Path("/proc/self/status").read_text(encoding="ascii", errors="replace").splitlines()
        return int(next(line for line in lines if line.startswith("Umask:")).split()[1], 8)
    return 0o077
