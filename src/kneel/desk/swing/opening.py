"""Opening a clip or a swing file off the interface thread."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject

from kneel.desk.operations.threads import send
from kneel.desk.swing.figures import Figures
from kneel.desk.swing.intake import clip_ref, fresh_swing
from kneel.disk import demand_file, shown
from kneel.documents.finding import (
    clip_of,
    documents_of,
    free_document,
    is_clip,
    linked_to,
    others_document,
)
from kneel.documents.keeper import Keeper
from kneel.documents.sight_file import load_sight
from kneel.documents.swing_file import SUFFIX, load_stamped
from kneel.evidence import Evidence, Shelf, Stretch, hear, known_evidence, supposed
from kneel.footage import FrameStore
from kneel.footage.content import content_of
from kneel.footage.hearing import in_real_time
from kneel.model import (
    CLIP_SUFFIXES,
    PHOTO_SUFFIXES,
    ClipGoneError,
    FootageError,
    KneelError,
    Sight,
    Swing,
    SwingFileError,
)
from kneel.model.two_takes import second_take, turned
from kneel.motion.checkpoints import Moment
from kneel.vision import Followed, Looked


@dataclass
class Opened:
    """What opening a clip gives: its frames, its document and who keeps it, and what is known of it.

    ``strikes`` are in stored seconds from the clip's first frame; ``looked``
    and ``followed`` are what was kept, None for a looking that was not;
    ``figures`` what all of that comes to; ``notes`` are sentences for the user. ``second`` is the clip of
    another camera, which has no keeper: there is one document.
    """

    store: FrameStore
    callbacks: Callbacks
    swing: Swing
    keeper: Keeper | None
    sight: Sight | None
    content: str
    shelf: Shelf
    strikes: tuple[Moment, ...] = ()
    looked: Looked | None = None
    followed: Followed = field(default_factory=Followed)
    figures: Figures = field(default_factory=Figures)
    notes: tuple[str, ...] = ()
    second: Opened | None = None

    @property
    def document(self) -> Path | None:
        return self.keeper.path if self.keeper else None

    def let_go(self) -> None:
        """Nobody wants it: close the clip and let other desks have the document."""
        self.callbacks.stop()
        self.store.close()
        if self.keeper is not None:
            self.keeper.release()
        if self.second is not None:
            self.second.let_go()


class Callbacks:
    """What a frame store tells, from threads of its own, passed on in the interface thread.

    Once stopped, or once the ``owner`` is gone, nothing is passed on any more.
    """

    def __init__(self, owner: QObject, *told: Callable[..., None]) -> None:
        self._stopped = threading.Event()
        self._told = told
        self.ready, self.filling, self.failed = (self._passed_on(which) for which in range(3))
        owner.destroyed.connect(self.stop)

    def stop(self, _: object = None) -> None:
        self._stopped.set()

    def hand_over(self, *told: Callable[..., None]) -> None:
        """From now on others hear of it: the clip is shown elsewhere on the desk."""
        self._told = told

    def _passed_on(self, which: int) -> Callable[..., None]:
        def here(*values: object) -> None:
            if not self._stopped.is_set():
                self._told[which](*values)

        return lambda *values: send(partial(here, *values))


@dataclass(frozen=True)
class _Found:
    """A clip, where its document lies, and the swing in it with its stamp where there is one."""

    clip: Path
    document: Path
    swing: Swing | None = None
    stamp: str | None = None
    notes: tuple[str, ...] = ()


def open_swing(
    path: Path,
    callbacks: Callbacks,
    *,
    clip: Path | None = None,
    school: str = "",
    second: Callbacks | None = None,
) -> Opened:
    """Open a clip with the document that names it, or a document with its clip.

    ``clip`` is where the user says that the document's clip lies now, ``school`` what judges it from now on
    where its own is not known here; with ``second`` the clip of another camera is opened too, where the
    document has one. Runs in a worker thread. Raises ``FootageError`` or ``SwingFileError``.
    """
    found = _found(path, clip, school)
    keeper = Keeper(found.document, found.stamp).hold()
    try:
        if school and found.swing is not None:
            # Whoever reads the document next has to be able to judge it, too.
            keeper.save(found.swing)
        opened = _stored(found, callbacks, keeper)
    except BaseException:
        keeper.release()
        raise
    if second is not None and second_take(opened.swing) is not None:
        try:
            opened.second = open_second(opened.swing, found.document, second)
        except (KneelError, OSError) as error:
            opened.notes += (f"The other camera's clip is not shown: {error}",)
        else:
            opened.figures = opened.figures.joined(opened.second.figures.own)
    opened.figures = opened.figures.ahead()
    return opened


def open_second(swing: Swing, document: Path, callbacks: Callbacks) -> Opened:
    """Open the clip of a swing's second take, which has no document of its own.

    Raises ``FootageError`` or ``SwingFileError``.
    """
    seen = turned(swing)
    clip = clip_of(seen, document)
    if seen.clip is None:
        raise ClipGoneError("the document names none.", document)
    if clip is None or not is_clip(seen.clip, clip):
        raise ClipGoneError(
            f"{shown(Path(seen.clip.path).name)} is gone, or was replaced; the marks on it are safe. "
            "Put it back, and open the swing again.",
            document,
        )
    return _stored(_Found(clip, document, seen), callbacks, None)


def open_to_read(document: Path, callbacks: Callbacks, second: Callbacks | None = None) -> Opened:
    """Open a swing that is only looked at: nobody else is kept from working on it, and nothing is saved.

    With ``second`` the clip of another camera is opened too, where the document has one. Raises
    ``FootageError`` or ``SwingFileError``.
    """
    swing, _ = load_stamped(document)
    clip = clip_of(swing, document)
    if swing.clip is None or clip is None or not is_clip(swing.clip, clip):
        name = shown(Path(swing.clip.path if swing.clip is not None else document).name)
        raise ClipGoneError(f"The clip {name} is gone, or was replaced; put it back.", document)
    opened = _stored(_Found(clip, document, swing), callbacks, None)
    if second is not None and second_take(swing) is not None:
        try:
            opened.second = open_second(swing, document, second)
        except (KneelError, OSError):
            return opened
        opened.figures = opened.figures.joined(opened.second.figures.own)
        _, opened.second.figures = opened.second.figures.exchanged(opened.figures)
    return opened


def _stored(found: _Found, callbacks: Callbacks, keeper: Keeper | None) -> Opened:
    store = FrameStore(
        found.clip,
        reach=found.swing.span if found.swing else None,
        on_ready=callbacks.ready,
        on_progress=callbacks.filling,
        on_error=callbacks.failed,
    )
    try:
        return _opened(store, callbacks, found, keeper)
    except BaseException:
        store.close()
        raise


def _found(path: Path, clip: Path | None, school: str = "") -> _Found:
    if not path.name.endswith(SUFFIX):
        try:
            demand_file(path)
        except FileNotFoundError as error:
            raise FootageError(f"There is no file {shown(path)}.") from error
        except (OSError, ValueError) as error:
            why = getattr(error, "strerror", None) or "its name cannot be"
            raise FootageError(f"{shown(path.name)} cannot be opened: {shown(why)}.") from error
        documents = documents_of(path)
        own = load_stamped(documents[0], school) if documents else None
        for linked in linked_to(path):
            take = second_take(load_stamped(linked, school)[0])
            if take is not None and (own is None or take.start == own[0].take.start):
                # It is the second camera's of a swing, and is worked on with the first.
                return _found(linked, None, school)
        if own is not None:
            return _Found(path, documents[0], *own)
        return _Found(path, free_document(path), notes=_about_another(path))
    swing, stamp = load_stamped(path, school)
    if swing.clip is None:
        raise SwingFileError(f"{shown(path.name)} names no clip; open the clip itself.")
    clip = clip or clip_of(swing, path)
    if clip is None:
        raise ClipGoneError(
            f"The clip of {shown(path.name)} is not at {shown(swing.clip.path)}; the marks are safe. "
            "Put the clip beside the document, or look for it.",
            path,
        )
    if not is_clip(swing.clip, clip):
        raise ClipGoneError(
            f"{shown(clip.name)} is not the clip that {shown(path.name)} was made on: it was replaced, "
            "cut or written anew. The marks are safe and were not moved. Look for the old clip, or open the "
            "new one itself to start anew.",
            path,
        )
    return _Found(clip, path, swing, stamp)


def _about_another(clip: Path) -> tuple[str, ...]:
    other = others_document(clip)
    if other is None:
        return ()
    return (
        f"{shown(other.name)} was made on another clip called {shown(clip.name)}, which was replaced, cut or "
        "written anew. Its marks are safe and were not moved here; open it to look for its own clip.",
    )


def _opened(store: FrameStore, callbacks: Callbacks, found: _Found, keeper: Keeper | None) -> Opened:
    info, content, swing = store.info, content_of(found.clip), found.swing
    if swing is None:
        swing = fresh_swing(info)
    known = swing.clip
    if known is not None and not known.content and known.frames != info.frames:
        raise ClipGoneError(
            f"{shown(found.clip.name)} has {info.frames} frames, and {shown(found.document.name)} was made "
            f"on a clip of {known.frames}. The marks are safe and were not moved. Look for the old clip.",
            found.document,
        )
    try:
        swing = swing.given(clip=clip_ref(found.clip, info, content))
    except ValueError as error:
        raise SwingFileError(
            f"{shown(found.document.name)} and its clip do not fit together ({error}); both are untouched."
        ) from error
    shelf = Shelf(found.clip)
    strikes = hear(info, store.start_s, content, shelf)
    stretch = Stretch.of(swing, info, content, store.peek)
    looked, followed = known_evidence(swing, stretch, shelf)
    heard = in_real_time(strikes, info, swing.capture_rate)
    counted = looked if looked is not None and swing.looked else Looked()
    swing = supposed(swing, counted)
    figures = Figures.of(swing, stretch, Evidence(counted, followed, heard))
    sight = load_sight(found.document) if keeper is not None else None
    notes = found.notes + (() if keeper is None or keeper.alone else (_two_desks(found.document),))
    return Opened(
        store, callbacks, swing, keeper, sight, content, shelf, strikes, looked, followed, figures, notes
    )


def _two_desks(document: Path) -> str:
    return (
        f"{shown(document.name)} is open on another desk too. Both may change it; "
        "Kneel asks before one replaces the other's work."
    )


def _kept_photo(path: Path) -> bool:
    """Whether a picture is one that somebody opened and that has a document."""
    return path.suffix.lower() in PHOTO_SUFFIXES and path.with_name(path.stem + SUFFIX).exists()


def clips_beside(path: Path) -> list[Path]:
    """The clips of the lesson: those in the same folder, by name."""
    try:
        every = [p for p in path.parent.iterdir() if p.is_file()]
        found = [p for p in every if p.suffix.lower() in CLIP_SUFFIXES or _kept_photo(p)]
    except OSError:
        return []
    return sorted(found, key=lambda p: p.name.lower())
