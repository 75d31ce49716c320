"""Writing clips down that were dropped together: each gets its document, under its golfer where one is known.

So they can be read beside the desk without being opened, and nobody else's clip is taken for one of them.
"""

from __future__ import annotations

import contextlib
import uuid
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

from kneel.documents.finding import clip_of, documents_of, free_document
from kneel.documents.keeper import Keeper
from kneel.documents.swing_file import load_stamped, peek, save_swing
from kneel.evidence import Shelf, hear
from kneel.evidence.swings import parts_of, untouched
from kneel.footage import Clip, ClipInfo
from kneel.footage.content import content_of
from kneel.model import ClipRef, KneelError, Stature, Swing
from kneel.motion.body import NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA
from kneel.vision.landmarks import installed

GUESSED = ("view", "hand", "club", "kind", "scale", "capture_rate")
"""What nobody has said of a clip that was never opened."""

ONE_LESSON_S = 1800.0

MOST = 40
"""So many clips of a drop are written down; more of a folder are read once they are opened."""


def fresh_swing(info: ClipInfo) -> Swing:
    """The swing of a clip of which nothing is known yet."""
    return Swing(id=uuid.uuid4().hex, guessed=GUESSED).given(
        scale=Stature(NOMINAL_STATURE_CM, NOMINAL_STATURE_SIGMA),
        capture_rate=info.rate_captured,
        looked=installed(),
        guessed=GUESSED,
    )


def clip_ref(clip: Path, info: ClipInfo, content: str) -> ClipRef:
    """A clip as its document names it."""
    size = clip.stat().st_size
    return ClipRef(str(clip), info.frames, info.width, info.height, info.rate_stored, size, content)


def write_down(clips: Iterable[Path], golfer: str = "") -> list[Path]:
    """Give each clip a document where it has none, and each of its documents the golfer where it has none.

    Gives all their documents. What cannot be read or written is left out: opening it says why. For workers.
    """
    found: list[Path] = []
    for clip in list(clips)[:MOST]:
        with contextlib.suppress(KneelError, OSError, ValueError):
            documents = documents_of(clip)
            found += documents or [_written(clip, golfer)]
            for document in documents:
                name(document, golfer)
    return found


def filmed_near(one: Path, other: Path) -> bool:
    """Whether two clips were written within half an hour of each other: both are one student's then.

    Raises ``OSError``.
    """
    return abs(one.stat().st_mtime - other.stat().st_mtime) < ONE_LESSON_S


def name(document: Path, golfer: str) -> bool:
    """Give a document its golfer where it has none; whether it was written. Raises ``SwingFileError``."""
    if not golfer:
        return False
    swing, stamp = load_stamped(document)
    if swing.golfer:
        return False
    Keeper(document, stamp).save(swing.given(golfer=golfer, guessed=swing.guessed))
    return True


def parted(document: Path, stopped: Callable[[], bool] = lambda: False) -> list[Path]:
    """The documents of the swings of a clip, this one first. Where nobody has worked on a long clip, and no
    other document speaks of a part of it yet, it speaks of the first swing from now on, and each other swing
    gets its own.

    For workers. Raises ``FootageError``, ``SwingFileError`` or ``BodyModelError``.
    """
    swing, stamp = load_stamped(document)
    clip = clip_of(swing, document)
    if clip is None or not untouched(swing) or is_parted(clip):
        return [document]
    with Clip(clip) as film:
        info, start = film.info, film.start_s
    content, shelf = content_of(clip), Shelf(clip)
    strikes = hear(info, start, content, shelf)
    spans = parts_of(swing, info, content, strikes, shelf, stopped=stopped)
    # Its golfer may have been named meanwhile, or somebody works on it.
    swing, stamp = load_stamped(document)
    if not spans or stopped() or not untouched(swing):
        return [document]
    # Whatever is asked to stop now: a clip that is written down by half would lose swings.
    others = write_others(clip, swing, spans[1:])
    with _all_or_none(others):
        Keeper(document, stamp).save(swing.given(span=spans[0], guessed=swing.guessed))
    return [document, *others]


def is_parted(clip: Path) -> bool:
    """Whether one of its documents speaks of a part of a clip already."""
    return any((known := peek(path)) is not None and known.span for path in documents_of(clip))


def write_others(clip: Path, swing: Swing, spans: Sequence[tuple[int, int]]) -> tuple[Path, ...]:
    """A document beside the clip for each swing after its first, with what is known of that one; all, or none
    where one cannot be written. Raises ``SwingFileError``.
    """
    written: list[Path] = []
    with _all_or_none(written):
        for number, span in enumerate(spans, 2):
            path = free_document(clip, number)
            save_swing(path, swing.given(id=uuid.uuid4().hex, span=span, guessed=swing.guessed))
            written.append(path)
    return tuple(written)


@contextlib.contextmanager
def _all_or_none(written: Sequence[Path]) -> Iterator[None]:
    """Take away what was written where what belongs to it cannot be."""
    try:
        yield
    except KneelError:
        for path in written:
            path.unlink(missing_ok=True)
        raise


def _written(clip: Path, golfer: str) -> Path:
    with Clip(clip) as film:
        info = film.info
    known = clip_ref(clip, info, content_of(clip))
    document = free_document(clip)
    Keeper(document, None).save(fresh_swing(info).given(clip=known, golfer=golfer, guessed=GUESSED))
    return document
