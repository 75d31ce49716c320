"""The records of the Books at this desk: one place reads and writes them, off the interface thread.

What is changed is shown at once and written by one worker, one save of a record after another, each over
what the one before it left. What cannot be written stays shown, is kept beside the Book, and is tried again.
"""

from __future__ import annotations

import logging
from collections import defaultdict
from collections.abc import Callable
from functools import partial
from typing import Any, TypeVar

from msgspec.structs import replace
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import Book, unsaved
from kneel.book.merging import merged
from kneel.book.saving import Saved, save_lesson, save_student
from kneel.book.unsaved import Unsaved
from kneel.book.words import name_key
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.operations.threads import send
from kneel.desk.records.books import Books, Which
from kneel.desk.records.held import Held
from kneel.desk.records.steps import Acted, Changed, Step, Steps
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.model import BookGoneError, KneelError, Lesson, Student, UsageError
from kneel.speech.words import listed

LOG = logging.getLogger(__name__)

T = TypeVar("T", Student, Lesson)

AGAIN_MS = 4000
"""What could not be written is tried again after so long."""

CLOSING_S = 0.5
"""So long closing waits for a save that is under way."""

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

    def __init__(self, books: Books, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.books = books
        books.told = lambda words: send(lambda: self.said.emit(words))
        self._writer, self._readers = Lane(self), Lane(self, most=2)
        self._keeper = Lane(self)
        self._held: dict[tuple[Which, type, str], Held[Any]] = {}
        self._loose: list[Held[Any]] = []
        self._steps: dict[Which, Steps] = defaultdict(Steps)
        self.deleted: dict[Which, set[str]] = defaultdict(set)
        """What was deleted here, and goes for good when the desk is closed."""

        self._trouble, self._acting, self._closing = "", False, False
        self._again = QTimer(self, singleShot=True, interval=AGAIN_MS)
        self._again.timeout.connect(self._write_all)

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
        held = self._held.get((which, type(record), record.id)) if record.id else None
        if held is None:
            held = Held(which, record, revision)
            if held.key:
                self._know(held)
            return held
        again = held.gone
        if held.read(record, revision):
            self.shown.emit(held)
        elif again:
            # Brought back at the desk that had deleted it: what was written here meanwhile goes on.
            self._write(held)
        return held

    def now(self, which: Which, record: T) -> T:
        """A record as it is shown at this desk."""
        held = self._held.get((which, type(record), record.id))
        return record if held is None else held.now

    def held_of(self, which: Which, name: str) -> Held[Student] | None:
        """The student of that name, where this desk has the record already."""
        wanted = name_key(name)
        people = (one for key, one in self._held.items() if key[:2] == (which, Student) and not one.gone)
        return next((one for one in people if name_key(one.now.name) == wanted), None)

    def _know(self, held: Held[Any]) -> None:
        if held.key:
            other = self._held.setdefault((held.which, type(held.now), held.key), held)
            self._loose = [one for one in self._loose if one is not held]
            if other is not held and held.joined is None:
                # One record, of which two copies were begun before it had an id.
                other.follow(held)
                self._steps[held.which].rebind(held, other)
                self._show(other, other.now)
        elif held not in self._loose:
            self._loose.append(held)

    @property
    def busy(self) -> bool:
        """Whether anything is being read or written, or is still to be."""
        return bool(self._writer.busy or self._readers.busy or self._keeper.busy or self._ahead())

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
        self._know(held)
        self._steps[held.which].push(Changed(label, held, held.now, after))
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
        held = self._held.get((which, kind, key))
        if held is not None:
            self.change(held, label, **fields, **made(held.now))
            return
        from kneel.book import lessons, students

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
        self._know(held)
        self._write(held)

    def forget(self, held: Held[Any]) -> None:
        """What was only thought of is not wanted any more, nor its steps."""
        self._steps[held.which].forget(held)
        self._loose = [one for one in self._loose if one is not held]
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

        self._writer.start(
            Operation(work=lambda _: work(self.books.open(which)), done=after, failed=self._tell)
        )

    # Undoing

    def labels(self, which: Which, whose: str) -> tuple[str | None, str | None]:
        """What would be undone and what done again, with whose it is where that is not who is on show."""
        return self._steps[which].labels(whose)

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
        both = merged(_alike(was, now), _alike(wanted, now), now, both=False)
        here.pop()
        if both.record == now:
            words = tr("“%s” cannot be taken back: it was changed at another desk since, and that stands.")
            self.failed.emit(words % step.label)
            self.stepped.emit()
            return
        there.append(
            Changed(step.label, held, both.record, now)
            if back
            else Changed(step.label, held, now, both.record)
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
                there.append(here.pop())
            self.changed.emit()

        def ended() -> None:
            self._acting = False
            self.stepped.emit()

        act = step.back if back else step.again
        self._writer.start(
            Operation(work=lambda _: act(self.books.open(which)), done=done, failed=self._tell, ended=ended)
        )

    def _show(self, held: Held[Any], now: Any) -> None:
        held.now = now
        self.shown.emit(held)
        self.stepped.emit()
        self._write(held)

    # Writing

    def _ahead(self) -> list[Held[Any]]:
        """What can be written and is not yet: not what somebody without a name has said so far."""
        known = (*self._loose, *self._held.values())
        return [one for one in known if one.ahead and not one.gone and one.name.strip()]

    def _write_all(self) -> None:
        for held in self._ahead():
            self._write(held)
        self._recover()

    def _recover(self) -> None:
        """Where something could not be written and nothing is ahead any more, that is over."""
        if self._trouble and not self._ahead():
            self.mended.emit(self._trouble)
            self._trouble = ""
            self.said.emit(tr("What was written is in the Book now."))
            self._keep_aside()

    def _write(self, held: Held[Any]) -> None:
        if held.sent is not None or held not in self._ahead() or self._begun(held):
            return
        held.sent = mine = held.now
        base, revision = held.stands, held.revision

        def work(_: Task) -> Saved[Any]:
            book = self.books.open(held.which)
            if isinstance(mine, Student):
                return save_student(book, base, mine, revision)
            return save_lesson(book, base, mine, revision)

        self._writer.start(
            Operation(
                work=work,
                done=partial(self._on_saved, held),
                failed=partial(self._on_failed, held),
            )
        )

    def _begun(self, held: Held[Any]) -> bool:
        """Whether a copy of the same student that has no id yet is on its way; this one joins it then."""
        if not isinstance(held.now, Student):
            return False
        others = (one for one in self._loose if one is not held and one.sent is not None)
        return any(one.which is held.which and name_key(one.name) == name_key(held.name) for one in others)

    def _on_saved(self, held: Held[Any], saved: Saved[Any]) -> None:
        other = held.saved(saved)
        self._know(held)
        if saved.lost:
            words = tr(
                "%s was changed at another desk meanwhile, in %s too: that stands, "
                "and yours is kept in the Book."
            )
            self.failed.emit(words % (shown(held.name), listed([tr(name) for name in saved.lost])))
        if other:
            self.shown.emit(held)
        self._write(held)
        self._recover()
        self.changed.emit()

    def _on_failed(self, held: Held[Any], error: Exception) -> None:
        held.sent = None
        if isinstance(error, BookGoneError):
            held.gone = True
        elif isinstance(error, UsageError) and isinstance(held.now, Student):
            # Somebody else is called so: the name stands as it was, all else that was said goes on.
            self._steps[held.which].refuse(held, "name")
            self._show(held, replace(held.now, name=held.stands.name))
        else:
            if not self._closing:
                self._again.start()
                self._keep_aside()
            if not self._trouble:
                words = tr("%s What you wrote of %s is kept here, and written as soon as it can be.")
                self._trouble = words % (error, shown(held.name))
                self.failed.emit(self._trouble)
            return
        self._tell(error)

    def _keep_aside(self) -> None:
        """Have what is ahead kept in files, off the interface thread."""
        kept = self._to_keep()
        self._keeper.start(Operation(work=lambda _: self._keep(kept)))

    def _to_keep(self) -> dict[Which, list[Unsaved]]:
        kept: dict[Which, list[Unsaved]] = {which: [] for which in Which}
        gone = [held for held in self._held.values() if held.gone and held.ahead]
        for held in (*self._ahead(), *gone):
            field = "student" if isinstance(held.now, Student) else "lesson"
            kept[held.which].append(Unsaved(held.revision, **{field: (held.stands, held.now)}))
        return kept

    def _keep(self, kept: dict[Which, list[Unsaved]]) -> None:
        for which, records in kept.items():
            try:
                lies = self.books.lies(which)
                unsaved.keep(lies.folder, lies.url, self.books.desk.id, records)
            except (KneelError, OSError) as error:
                LOG.warning("what could not be saved could not be kept either: %s", error)

    def _tell(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))

    def close(self) -> None:
        """The desk closes: what cannot be written now is kept, and written when a desk is opened again."""
        self._closing = True
        self._again.stop()
        self._write_all()
        self._writer.settle(CLOSING_S)
        kept = self._to_keep()
        if self._trouble or any(kept.values()):
            self._keep(kept)
        for lane in (self._readers, self._keeper, self._writer):
            lane.stop()


def _alike(record: Any, other: Any) -> Any:
    return replace(record, id=other.id)
