"""Puts the swing on the desk into the Book, once it is saved, has a name and has been still for a moment."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book.index.indexing import Filed
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.book.beside import file_beside
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import BookError, KneelError

LOG = logging.getLogger(__name__)

AFTER_MS = 1500
"""A swing is filed once nothing has changed for so long."""

AGAIN_MS = 10_000
"""One that could not be filed is tried again after so long."""


class Filing(QObject):
    """``filed`` tells which student and lesson have a swing anew; ``failed`` carries a sentence, ``mended``
    one that is over.
    """

    filed = pyqtSignal(object)
    failed = pyqtSignal(str)
    mended = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context) -> None:
        super().__init__(opened)
        self._open, self._context = opened, context
        self._workers, self._others = Lane(self), Lane(self, newest=True)
        self._known: dict[Path, str | None] = {}
        self.last: Filed | None = None
        """Student and lesson of the swing on the desk, as far as it is filed."""

        self._soon = QTimer(self, singleShot=True, interval=AFTER_MS)
        self._soon.timeout.connect(self.file_now)
        self._trouble = ""
        self._again = QTimer(self, singleShot=True, interval=AGAIN_MS)
        self._again.timeout.connect(self.file_now)
        opened.opened.connect(self._begin)
        opened.autosave.saved.connect(self._soon.start)
        opened.numbers.renewed.connect(self._soon.start)

    def _begin(self) -> None:
        self.last = None
        self._mend()
        self._soon.start()

    def close_down(self) -> None:
        """Give up what is under way; it is made up for when the swing is open again."""
        self._soon.stop()
        self._again.stop()
        self._workers.stop()
        self._others.stop()

    def file_now(self) -> None:
        """File the swing on the desk, where it has changed since and is on the disk."""
        opened = self._open
        document, stamp = opened.path, opened.autosave.stamp
        if document is None or opened.store is None or stamp is None or not opened.swing.golfer.strip():
            return
        if opened.gathering.busy or opened.numbers.dragging:
            self._soon.start()
            return
        if self._known.get(document) == stamp and self.last is not None:
            return
        which = self._context.records.books.which(opened.store.info.path)

        def work(task: Task) -> Filed | None:
            url = self._context.records.books.open(which).url
            return self._context.beside.call(file_beside, url, document, stopped=task.stopped)

        def done(found: Filed | None) -> None:
            if found is None:
                return
            self._mend()
            self._known[document] = stamp
            if self._open.path == document:
                self.last = found
            self._context.records.changed.emit()
            self.filed.emit(found)

        self._workers.start(Operation(work=work, done=done, failed=self._on_failed))

    def file_others(self, documents: Sequence[Path]) -> None:
        """File swings that were read beside the desk and have a golfer; they need not be opened for it."""
        store = self._open.store
        if store is None or not documents:
            return
        books, beside = self._context.records.books, self._context.beside
        which = books.which(store.info.path)

        def work(task: Task) -> int:
            filed = 0
            for document in documents:
                if task.stopped():
                    break
                with contextlib.suppress(KneelError):
                    found = beside.call(file_beside, books.open(which).url, document, stopped=task.stopped)
                    filed += found is not None
            return filed

        def done(filed: int) -> None:
            if filed:
                self._context.records.changed.emit()

        self._others.start(Operation(work=work, done=done))

    def _on_failed(self, error: Exception) -> None:
        LOG.warning("a swing is not in the Book: %s", error)
        if isinstance(error, BookError):
            self._again.start()
            if not self._trouble:
                self._trouble = tr("This swing is not in the Book yet: %s") % error
                self.failed.emit(self._trouble)

    def _mend(self) -> None:
        self._again.stop()
        if self._trouble:
            self.mended.emit(self._trouble)
            self._trouble = ""
