"""What of the program is looked through for examples that run."""

from __future__ import annotations

from pathlib import Path


def pytest_ignore_collect(collection_path: Path) -> bool | None:
    """Only files with an example in them."""
    return True if collection_path.suffix == ".py" and b">>>" not in collection_path.read_bytes() else None
