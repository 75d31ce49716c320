"""Writing files so that a crash leaves the old one or the new one, never half of either."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path


def write_text(path: Path, text: str) -> None:
    """Write UTF-8 text by way of a temporary file, fsync and rename. Raises ``OSError``."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.", suffix=".part")
    temporary = Path(name)
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="\n") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        temporary.chmod(0o644)
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
