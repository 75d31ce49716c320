"""The shelf of references on the desk: read and changed beside the interface."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book.index.made import note_made
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import KneelError, Stature
from kneel.references.card import Card
from kneel.references.fitting import fitting, shown_by
from kneel.references.shelf import Reference, listed, put_on, take_off


class References(QObject):
    """What lies on the shelf. ``said`` tells what was done, ``failed`` what could not be."""

    said = pyqtSignal(str)
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context) -> None:
        super().__init__()
        self._open, self._context = opened, context
        self.every: tuple[Reference, ...] | None = None
        """All of them; None until they have been read."""

        self._lane = Lane(self, context.jobs, tr("the shelf of references"))

    def load(self, then=lambda: None) -> None:
        """Read the shelf, then do something."""

        def done(found: list[Reference]) -> None:
            self.every = tuple(found)
            then()

        self._run(lambda _: listed(), done)

    def suited(self) -> list[Reference]:
        """Those of the open swing's view, the best suited first: what it lacks before all else."""
        swing, scale = self._open.swing, self._open.swing.take.scale
        tall = scale.stature_cm if isinstance(scale, Stature) else 0.0
        return fitting(self.every or (), swing.view, self.wanted, swing.hand, swing.club, tall)

    @property
    def wanted(self) -> str | None:
        """The fault that is spoken of, where it is at work."""
        finding = self._open.selection.finding
        return finding.key if finding is not None and finding.verdict.at_work else None

    def shows(self) -> tuple[str, ...]:
        """The faults that the open swing is clear of."""
        reading = self._open.numbers.reading
        return () if reading is None else shown_by(reading)

    def put_on(self, title: str, leave: str) -> None:
        """Put the open swing on the shelf; the Book knows its files, so that they go where the swing does."""
        swing, path, store = self._open.swing, self._open.path, self._open.store
        if path is None or store is None:
            return
        scale, books = swing.take.scale, self._context.records.books
        which = books.which(store.info.path)
        try:
            card = Card(title, self.shows(), leave, scale.stature_cm if isinstance(scale, Stature) else 0.0)
        except ValueError as error:
            self.failed.emit(f"{str(error).capitalize()}.")
            return

        def work(_: object) -> list[Reference]:
            book = books.open(which)
            put_on(swing, card, note=lambda made: note_made(book, made, path))
            return listed()

        def done(found: list[Reference]) -> None:
            self.every = tuple(found)
            self.said.emit(tr("On the shelf of references, without the student’s name"))

        self._run(work, done)

    def take_off(self, reference: Reference) -> None:
        """Take a reference off the shelf for good."""

        def work(_: object) -> list[Reference]:
            take_off(reference)
            return listed()

        def done(found: list[Reference]) -> None:
            self.every = tuple(found)
            self.said.emit(tr("Taken off the shelf"))

        self._run(work, done)

    def _run(self, work, done) -> None:
        def failed(error: Exception) -> None:
            known = isinstance(error, KneelError | OSError)
            self.failed.emit(str(error) if known else tr("The shelf of references cannot be read."))

        self._lane.start(Operation(work=work, done=done, failed=failed))


def told(reference: Reference) -> str:
    """Club, build and whose leave, in a few words."""
    card, swing = reference.card, reference.swing
    tall = f"{card.stature_cm:.0f} cm" if card.stature_cm else ""
    hand = tr("left-handed") if swing.hand.value == "left" else ""
    return " · ".join(part for part in (swing.club.value, tall, hand, card.leave) if part)


def of_document(references: Sequence[Reference] | None, path: object) -> Reference | None:
    """The reference whose document that is; None for any other swing."""
    return next((one for one in references or () if one.document == path), None)
