"""Saving by itself, in the background, and never losing what could not be saved."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import recovery
from kneel.book.keeper import ChangedElsewhereError, Keeper
from kneel.book.sight_file import save_sight
from kneel.book.swing_file import disk_stamp
from kneel.desk.tasks import Task, Workers
from kneel.model import KneelError, Sight, Swing

SAVE_AFTER_MS = 400
TRY_AGAIN_MS = 15_000
CLOSING_S = 2.0
ASIDE_S = 1.0


LOG = logging.getLogger(__name__)


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
        self._keeper: Keeper | None = None
        self._now: Swing | None = None
        self._sight: Sight | None = None
        self._sight_saved: Sight | None = None
        self._safe: Swing | None = None
        self._aside: Swing | None = None
        self._in_doubt = False
        self.trouble = ""
        self._state = threading.Lock()
        self._workers = Workers(self)
        self._opening = object()
        self._soon = QTimer(self, singleShot=True, interval=SAVE_AFTER_MS)
        self._soon.timeout.connect(self.save)
        self._again = QTimer(self, interval=TRY_AGAIN_MS)
        self._again.timeout.connect(self.save)

    # What is kept

    @property
    def safe(self) -> Swing | None:
        """The document as the disk holds it."""
        return self._safe

    @property
    def stamp(self) -> str | None:
        """The state of the document last read or written here."""
        return self._keeper.stamp if self._keeper else None

    def settle(self) -> None:
        """Wait until what is being saved is saved, in a thread that may wait."""
        self._workers.wait(CLOSING_S)

    @property
    def path(self) -> Path | None:
        return self._keeper.path if self._keeper else None

    @property
    def dirty(self) -> bool:
        """Whether there is work that the document on the disk does not hold."""
        return self._now is not None and self._now is not self._safe and self._now != self._safe

    def begin(self, keeper: Keeper, swing: Swing, sight: Sight) -> None:
        """Take up a document just opened. What was merely opened is not written."""
        self._opening = object()
        self._keeper, self._now, self._safe, self._aside = keeper, swing, swing, None
        self._sight = self._sight_saved = sight
        self._in_doubt, self.trouble = False, ""

    def touch(self, swing: Swing) -> None:
        """The document has changed: save it in a moment."""
        self._now = swing
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
        keeper, sight = self._keeper, self._sight
        if keeper is None:
            return
        if sight is not None and sight != self._sight_saved:
            self._sight_saved = sight
            self._workers.start(Task(lambda _: save_sight(keeper.path, sight)))
        if not self.dirty:
            return
        if self._in_doubt:
            self.put_aside()
        else:
            self._start(keeper.save)

    def keep_both(self) -> None:
        """Leave the document as the other desk saved it, and go on in one beside it."""
        keeper = self._keeper
        if keeper is not None:
            self._start(lambda swing: self._move(keeper.beside(swing)))

    def put_ours(self) -> None:
        """Replace what another desk saved by what is here: the user has said so."""
        if self._keeper is not None:
            self._start(self._keeper.replace)

    def take_theirs(self, take: Callable[[Swing], None]) -> None:
        """Go on with what another desk saved; ``take`` puts it on the desk, as a step that can be undone."""
        keeper = self._keeper
        if keeper is None:
            return

        def read(_: Task) -> Swing:
            return keeper.theirs()

        def taken(swing: Swing) -> None:
            if self._keeper is keeper:
                self._in_doubt, self._safe = False, swing
                take(swing)
                recovery.forget(keeper.path)
                self._settled("")

        self._run(read, taken)

    def save_elsewhere(self, path: Path) -> None:
        """Go on in another document, chosen by the user, who has agreed to replace what lies there."""

        def write(swing: Swing) -> None:
            other = Keeper(path, disk_stamp(path))
            other.replace(swing)
            self._move(other.hold())

        self._start(write)

    def flush(self) -> bool:
        """Save what is not saved, in two seconds at most; False where it is safe nowhere."""
        self._soon.stop()
        if self._keeper is None or not self.dirty:
            return True
        self._start(self._closing_save)
        self._workers.wait(CLOSING_S)
        return not self.dirty or self.put_aside()

    def let_go(self) -> None:
        """The document is closed: what was not saved is safe elsewhere, or not wanted."""
        keeper, sight = self._keeper, self._sight
        self._again.stop()
        self._soon.stop()
        self._opening = object()
        self._keeper = self._now = self._safe = self._sight = None
        self.trouble = ""
        self.troubled.emit("")
        if keeper is not None:

            def last(_: Task) -> None:
                if sight is not None:
                    save_sight(keeper.path, sight)
                keeper.release()

            self._workers.start(Task(last))

    def put_aside(self) -> bool:
        """Keep a copy of unsaved work in the recovery place at once: the program may be about to end."""
        if self._keeper is None or self._now is None or not self.dirty or self._aside == self._now:
            return True
        return self._put_aside(self._keeper.path, self._now)

    # In a worker

    def _closing_save(self, swing: Swing) -> None:
        keeper = self._keeper
        if keeper is None:
            return
        try:
            keeper.save(swing)
        except ChangedElsewhereError:
            # Nobody is there to be asked any more: both stay.
            keeper.beside(swing).release()

    def _move(self, keeper: Keeper) -> None:
        old, self._keeper = self._keeper, keeper
        if old is not None:
            recovery.forget(old.path)
            old.release()

    def _write(self, swing: Swing, write: Callable[[Swing], None]) -> None:
        keeper = self._keeper
        try:
            write(swing)
        except KneelError as error:
            if keeper is not None:
                self._keep(keeper.path, swing, str(error))
            raise
        with self._state:
            self._safe = swing
        if self._keeper is not None:
            recovery.forget(self._keeper.path)

    def _keep(self, path: Path, swing: Swing, why: str) -> bool:
        try:
            recovery.keep(path, swing, why)
        except KneelError:
            LOG.warning("work could not be kept aside", exc_info=True)
            return False
        with self._state:
            self._aside = swing
        return True

    def _put_aside(self, path: Path, swing: Swing) -> bool:
        kept = threading.Event()

        def keep() -> None:
            if self._keep(path, swing, self.trouble or "Kneel was closed before it could be saved"):
                kept.set()

        threading.Thread(target=keep, daemon=True).start()
        return kept.wait(ASIDE_S)

    # Back on the desk

    def _start(self, write: Callable[[Swing], None]) -> None:
        swing, before = self._now, self.path
        if swing is None:
            return

        def done(_: object) -> None:
            self._in_doubt = False
            if self.path != before:
                self.moved.emit()
            self._settled("")
            self.saved.emit()

        self._run(lambda _: self._write(swing, write), done)

    def _run(self, work: Callable[[Task], object], done: Callable[..., None]) -> None:
        opening = self._opening

        def finished(answer: object) -> None:
            # What was written after another document was opened concerns nobody any more.
            if opening is self._opening:
                done(answer)

        def failed(error: Exception) -> None:
            if opening is not self._opening:
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
