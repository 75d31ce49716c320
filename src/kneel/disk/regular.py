"""Which files may be read and replaced: regular ones, and links to such."""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path


class NotAFileError(OSError):
    """What is no regular file: a folder, a pipe, a device. ``strerror`` says which."""


_KINDS = (
    (stat.S_ISDIR, "it is a folder"),
    (stat.S_ISFIFO, "it is a pipe, not a file"),
    (stat.S_ISSOCK, "it is a socket, not a file"),
    (stat.S_ISCHR, "it is a device, not a file"),
    (stat.S_ISBLK, "it is a device, not a file"),
)


def demand_file(path: Path) -> os.stat_result:
    """The state of a regular file. Raises :class:`NotAFileError`, or ``OSError``."""
    found = path.stat()
    _demand_regular(found.st_mode, path)
    return found


def _demand_regular(mode: int, path: Path) -> None:
    if not stat.S_ISREG(mode):
        words = next((words for is_it, words in _KINDS if is_it(mode)), "it is not a regular file")
        raise NotAFileError(errno.EINVAL, words, str(path))


def real_target(path: Path) -> Path:
    """The file that writing ``path`` would replace: what a link leads to.

    Raises :class:`NotAFileError` where that is no regular file, ``PermissionError``
    where it is one that nobody may write to, ``OSError`` where its folder is missing.
    """
    target = Path(os.path.realpath(path))
    try:
        found = target.stat()
    except FileNotFoundError:
        found = None
    if found is not None:
        _demand_regular(found.st_mode, path)
        # A superuser may write to anything; a file that says "read only" means it all the same.
        if not found.st_mode & 0o222 or not os.access(target, os.W_OK):
            raise PermissionError(errno.EACCES, "it is read-only", str(path))
    elif path.name in ("", ".", "..") or str(path).endswith(os.sep):
        raise NotAFileError(errno.EINVAL, "it names no file", str(path))
    if not target.parent.is_dir():
        raise FileNotFoundError(errno.ENOENT, "its folder is missing", str(path))
    if not os.access(target.parent, os.W_OK | os.X_OK):
        raise PermissionError(errno.EACCES, "its folder may not be written to", str(path))
    return target


def writable_reason(path: Path) -> str | None:
    """Why ``path`` cannot be written, None where it can be."""
    try:
        real_target(path)
        return None
    except (OSError, ValueError) as error:
        return getattr(error, "strerror", None) or str(error)


def same_file(one: Path, other: Path) -> bool:
    """Whether two paths lead to one file, by links of either kind or by name."""
    try:
        return one.samefile(other)
    except (OSError, ValueError):
        pass
    try:
        return os.path.realpath(one) == os.path.realpath(other)
    except (OSError, ValueError):
        return False
