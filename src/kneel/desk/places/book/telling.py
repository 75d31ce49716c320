"""What is said of a student's body later reaches the clips already there, where it was only guessed."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject

from kneel.book import Book
from kneel.book.repository import students, swings
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.records import Held
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.documents.keeper import Keeper
from kneel.documents.swing_file import load_stamped
from kneel.model import Hand, KneelError, Stature, Student, body_of

Body = tuple[Hand | None, float | None]

SAID = ("Set scale", "Set hand")
"""Steps of the open swing that say something of the body, not of the clip."""


class Telling(QObject):
    """Follows height and hand of the students of this desk, from the record to their documents, and from the
    open swing to a record that has none.
    """

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(opened)
        self._open, self._context, self._practice = opened, context, practice
        self._writers = Lane(self)
        self._given: dict[tuple[str, str], object] = {}
        """What records have from a swing, by student and field."""

        self._told: dict[str, Body] = {}
        context.records.shown.connect(self._on_shown)
        opened.document.changed.connect(self._on_said)

    def _on_said(self) -> None:
        """A height or a hand that was said of the swing is the golfer's, where the Book knows none, or only
        what was said here before.
        """
        record, swing = self._practice.record, self._open.swing
        if self._open.document.history.undo_label not in SAID or not record.key:
            return
        told: dict[str, object] = {}
        scale = None if "scale" in swing.guessed else swing.scale
        if isinstance(scale, Stature):
            told["stature_cm"] = scale.stature_cm
        if "hand" not in swing.guessed:
            told["hand"] = swing.hand
        for field, value in told.items():
            known = getattr(record.now, field)
            if value != known and known in (None, self._given.get((record.key, field))):
                self._given[record.key, field] = value
                record.change(tr("Take over from the swing"), **{field: value})

    def _on_shown(self, held: Held[Any]) -> None:
        now, before = held.now, held.stands
        if not isinstance(now, Student) or not held.key:
            return
        body = now.hand, now.stature_cm
        was = self._told.get(held.key, (before.hand, before.stature_cm))
        if body == was:
            return
        self._told[held.key] = body
        which, key, mine = held.which, held.key, self._open.path
        books = self._context.records.books

        def work(_: object) -> int:
            return tell(books.open(which), key, now, mine, was)

        def done(written: int) -> None:
            if written:
                self._context.records.changed.emit()

        self._writers.start(Operation(work=work, done=done))


def tell(book: Book, student: str, now: Student, leave: Path | None, was: Body = (None, None)) -> int:
    """Write what is known of a body into the student's documents in which it is only guessed, or as it
    ``was`` known before, but for the one on the desk; tells of how many. For workers. Raises ``BookError``.
    """
    with book.reading() as db:
        students.load(db, student)
        documents = [row.document for row in swings.of_student(db, student)]
    written = 0
    for document in documents:
        with contextlib.suppress(KneelError):
            written += document != leave and _told(document, now, was)
    return written


def _told(document: Path, now: Student, was: Body) -> bool:
    swing, stamp = load_stamped(document)
    known = body_of(now, swing, *was)
    if not known:
        return False
    keeper = Keeper(document, stamp).hold()
    try:
        if keeper.alone:
            keeper.save(swing.given(**known))
        return keeper.alone
    finally:
        keeper.release()
