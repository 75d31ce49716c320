"""Which Books there are at the desk: the user's, and the demo's own for clips of the demo.

Which one a clip belongs to is known at once; opening it asks the disk, and is for workers alone.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path

import platformdirs

from kneel.book import Book, open_book
from kneel.book.db.opening import Lies, lies_at
from kneel.book.exchange.from_files import FOLDER, take_in_files
from kneel.book.sync.desks import Desk
from kneel.book.sync.unsaved import take_up
from kneel.demo.place import BOOK, demo_book, demo_folder, is_demo
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.speech.words import listed


class Which(StrEnum):
    """One of the Books."""

    OWN = "own"
    DEMO = "demo"


class Books:
    """Opens each Book once."""

    def __init__(self) -> None:
        self.desk = Desk()
        self._open: dict[Which, Book] = {}
        self._one_at_a_time = threading.Lock()
        self._known: dict[Path, Which] = {}
        self.told: Callable[[str], None] = lambda words: None
        """Is told sentences, in whichever thread."""

        self.troubles: list[str] = []
        """What could not be taken over from files of before there was a Book."""

    def which(self, clip: Path | None) -> Which:
        """The Book that a clip belongs to, told by its name alone unless its place was looked up."""
        if clip is None:
            return Which.OWN
        known = self._known.get(clip)
        if known is not None:
            return known
        return Which.DEMO if clip.absolute().is_relative_to(demo_folder().absolute()) else Which.OWN

    def lies(self, which: Which) -> Lies:
        """Where a Book is, without asking for it. Raises ``BookError``."""
        return lies_at() if which is Which.OWN else lies_at(str(demo_folder() / BOOK))

    def look_up(self, clip: Path) -> Which:
        """The Book that a clip belongs to, wherever links lead; asks the disk."""
        self._known[clip] = Which.DEMO if is_demo(clip) else Which.OWN
        return self._known[clip]

    def open(self, which: Which) -> Book:
        """A Book, opened where it is not yet; for workers. Raises ``BookError``."""
        with self._one_at_a_time:
            book = self._open.get(which)
            if book is None:
                book = open_book() if which is Which.OWN else demo_book()
                if which is Which.OWN:
                    self.troubles = take_in_files(book, platformdirs.user_data_path("kneel") / FOLDER)
                self.desk.enter(book)
                self._take_up(book)
                self._open[which] = book
            return book

    def _take_up(self, book: Book) -> None:
        """Write what could not be written when a desk was closed last."""
        made = take_up(book, self.desk)
        if made.written:
            names = listed([shown(name) for name in made.written])
            self.told(tr("What could not be written last time is in the Book now: %s.") % names)
        for trouble in made.troubles:
            self.told(trouble)

    def opened(self) -> dict[Which, Book]:
        """Those that were opened."""
        return dict(self._open)

    def close(self) -> None:
        """Let their files go."""
        for book in self._open.values():
            book.close()
        self._open.clear()
        self.desk.leave()
