"""Writing files so that a crash leaves the old one or the new one, never half of either."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path


def write_text(path: Path, text: str) -> None:
    """Write UTF-8 text as :func:`write_bytes` does. Raises ``OSError``."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path, content: bytes, *, lasting: bool = True) -> None:
    """Write by way of a temporary file, fsync and rename. Raises ``OSError``.

    Without ``lasting`` a crash may lose what was written, never leave half of it.
    """
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            if lasting:
                os.fsync(file.fileno())
        temporary.chmod(0o644)
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
    if not lasting:
        return
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
