"""``kneel``, ``kneel --demo`` and ``kneel open FILE``: the desk."""

from __future__ import annotations

import argparse
from pathlib import Path

from kneel.model import UsageError


def run(asked: argparse.Namespace) -> int:
    """Start the desk; one clear sentence where it cannot start."""
    try:
        from kneel.desk.shell.app import start
    except ImportError as error:
        raise UsageError(
            f"The window needs system libraries that are missing ({error}); run “make setup” to install them."
        ) from error
    return start(Path(asked.open) if asked.open else None, demo=asked.demo)
