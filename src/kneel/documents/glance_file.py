"""What a swing showed when last judged, in the user's cache, so that a rack need not judge it again."""

from __future__ import annotations

import contextlib
from pathlib import Path

import msgspec
import platformdirs

from kneel.disk import read_bounded, token_of, write_text
from kneel.documents.swing_file import disk_stamp
from kneel.model import View

LARGEST_BYTES = 1 << 16


class Glance(msgspec.Struct, frozen=True):
    """``address`` is the frame of the swing that shows it, ``faults`` how many are at work, ``root`` the
    first; ``unsure`` whether nothing is told, or what may well be at fault is not; ``view`` from where it
    was judged.

    ``stamp`` is that of the document when this was found; another one makes it old.
    """

    stamp: str = ""
    address: int | None = None
    faults: int = 0
    watches: int = 0
    root: str = ""
    unsure: bool = False
    view: View | None = None


def load_glance(document: Path) -> Glance | None:
    """What a document's swing showed last; None where that is unknown or old."""
    try:
        known = msgspec.json.decode(read_bounded(_path(document), LARGEST_BYTES), type=Glance)
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError):
        return None
    return known if known.stamp == _stamp(document) else None


def save_glance(document: Path, glance: Glance) -> None:
    """Keep it; where that cannot be written nothing is lost."""
    path = _path(document)
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        fresh = msgspec.structs.replace(glance, stamp=_stamp(document))
        write_text(path, msgspec.json.encode(fresh).decode(), private=True, lasting=False)
    except OSError:
        return


def forget_glance(document: Path) -> None:
    """Take away what is kept of a document."""
    with contextlib.suppress(OSError):
        _path(document).unlink(missing_ok=True)


def _stamp(document: Path) -> str:
    return disk_stamp(document) or "none"


def _path(document: Path) -> Path:
    return platformdirs.user_cache_path("kneel") / "glances" / f"{token_of(document)}.json"
