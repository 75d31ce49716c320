"""What the desk does for its Books by itself: a copy a day, and purging what was deleted."""

from __future__ import annotations

import datetime
import logging
from collections.abc import Iterable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import Book
from kneel.book.copies import daily
from kneel.book.receiving import sweep
from kneel.book.removal import purge
from kneel.desk.books import Books
from kneel.desk.tasks import Task, Workers
from kneel.model import KneelError

LOG = logging.getLogger(__name__)

AFTER_MS = 4000
"""So long after the start, so that the first swing is not kept waiting."""


class Housekeeping(QObject):
    """Runs once after the start, in a worker. ``failed`` carries a sentence."""

    failed = pyqtSignal(str)

    def __init__(self, books: Books, parent: QObject) -> None:
        super().__init__(parent)
        self._books = books
        self._workers = Workers(self)
        self._later = QTimer(self, singleShot=True, interval=AFTER_MS)
        self._later.timeout.connect(self.begin)
        self._later.start()

    def begin(self) -> None:
        """Look after the user's own Book."""
        self._workers.start(Task(lambda _: keep_house(self._books.own()), failed=self._on_failed))

    def close_down(self) -> None:
        """Give up what is under way."""
        self._later.stop()
        self._workers.give_up()

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))


def keep_house(book: Book) -> None:
    """Purge what was deleted and not purged, and make the day's copy. Raises ``BookError``."""
    sweep(book)
    purge(book)
    daily(book, datetime.date.today())


def leave_house(books: Iterable[Book], own: Iterable[str]) -> None:
    """The desk is closed: what was deleted at it goes for good."""
    deleted = list(own)
    for book in books:
        try:
            purge(book, deleted)
        except KneelError as error:
            LOG.warning("what was deleted goes at the next start: %s", error)
