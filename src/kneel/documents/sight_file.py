"""How swings were last looked at, in the user's state: looking at a swing writes no document."""

from __future__ import annotations

import contextlib
import logging
from pathlib import Path

import msgspec
import platformdirs

from kneel.disk import read_bounded, token_of, write_text
from kneel.model import Sight

LOG = logging.getLogger(__name__)

KEPT_FILES = 2000
LARGEST_BYTES = 1 << 20


def load_sight(document: Path) -> Sight | None:
    """How a document's swing was last looked at; None where it never was."""
    try:
        return msgspec.json.decode(read_bounded(_path(document), LARGEST_BYTES), type=Sight)
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError):
        return None


def save_sight(document: Path, sight: Sight) -> None:
    """Keep how it is looked at; where that cannot be written nothing is lost but the place."""
    path = _path(document)
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        write_text(path, msgspec.json.encode(sight).decode(), private=True, lasting=False)
        for old in sorted(path.parent.glob("*.json"), key=lambda p: p.stat().st_mtime)[:-KEPT_FILES]:
            old.unlink()
    except OSError:
        LOG.info("the place last looked at is not kept", exc_info=True)


def forget_sight(document: Path) -> None:
    """Take away how a document was looked at."""
    with contextlib.suppress(OSError):
        _path(document).unlink(missing_ok=True)


def _path(document: Path) -> Path:
    return platformdirs.user_state_path("kneel") / "sights" / f"{token_of(document)}.json"
