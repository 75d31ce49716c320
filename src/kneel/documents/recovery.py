"""Work that could not be saved where it belongs, kept in the user's state until it can be."""

from __future__ import annotations

import contextlib
import os
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote_to_bytes

import msgspec
import platformdirs

from kneel.disk import read_bounded, token_of, write_bytes
from kneel.documents.swing_file import LARGEST_BYTES, VERSION, parse_swing, raw_swing, with_paths
from kneel.model import Swing, SwingFileError

RECOVERY = 1
SUFFIX = ".recovery.json"
DECLINED = ".declined.json"


class _Kept(msgspec.Struct, forbid_unknown_fields=True):
    kneel_recovery: int
    document: str
    why: str
    saved_at: float
    swing: dict[str, Any]


@dataclass(frozen=True)
class Recovered:
    """A swing that could not be saved as ``document``, and why; ``file`` is where it is kept."""

    file: Path
    document: Path
    why: str
    saved_at: float
    swing: Swing


def keep(document: Path, swing: Swing, why: str) -> Path:
    """Keep a swing that belongs to a document, over one kept before. Raises ``SwingFileError``."""
    file = _file(document)
    raw = msgspec.json.decode(raw_swing(swing, Path("/")))
    # A name may be of bytes that are no text; so it is written as addresses write theirs.
    kept = _Kept(RECOVERY, quote(os.fsencode(document)), why, time.time(), raw["swing"])
    try:
        file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_bytes(file, msgspec.json.format(msgspec.json.encode(kept), indent=1), private=True)
    except OSError as error:
        raise SwingFileError(
            f"The work on {document.name} could not be kept aside either ({error.strerror})."
        ) from error
    return file


def kept() -> list[Recovered]:
    """All that is kept, newest first; what cannot be read is passed over and stays."""
    found = []
    with contextlib.suppress(OSError):
        for file in sorted(folder().glob(f"*{SUFFIX}")):
            with contextlib.suppress(
                OSError, ValueError, RecursionError, msgspec.MsgspecError, SwingFileError
            ):
                found.append(_read(file))
    return sorted(found, key=lambda one: -one.saved_at)


def forget(document: Path) -> None:
    """The work on a document is safe again: what was kept of it goes."""
    with contextlib.suppress(OSError):
        _file(document).unlink(missing_ok=True)


def purge(document: Path) -> None:
    """The document is deleted: what was kept of it goes, also what the user did not want back."""
    forget(document)
    file = _file(document)
    with contextlib.suppress(OSError):
        file.with_name(file.name.removesuffix(SUFFIX) + DECLINED).unlink(missing_ok=True)


def set_aside(one: Recovered) -> None:
    """The user does not want it: it is not offered again, and stays where it is under another name."""
    with contextlib.suppress(OSError):
        one.file.rename(one.file.with_name(one.file.name.removesuffix(SUFFIX) + DECLINED))


def folder() -> Path:
    """Where it is kept."""
    return platformdirs.user_state_path("kneel") / "recovery"


def _read(file: Path) -> Recovered:
    one = msgspec.json.decode(read_bounded(file, LARGEST_BYTES), type=_Kept)
    raw = msgspec.json.encode({"kneel_swing": VERSION, "swing": one.swing})
    swing = parse_swing(raw, file.name)
    swing = with_paths(swing, lambda name: str(Path("/") / name))
    document = Path(os.fsdecode(unquote_to_bytes(one.document)))
    return Recovered(file, document, one.why, one.saved_at, swing)


def _file(document: Path) -> Path:
    return folder() / f"{token_of(document)}{SUFFIX}"
