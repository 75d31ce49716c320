"""Naming the golfer: with the names that the Book knows, and at once for all that was filmed together."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from kneel.book import Book
from kneel.book.repository import students
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.intake import name
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import KneelError
from kneel.model.student import LONGEST_NAME


class Naming(QObject):
    """Asks for a name, and gives it to the swings that belong to the open one: of its clip, of its drop."""

    def __init__(self, opened: OpenSwing, context: Context, rack: Rack, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._context, self._rack, self._parent = opened, context, rack, parent
        self._writers = Lane(self)

    def ask(self, then: Callable[[], object] = lambda: None) -> Entry | None:
        """Ask for the golfer's name; ``then`` is done once there is one."""
        store = self._open.store
        if store is None:
            return None
        entry = Entry(
            self._parent,
            self._context.look,
            tr("Name of the student"),
            lambda name: self._take(str(name), then),
            words=self._open.swing.golfer,
            most=LONGEST_NAME,
            remark=tr("The Book brings the height and the hand of whom it knows."),
        )
        entry.open()
        there = [True]

        def gone(_: object = None) -> None:
            there.clear()

        entry.destroyed.connect(gone)

        def names(book: Book) -> list[str]:
            with book.reading() as db:
                return [one.name for one in students.listed(db, archived=True)]

        self._context.records.read(
            self._context.records.books.which(store.info.path),
            names,
            subject=lambda: bool(there),
            done=lambda found: entry.suggest([shown(one) for one in found]),
        )
        return entry

    def _take(self, name_: str, then: Callable[[], object]) -> None:
        if name_ != self._open.swing.golfer:
            nobody = not self._open.swing.golfer
            self._open.set("Name the student", golfer=name_)
            if nobody and name_:
                self._name_all(self._rack.with_open(), name_)
        if self._open.swing.golfer:
            then()

    def _name_all(self, documents: Sequence[Path], golfer: str) -> None:
        """Give the name to what was filmed with the open swing and has none."""

        def work(_: object) -> bool:
            named = False
            for document in documents:
                with contextlib.suppress(KneelError):
                    named |= name(document, golfer)
            return named

        def done(named: bool) -> None:
            if named:
                self._rack.refresh()

        if documents:
            self._writers.start(Operation(work=work, done=done))
