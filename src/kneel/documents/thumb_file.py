"""Where small pictures of a clip are kept, in the user's cache, by the clip they are of."""

from __future__ import annotations

import contextlib
from pathlib import Path

import platformdirs

from kneel.disk import token_of


def thumb_file(clip: Path, frame: int) -> Path | None:
    """The file of a frame's small picture as the clip is now; None for a clip that is not there."""
    try:
        facts = clip.stat()
    except OSError:
        return None
    return folder() / f"{token_of(clip)}-{facts.st_size:x}-{facts.st_mtime_ns:x}-{frame}.jpg"


def forget_thumbs(clip: Path) -> None:
    """Take all small pictures of a clip away."""
    with contextlib.suppress(OSError):
        for path in folder().glob(f"{token_of(clip)}-*.jpg"):
            path.unlink(missing_ok=True)


def folder() -> Path:
    """Where they lie."""
    return platformdirs.user_cache_path("kneel") / "thumbs"
