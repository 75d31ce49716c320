"""Writing what is shown: one worker, one save of a record after another, each over what the one before left.

What cannot be written stays shown, is kept beside the Book, and is tried again.
"""

from __future__ import annotations

import logging
from functools import partial
from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import Book
from kneel.book.sync import unsaved
from kneel.book.sync.saving import Saved, save_lesson, save_student
from kneel.book.sync.unsaved import Unsaved
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.records.books import Books, Which
from kneel.desk.records.held import Held
from kneel.desk.records.registry import Registry
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import BookGoneError, KneelError, Student, UsageError
from kneel.speech.words import listed

LOG = logging.getLogger(__name__)

AGAIN_MS = 4000
"""What could not be written is tried again after so long."""

CLOSING_S = 0.5
"""So long closing waits for a save that is under way."""


class Saver(QObject):
    """``wrote`` tells that a Book was written, ``shown`` which record is shown in another state, ``joined``
    two copies of one record, ``refused`` a record whose field was refused and stands as it was. ``failed``
    and ``said`` carry sentences, ``mended`` one that ``failed`` carried and that is over.
    """

    wrote = pyqtSignal()
    shown = pyqtSignal(object)
    joined = pyqtSignal(object, object)
    refused = pyqtSignal(object, str)
    failed = pyqtSignal(str)
    said = pyqtSignal(str)
    mended = pyqtSignal(str)

    def __init__(self, books: Books, registry: Registry, parent: QObject) -> None:
        super().__init__(parent)
        self._books, self._registry = books, registry
        self.lane, self._keeper = Lane(self), Lane(self)
        self._trouble, self._closing = "", False
        self.again = QTimer(self, singleShot=True, interval=AGAIN_MS)
        self.again.timeout.connect(self.write_all)

    @property
    def busy(self) -> bool:
        """Whether anything is being written, or is still to be."""
        return bool(self.lane.busy or self._keeper.busy or self._registry.ahead())

    def write_all(self) -> None:
        """Write all that is ahead of the Book."""
        for held in self._registry.ahead():
            self.write(held)
        self._recover()

    def know(self, held: Held[Any]) -> None:
        """Hold a record; of two copies that were begun before it had an id one goes on."""
        other = self._registry.know(held)
        if other is not None:
            other.follow(held)
            self.joined.emit(held, other)
            self.shown.emit(other)
            self.write(other)

    def write(self, held: Held[Any]) -> None:
        """Write a record, where it is ahead of the Book and not on its way already."""
        if held.sent is not None or held not in self._registry.ahead() or self._registry.begun(held):
            return
        held.sent = mine = held.now
        base, revision = held.stands, held.revision

        def work(_: Task) -> Saved[Any]:
            book: Book = self._books.open(held.which)
            if isinstance(mine, Student):
                return save_student(book, base, mine, revision)
            return save_lesson(book, base, mine, revision)

        self.lane.start(
            Operation(
                work=work,
                done=partial(self._on_saved, held),
                failed=partial(self._on_failed, held),
            )
        )

    def close(self) -> None:
        """The desk closes: what cannot be written now is kept, and written when a desk is opened again."""
        self._closing = True
        self.again.stop()
        self.write_all()
        self.lane.settle(CLOSING_S)
        kept = self._to_keep()
        if self._trouble or any(kept.values()):
            self._keep(kept)
        for lane in (self._keeper, self.lane):
            lane.stop()

    def _on_saved(self, held: Held[Any], saved: Saved[Any]) -> None:
        other = held.saved(saved)
        self.know(held)
        if saved.lost:
            words = tr(
                "%s was changed at another desk meanwhile, in %s too: that stands, "
                "and yours is kept in the Book."
            )
            self.failed.emit(words % (shown(held.name), listed([tr(name) for name in saved.lost])))
        if other:
            self.shown.emit(held)
        self.write(held)
        self._recover()
        self.wrote.emit()

    def _on_failed(self, held: Held[Any], error: Exception) -> None:
        held.sent = None
        if isinstance(error, BookGoneError):
            held.gone = True
        elif isinstance(error, UsageError) and isinstance(held.now, Student):
            # Somebody else is called so: the name stands as it was, all else that was said goes on.
            held.now = replace(held.now, name=held.stands.name)
            self.refused.emit(held, "name")
            self.shown.emit(held)
            self.write(held)
        else:
            if not self._closing:
                self.again.start()
                self._keep_aside()
            if not self._trouble:
                words = tr("%s What you wrote of %s is kept here, and written as soon as it can be.")
                self._trouble = words % (error, shown(held.name))
                self.failed.emit(self._trouble)
            return
        if isinstance(error, KneelError):
            self.failed.emit(str(error))

    def _recover(self) -> None:
        """Where something could not be written and nothing is ahead any more, that is over."""
        if self._trouble and not self._registry.ahead():
            self.mended.emit(self._trouble)
            self._trouble = ""
            self.said.emit(tr("What was written is in the Book now."))
            self._keep_aside()

    def _keep_aside(self) -> None:
        """Have what is ahead kept in files, off the interface thread."""
        kept = self._to_keep()
        self._keeper.start(Operation(work=lambda _: self._keep(kept)))

    def _to_keep(self) -> dict[Which, list[Unsaved]]:
        kept: dict[Which, list[Unsaved]] = {which: [] for which in Which}
        for held in (*self._registry.ahead(), *self._registry.gone()):
            field = "student" if isinstance(held.now, Student) else "lesson"
            kept[held.which].append(Unsaved(held.revision, **{field: (held.stands, held.now)}))
        return kept

    def _keep(self, kept: dict[Which, list[Unsaved]]) -> None:
        for which, records in kept.items():
            try:
                lies = self._books.lies(which)
                unsaved.keep(lies.folder, lies.url, self._books.desk.id, records)
            except (KneelError, OSError) as error:
                LOG.warning("what could not be saved could not be kept either: %s", error)
