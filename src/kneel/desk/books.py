"""Which Book is on the desk: the user's, or the demo's own while a clip of the demo is open."""

from __future__ import annotations

import threading
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book import Book, open_book
from kneel.book.from_files import FOLDER, take_in_files
from kneel.demo.place import demo_book, is_demo


class Books(QObject):
    """Opens each Book once. ``changed`` follows whatever is written into one from this desk."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._open: dict[str, Book] = {}
        self._one_at_a_time = threading.Lock()
        self.troubles: list[str] = []
        """What could not be taken over from files of before there was a Book."""

    def of(self, clip: Path | None) -> Book:
        """The Book that a clip belongs to; may be called from any thread. Raises ``BookError``."""
        return self.demo() if clip is not None and is_demo(clip) else self.own()

    def own(self) -> Book:
        """The user's. Raises ``BookError``."""
        return self._opened("own")

    def demo(self) -> Book:
        """The demo's. Raises ``BookError``."""
        return self._opened("demo")

    def open_ones(self) -> list[Book]:
        """Those that were opened."""
        with self._one_at_a_time:
            return list(self._open.values())

    def close(self) -> None:
        """Let their files go."""
        with self._one_at_a_time:
            for book in self._open.values():
                book.close()
            self._open.clear()

    def _opened(self, which: str) -> Book:
        with self._one_at_a_time:
            book = self._open.get(which)
            if book is None:
                book = open_book() if which == "own" else demo_book()
                if which == "own":
                    self.troubles = take_in_files(book, platformdirs.user_data_path("kneel") / FOLDER)
                self._open[which] = book
            return book
