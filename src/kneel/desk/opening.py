"""Opening a clip or a swing file off the interface thread."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from kneel.book.swing_file import SUFFIX, load_swing, swing_path, swings_of
from kneel.desk.session import Opened, Session
from kneel.footage import FrameStore
from kneel.footage.hearing import heard_strikes
from kneel.model import ClipRef, Stature, Swing, SwingFileError
from kneel.motion.body import NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA
from kneel.vision.landmarks import installed

CLIP_SUFFIXES = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi")
"""What counts as a clip in a folder; any file may be tried by name."""

GUESSED = ("view", "hand", "club", "scale", "capture_rate")


def open_swing(path: Path, session: Session) -> Opened:
    """Open a clip with the document beside it, or a document with its clip.

    Runs in a worker thread; the store's callbacks become signals of
    ``session``. Raises ``FootageError`` or ``SwingFileError``.
    """
    if path.name.endswith(SUFFIX):
        swing = load_swing(path)
        if swing.clip is None:
            raise SwingFileError(f"{path.name} names no clip; open the clip itself.")
        clip, document = Path(swing.clip.path), path
    else:
        clip, document = path, swing_path(path)
        several = swings_of(clip)
        document = several[0] if several and not document.exists() else document
        swing = load_swing(document) if document.exists() else None
    store = FrameStore(
        clip,
        reach=swing.span if swing else None,
        on_ready=_guarded(session.picture_ready.emit),
        on_progress=_guarded(session.filling.emit),
        on_error=_guarded(session.failed.emit),
    )
    info = store.info
    if swing is None:
        scale = Stature(NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA)
        swing = Swing(scale=scale, capture_rate=info.rate_captured, guessed=GUESSED, looked=installed())
    reference = ClipRef(
        str(clip), info.frames, info.width, info.height, info.rate_stored, clip.stat().st_size
    )
    strikes = heard_strikes(info, store.start_s, None)
    return Opened(store, msgspec.structs.replace(swing, clip=reference), document, strikes)


def clips_beside(path: Path) -> list[Path]:
    """The clips of the lesson: those in the same folder, by name."""
    try:
        found = [p for p in path.parent.iterdir() if p.suffix.lower() in CLIP_SUFFIXES and p.is_file()]
    except OSError:
        return []
    return sorted(found, key=lambda p: p.name.lower())


def _guarded(emit: Callable[..., None]) -> Callable[..., None]:
    """A callback that outlives its window quietly."""

    def call(*values: object) -> None:
        try:
            emit(*values)
        except RuntimeError:
            return

    return call
