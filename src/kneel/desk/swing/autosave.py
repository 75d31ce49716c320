"""Saving by itself, in the background, and never losing what could not be saved."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.desk.operations import Task, Workers
from kneel.disk import shown
from kneel.documents import recovery
from kneel.documents.keeper import ChangedElsewhereError, Keeper
from kneel.documents.sight_file import save_sight
from kneel.documents.swing_file import disk_stamp, why
from kneel.model import KneelError, Sight, Swing, SwingFileError

SAVE_AFTER_MS = 400
TRY_AGAIN_MS = 15_000
CLOSING_S = 2.0
ASIDE_S = 2.0


LOG = logging.getLogger(__name__)


@dataclass
class _Open:
    """One document as long as it is open. What is written late, for one that is closed, changes no other.

    ``safe`` is what the disk holds, ``aside`` what the recovery place does.
    """

    keeper: Keeper
    now: Swing
    safe: Swing
    aside: Swing | None = None

    @property
    def dirty(self) -> bool:
        return self.now is not self.safe and self.now != self.safe

    def write(self, swing: Swing, write: Callable[[Swing], None]) -> None:
        """Write a swing, or keep it aside and raise ``KneelError``; runs in a worker."""
        try:
            write(swing)
        except KneelError as error:
            self.keep(swing, str(error))
            raise
        self.safe = swing
        recovery.forget(self.keeper.path)

    def move(self, keeper: Keeper) -> None:
        """Go on in another document, which holds the work already."""
        old, self.keeper = self.keeper, keeper
        recovery.forget(old.path)
        old.release()

    def keep(self, swing: Swing, why: str) -> bool:
        """Keep a swing in the recovery place; False where that is not possible either."""
        try:
            recovery.keep(self.keeper.path, swing, why)
        except KneelError:
            LOG.warning("work could not be kept aside", exc_info=True)
            return False
        self.aside = swing
        return True

    def close(self, swing: Swing) -> None:
        """Save with nobody there to be asked any more: of two states both stay."""
        try:
            self.keeper.save(swing)
        except ChangedElsewhereError:
            self.keeper.beside(swing).release()


class Autosave(QObject):
    """Keeps one document safe. ``saved`` tells that it is, ``troubled`` a sentence where it is not.

    ``clashed`` tells that another desk has saved it meanwhile; both states are
    then kept until :meth:`take_theirs`, :meth:`put_ours` or :meth:`keep_both`
    says which one goes on. Whatever cannot be saved lies in the recovery place
    until it can.
    """

    saved = pyqtSignal()
    troubled = pyqtSignal(str)
    clashed = pyqtSignal(str)
    moved = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._open: _Open | None = None
        self._sight: Sight | None = None
        self._sight_saved: Sight | None = None
        self._in_doubt = False
        self.trouble = ""
        self._workers = Workers(self)
        self._soon = QTimer(self, singleShot=True, interval=SAVE_AFTER_MS)
        self._soon.timeout.connect(self.save)
        self._again = QTimer(self, interval=TRY_AGAIN_MS)
        self._again.timeout.connect(self.save)

    # What is kept

    @property
    def safe(self) -> Swing | None:
        """The document as the disk holds it."""
        return self._open.safe if self._open else None

    @property
    def stamp(self) -> str | None:
        """The state of the document last read or written here."""
        return self._open.keeper.stamp if self._open else None

    def settle(self) -> None:
        """Wait until what is being saved is saved, in a thread that may wait."""
        self._workers.wait(CLOSING_S)

    @property
    def path(self) -> Path | None:
        return self._open.keeper.path if self._open else None

    @property
    def dirty(self) -> bool:
        """Whether there is work that the document on the disk does not hold."""
        return self._open is not None and self._open.dirty

    def begin(self, keeper: Keeper, swing: Swing, sight: Sight) -> None:
        """Take up a document just opened. What was merely opened is not written."""
        self._open = _Open(keeper, swing, swing)
        self._sight = self._sight_saved = sight
        self._in_doubt, self.trouble = False, ""

    def touch(self, swing: Swing) -> None:
        """The document has changed: save it in a moment."""
        if self._open is None:
            return
        self._open.now = swing
        # Not put off by the next change: who marks quickly is saved as often.
        if not self._soon.isActive():
            self._soon.start()

    def look(self, sight: Sight) -> None:
        """How the swing is looked at; kept when the document is, or on closing."""
        self._sight = sight

    # Saving

    def save(self) -> None:
        """Have the document written where it has changed."""
        self._soon.stop()
        opened, sight = self._open, self._sight
        if opened is None:
            return
        if sight is not None and sight != self._sight_saved:
            self._sight_saved, path = sight, opened.keeper.path
            self._workers.start(Task(lambda _: save_sight(path, sight)))
        if not self.dirty:
            return
        if self._in_doubt:
            self.put_aside()
        else:
            self._start(opened.keeper.save)

    def keep_both(self) -> None:
        """Leave the document as the other desk saved it, and go on in one beside it."""
        opened = self._open
        if opened is not None:
            self._start(lambda swing: opened.move(opened.keeper.beside(swing)))

    def put_ours(self) -> None:
        """Replace what another desk saved by what is here: the user has said so."""
        if self._open is not None:
            self._start(self._open.keeper.replace)

    def take_theirs(self, take: Callable[[Swing], None]) -> None:
        """Go on with what another desk saved; ``take`` puts it on the desk, as a step that can be undone."""
        opened = self._open
        if opened is None:
            return

        def read(_: Task) -> Swing:
            opened.safe = opened.keeper.theirs()
            recovery.forget(opened.keeper.path)
            return opened.safe

        def taken(swing: Swing) -> None:
            self._in_doubt = False
            take(swing)
            self._settled("")

        self._run(read, taken)

    def save_elsewhere(self, path: Path) -> None:
        """Go on in another document, chosen by the user, who has agreed to replace what lies there."""

        opened = self._open
        if opened is None:
            return

        def write(swing: Swing) -> None:
            try:
                other = Keeper(path, disk_stamp(path))
            except OSError as error:
                raise SwingFileError(f"{shown(path.name)} could not be saved ({why(error)}).") from error
            other.replace(swing)
            opened.move(other.hold())

        self._start(write)

    def flush(self) -> bool:
        """Save what is not saved, in two seconds at most; False where it is safe nowhere."""
        self._soon.stop()
        opened = self._open
        if opened is None or not opened.dirty:
            return True
        self._start(opened.close)
        self._workers.wait(CLOSING_S)
        return not opened.dirty or self.put_aside()

    def let_go(self) -> None:
        """The document is closed: what was not saved is safe elsewhere, or not wanted."""
        opened, sight = self._open, self._sight
        self._again.stop()
        self._soon.stop()
        self._open = self._sight = None
        self.trouble = ""
        self.troubled.emit("")
        if opened is not None:

            def last(_: Task) -> None:
                if sight is not None:
                    save_sight(opened.keeper.path, sight)
                opened.keeper.release()

            self._workers.start(Task(last))

    def put_aside(self) -> bool:
        """Keep a copy of unsaved work in the recovery place at once: the program may be about to end."""
        opened = self._open
        if opened is None or not opened.dirty or opened.aside == opened.now:
            return True
        kept, swing = threading.Event(), opened.now
        words = self.trouble or "Kneel was closed before it could be saved"

        def keep() -> None:
            if opened.keep(swing, words):
                kept.set()

        threading.Thread(target=keep, daemon=True).start()
        return kept.wait(ASIDE_S)

    # In a worker, and back on the desk

    def _start(self, write: Callable[[Swing], None]) -> None:
        opened = self._open
        if opened is None:
            return
        swing, before = opened.now, opened.keeper.path

        def done(_: object) -> None:
            self._in_doubt = False
            if opened.keeper.path != before:
                self.moved.emit()
            self._settled("")
            self.saved.emit()

        self._run(lambda _: opened.write(swing, write), done)

    def _run(self, work: Callable[[Task], object], done: Callable[..., None]) -> None:
        opened = self._open

        def finished(answer: object) -> None:
            # What was written after another document was opened concerns nobody any more.
            if opened is self._open:
                done(answer)

        def failed(error: Exception) -> None:
            if opened is not self._open:
                return
            clash = isinstance(error, ChangedElsewhereError)
            self._in_doubt = self._in_doubt or clash
            self._settled(str(error))
            if clash:
                self.clashed.emit(str(error))

        self._workers.start(Task(work, done=finished, failed=failed))

    def _settled(self, trouble: str) -> None:
        self.trouble = trouble
        if trouble and not self._in_doubt:
            self._again.start()
        else:
            self._again.stop()
        self.troubled.emit(trouble)
