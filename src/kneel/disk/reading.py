"""Reading a small file whole, without waiting for what never answers and without taking all memory."""

from __future__ import annotations

import errno
import os
from pathlib import Path

from kneel.disk.regular import _demand_regular


class TooLargeError(OSError):
    """A file larger than its kind can be."""


def read_bounded(path: Path, most_bytes: int) -> bytes:
    """The bytes of a regular file. Raises ``OSError``, among it ``NotAFileError`` and ``TooLargeError``."""
    # A pipe without a writer would keep a plain open waiting.
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        _demand_regular(os.fstat(handle).st_mode, path)
        content = file.read(most_bytes + 1)
    if len(content) > most_bytes:
        raise TooLargeError(errno.EFBIG, "it is larger than such a file can be", str(path))
    return content
