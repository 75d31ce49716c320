"""What the desk does for its Books by itself: a copy a day, and purging what was deleted."""

from __future__ import annotations

import datetime
import logging
import threading
from collections.abc import Callable, Iterable, Mapping, Sequence

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import Book
from kneel.book.exchange.importing import sweep
from kneel.book.maintenance.copies import daily
from kneel.book.maintenance.purge import purge
from kneel.desk.operations import Lane, Operation
from kneel.desk.records.books import Books, Which
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import KneelError
from kneel.speech.words import listed

LOG = logging.getLogger(__name__)

PURGING_S = 3.0
"""So long closing waits for what was deleted to be purged."""

AFTER_MS = 4000
"""So long after the start, so that the first swing is not kept waiting."""


class Housekeeping(QObject):
    """Runs once after the start, in a worker. ``failed`` carries a sentence."""

    failed = pyqtSignal(str)

    def __init__(self, books: Books, parent: QObject) -> None:
        super().__init__(parent)
        self._books = books
        self._workers = Lane(self)
        self._later = QTimer(self, singleShot=True, interval=AFTER_MS)
        self._later.timeout.connect(self.begin)
        self._later.start()

    def begin(self) -> None:
        """Look after the user's own Book."""
        self._workers.start(
            Operation(
                work=lambda _: keep_house(self._books.open(Which.OWN)),
                done=lambda words: self.failed.emit(words) if words else None,
                failed=self._on_failed,
            )
        )

    def close_down(self) -> None:
        """Give up what is under way."""
        self._later.stop()
        self._workers.stop()

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))


def keep_house(book: Book) -> str:
    """Purge what was deleted and not purged, and make the day's copy; gives a sentence where somebody who was
    deleted still stands in a copy. Raises ``BookError``.
    """
    sweep(book)
    stuck = purge(book).copies_left
    daily(book, datetime.date.today())
    if not stuck:
        return ""
    names = listed([shown(copy) for copy in stuck])
    words = tr("Somebody who was deleted still stands in a copy that cannot be written: %s. Take it away.")
    return words % names


def leave_house(
    books: Books, deleted: Mapping[Which, Iterable[str]], forget: Callable[[Sequence[str]], None]
) -> None:
    """The desk is closed: what was deleted at it goes for good; at the next start where it cannot now.

    In a thread, for which nobody waits longer than a moment; ``forget`` is told by which words there may
    still be traces elsewhere.
    """

    words: list[str] = []

    def purge_all() -> None:
        for which, book in books.opened().items():
            try:
                words.extend(purge(book, list(deleted.get(which, ()))).words)
            except KneelError as error:
                LOG.warning("what was deleted goes at the next start: %s", error)

    if any(deleted.values()):
        leaving = threading.Thread(target=purge_all, daemon=True, name="purge")
        leaving.start()
        leaving.join(PURGING_S)
        if words:
            forget(list(words))
