"""What is collected."""

from __future__ import annotations

from pathlib import Path


def pytest_ignore_collect(collection_path: Path, config: object) -> bool | None:  # noqa: ARG001
    """Of the program only files with an example in them are looked through for examples."""
    ours = collection_path.suffix == ".py" and "src" in collection_path.parts
    return True if ours and b">>>" not in collection_path.read_bytes() else None
