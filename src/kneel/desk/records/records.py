"""The records of the Books at this desk: one place reads and changes them, off the interface thread.

What is changed is shown at once, is a step that can be taken back, and is written by the ``Saver``.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace as dated
from typing import Any, TypeVar

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book import Book
from kneel.book.sync.merging import merged, with_id
from kneel.desk.operations import Jobs, Lane, Operation, Task
from kneel.desk.operations.threads import send
from kneel.desk.records.books import Books, Which
from kneel.desk.records.held import Held
from kneel.desk.records.registry import Registry
from kneel.desk.records.saver import Saver
from kneel.desk.records.steps import Acted, RecordChange, Step, Steps
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import KneelError, Lesson, Student
from kneel.speech.words import listed

T = TypeVar("T", Student, Lesson)

Write = Callable[[Book], Any]


class Records(QObject):
    """``changed`` tells that a Book was written, ``shown`` which record is shown in another state,
    ``stepped`` that what can be undone has changed. ``failed`` and ``said`` carry sentences, ``mended`` one
    that ``failed`` carried and that is over.
    """

    changed = pyqtSignal()
    shown = pyqtSignal(object)
    stepped = pyqtSignal()
    failed = pyqtSignal(str)
    said = pyqtSignal(str)
    mended = pyqtSignal(str)

    def __init__(self, books: Books, jobs: Jobs | None = None) -> None:
        super().__init__()
        self.books = books
        books.told = lambda words: send(lambda: self.said.emit(words))
        self._readers = Lane(self, jobs, tr("asking the Book"), most=2)
        self._registry = Registry()
        self._saver = saver = Saver(books, self._registry, self)
        self._steps: dict[Which, Steps] = defaultdict(Steps)
        self.deleted: dict[Which, set[str]] = defaultdict(set)
        """What was deleted here, and goes for good when the desk is closed."""

        self._acting = False
        saver.wrote.connect(self.changed)
        saver.shown.connect(self.shown)
        saver.joined.connect(lambda held, other: self._steps[held.which].rebind(held, other))
        saver.refused.connect(self._refuse)
        saver.failed.connect(self.failed)
        saver.said.connect(self.said)
        saver.mended.connect(self.mended)

    # Reading

    def read(
        self,
        which: Which,
        work: Callable[[Book], Any],
        *,
        subject: Callable[[], object],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None] | None = None,
        instead: Task | None = None,
    ) -> Task:
        """Ask a Book something for a subject, ``instead`` of what was asked before; what is wrong is said
        where nobody is named to be told.
        """
        self.stop_reading(instead)
        return self._readers.start(
            Operation(
                subject=subject,
                work=lambda _: work(self.books.open(which)),
                done=done,
                failed=failed or self._tell,
            )
        )

    def stop_reading(self, task: Task | None) -> None:
        """An answer is not wanted any more."""
        self._readers.stop_one(task)

    def hold(self, which: Which, record: T, revision: int) -> Held[T]:
        """The desk's one copy of a record that was read; what is ahead of it here stays so."""
        held = self._registry.find(which, type(record), record.id)
        if held is None:
            held = Held(which, record, revision)
            if held.key:
                self._saver.know(held)
            return held
        again = held.gone
        if held.read(record, revision):
            self.shown.emit(held)
        elif again:
            # Brought back at the desk that had deleted it: what was written here meanwhile goes on.
            self._saver.write(held)
        return held

    def now(self, which: Which, record: T) -> T:
        """A record as it is shown at this desk."""
        held = self._registry.find(which, type(record), record.id)
        return record if held is None else held.now

    def held_of(self, which: Which, name: str) -> Held[Student] | None:
        """The student of that name, where this desk has the record already."""
        return self._registry.named(which, name)

    @property
    def busy(self) -> bool:
        """Whether anything is being read or written, or is still to be."""
        return self._saver.busy or self._readers.busy

    # Changing

    def change(self, held: Held[Any], label: str, **fields: object) -> bool:
        """Change a record, as a step; False where nothing changes, or the change cannot be, which is said."""
        try:
            after = replace(held.now, **fields)
        except ValueError as error:
            self.failed.emit(tr("That cannot be kept: %s. Nothing was changed.") % shown(error))
            return False
        if after == held.now:
            return False
        self._saver.know(held)
        self._steps[held.which].push(RecordChange(label, held, held.now, after))
        self._show(held, after)
        return True

    def change_of(
        self,
        which: Which,
        kind: type,
        key: str,
        label: str,
        made: Callable[[Any], dict[str, object]] = lambda now: {},
        **fields: object,
    ) -> None:
        """Change a record by its id, read first where nobody has looked at it yet; ``made`` tells fields by
        what is shown now.
        """
        held = self._registry.find(which, kind, key)
        if held is not None:
            self.change(held, label, **fields, **made(held.now))
            return
        from kneel.book.repository import lessons, students

        load = students.load if kind is Student else lessons.load

        def read(book: Book) -> Any:
            with book.reading() as db:
                return load(db, key)

        def take(found: tuple[Any, int]) -> None:
            held = self.hold(which, *found)
            self.change(held, label, **fields, **made(held.now))

        self.read(which, read, subject=lambda: None, done=take)

    def keep_anew(self, held: Held[Any]) -> None:
        """A record was made ahead of the Book in another way than by a step: write it."""
        self._saver.know(held)
        self._saver.write(held)

    def forget(self, held: Held[Any]) -> None:
        """What was only thought of is not wanted any more, nor its steps."""
        self._steps[held.which].forget(held)
        self._registry.let_go(held)
        self.stepped.emit()

    def act(
        self,
        which: Which,
        label: str,
        whose: str,
        name: str,
        *,
        again: Write,
        back: Write,
        done: Callable[[], None] = lambda: None,
    ) -> None:
        """Write something that no single record holds, as a step once it has succeeded."""

        def stepped() -> None:
            self._steps[which].push(Acted(label, whose, name, back, again))
            done()

        self.write(which, again, done=stepped)

    def write(self, which: Which, work: Write, *, done: Callable[[], None] = lambda: None) -> None:
        """Write something, without a step."""

        def after(_: object) -> None:
            done()
            self.stepped.emit()
            self.changed.emit()

        self._saver.lane.start(
            Operation(work=lambda _: work(self.books.open(which)), done=after, failed=self._tell)
        )

    # Undoing

    def labels(self, which: Which, whose: str) -> tuple[str | None, str | None]:
        """What would be undone and what done again, with whose it is where that is not who is on show."""
        return self._steps[which].labels(whose)

    def when(self, which: Which) -> tuple[float | None, float | None]:
        """When that was done, and when that was taken back."""
        return self._steps[which].when()

    def undo(self, which: Which) -> None:
        """Take the last step back, where it stands."""
        self._turn(which, back=True)

    def redo(self, which: Which) -> None:
        self._turn(which, back=False)

    def _turn(self, which: Which, *, back: bool) -> None:
        steps = self._steps[which]
        here, there = (steps.done, steps.undone) if back else (steps.undone, steps.done)
        if not here or self._acting:
            return
        step = here[-1]
        if isinstance(step, Acted):
            self._turn_act(which, step, here, there, back=back)
            return
        was, wanted = (step.after, step.before) if back else (step.before, step.after)
        held, now = step.held, step.held.now
        both = merged(with_id(was, now), with_id(wanted, now), now, both=False)
        here.pop()
        if both.record == now:
            words = tr("“%s” cannot be taken back: it was changed at another desk since, and that stands.")
            self.failed.emit(words % step.label)
            self.stepped.emit()
            return
        there.append(
            RecordChange(step.label, held, both.record, now)
            if back
            else RecordChange(step.label, held, now, both.record)
        )
        if both.lost:
            lost = listed([tr(name) for name in both.lost])
            self.failed.emit(tr("Changed at another desk since, and left as it is: %s.") % lost)
        self._show(held, both.record)

    def _turn_act(
        self, which: Which, step: Acted, here: list[Step], there: list[Step], *, back: bool
    ) -> None:
        self._acting = True

        def done(_: object) -> None:
            if here and here[-1] is step:
                there.append(dated(here.pop(), at=time.monotonic()))
            self.changed.emit()

        def ended() -> None:
            self._acting = False
            self.stepped.emit()

        act = step.back if back else step.again
        self._saver.lane.start(
            Operation(work=lambda _: act(self.books.open(which)), done=done, failed=self._tell, ended=ended)
        )

    def _refuse(self, held: Held[Any], field: str) -> None:
        self._steps[held.which].refuse(held, field)
        self.stepped.emit()

    def _show(self, held: Held[Any], now: Any) -> None:
        held.now = now
        self.shown.emit(held)
        self.stepped.emit()
        self._saver.write(held)

    def _tell(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))

    def close(self) -> None:
        """The desk closes: what cannot be written now is kept, and written when a desk is opened again."""
        self._saver.close()
        self._readers.stop()
