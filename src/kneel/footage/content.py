"""Telling a file by what it holds, whatever it is called and wherever it lies."""

from __future__ import annotations

import hashlib
from pathlib import Path

from kneel.disk import demand_file

PART_BYTES = 1 << 20


def content_of(path: Path) -> str:
    """A short name for a file's content: size, and first, middle and last megabyte. Raises ``OSError``.

    Reading all of a long clip takes seconds; two clips that agree in size and
    in these three parts are one for all that is asked here.

    >>> import tempfile
    >>> folder = Path(tempfile.mkdtemp())
    >>> for name, words in (("a", b"swing"), ("b", b"swing"), ("c", b"slide")):
    ...     _ = (folder / name).write_bytes(words)
    >>> a, b, c = (content_of(folder / name) for name in "abc")
    >>> a == b, a == c
    (True, False)
    """
    size = demand_file(path).st_size
    told = hashlib.sha256(str(size).encode())
    with path.open("rb") as file:
        for start in sorted({0, max(size // 2 - PART_BYTES // 2, 0), max(size - PART_BYTES, 0)}):
            file.seek(start)
            told.update(file.read(PART_BYTES))
    return told.hexdigest()[:32]
