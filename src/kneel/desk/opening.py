"""Opening a clip or a swing file off the interface thread."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from kneel.book.finding import clip_of, documents_of, free_document, is_clip
from kneel.book.sight_file import load_sight
from kneel.book.swing_file import SUFFIX, load_swing
from kneel.evidence import Shelf, Stretch, hear, known_evidence
from kneel.footage import FrameStore
from kneel.footage.content import content_of
from kneel.model import ClipRef, Sight, Stature, Swing, SwingFileError
from kneel.motion.body import NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA
from kneel.motion.checkpoints import Moment
from kneel.vision import Followed, Looked
from kneel.vision.landmarks import installed

CLIP_SUFFIXES = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi")
"""What counts as a clip in a folder; any file may be tried by name."""

GUESSED = ("view", "hand", "club", "scale", "capture_rate")


@dataclass
class Opened:
    """What opening a clip gives: its frames, its document and where that lies, and what is known of it.

    ``strikes`` are in stored seconds from the clip's first frame; ``looked``
    and ``followed`` are what was kept, None for a looking that was not.
    """

    store: FrameStore
    swing: Swing
    document: Path
    sight: Sight | None
    content: str
    shelf: Shelf
    strikes: tuple[Moment, ...] = ()
    looked: Looked | None = None
    followed: Followed = field(default_factory=Followed)


@dataclass(frozen=True)
class Callbacks:
    """What the frame store tells, from threads of its own."""

    ready: Callable[[int], None]
    filling: Callable[[int, int], None]
    failed: Callable[[str], None]


def open_swing(path: Path, callbacks: Callbacks) -> Opened:
    """Open a clip with the document that names it, or a document with its clip.

    Runs in a worker thread. Raises ``FootageError`` or ``SwingFileError``.
    """
    clip, document, swing = _found(path)
    store = FrameStore(
        clip,
        reach=swing.span if swing else None,
        on_ready=_guarded(callbacks.ready),
        on_progress=_guarded(callbacks.filling),
        on_error=_guarded(callbacks.failed),
    )
    try:
        return _opened(store, clip, document, swing)
    except BaseException:
        store.close()
        raise


def _found(path: Path) -> tuple[Path, Path, Swing | None]:
    """The clip, its document and the swing in it, None for a clip nobody has opened yet."""
    if not path.name.endswith(SUFFIX):
        documents = documents_of(path)
        if not documents:
            return path, free_document(path), None
        return path, documents[0], load_swing(documents[0])
    swing = load_swing(path)
    if swing.clip is None:
        raise SwingFileError(f"{path.name} names no clip; open the clip itself.")
    clip = clip_of(swing, path)
    if clip is None:
        raise SwingFileError(
            f"The clip of {path.name} is not at {swing.clip.path}; the marks are safe. "
            "Put the clip beside the document and open it again."
        )
    if not is_clip(swing.clip, clip):
        raise SwingFileError(
            f"{clip.name} is not the clip that {path.name} was made on; the marks are safe. "
            "Put the old clip back, or open the new one itself to start anew."
        )
    return clip, path, swing


def _opened(store: FrameStore, clip: Path, document: Path, swing: Swing | None) -> Opened:
    info, content = store.info, content_of(clip)
    if swing is None:
        swing = Swing(id=uuid.uuid4().hex, guessed=GUESSED).given(
            scale=Stature(NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA),
            capture_rate=info.rate_captured,
            looked=installed(),
            guessed=GUESSED,
        )
    size = clip.stat().st_size
    clip_ref = ClipRef(str(clip), info.frames, info.width, info.height, info.rate_stored, size, content)
    swing = swing.given(clip=clip_ref)
    shelf = Shelf(clip)
    strikes = hear(info, store.start_s, content, shelf)
    looked, followed = known_evidence(swing, Stretch.of(swing, info, content), shelf)
    return Opened(store, swing, document, load_sight(document), content, shelf, strikes, looked, followed)


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
