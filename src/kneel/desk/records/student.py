"""The student of the swing on the desk: whose record it is, read when a swing is opened or named."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.book import Book
from kneel.book.index.indexing import day_of
from kneel.book.repository import students
from kneel.book.repository.search_text import golfer_name
from kneel.book.sync.merging import merged
from kneel.book.views.last_lesson import LastTime, last_time
from kneel.desk.operations import Task
from kneel.desk.records.books import Which
from kneel.desk.records.held import Held
from kneel.desk.records.records import Records
from kneel.desk.records.undo import RecordsUndo
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import KneelError, Student, Swing, body_of
from kneel.speech.words import listed


@dataclass(frozen=True)
class _Read:
    student: Student
    revision: int
    day: datetime.date
    last: LastTime | None


class StudentOnDesk(QObject):
    """``changed`` follows another student, and every other state of this one's record; ``arrived`` tells that
    what the Book knows is there. ``failed`` carries a sentence.
    """

    changed = pyqtSignal()
    arrived = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, records: Records) -> None:
        super().__init__(opened)
        self._open, self.records = opened, records
        self.undoing = RecordsUndo(records, lambda: (self.which, self.key))
        self._about: tuple[str, Which, Path | None] = ("", Which.OWN, None)
        self.held = Held(Which.OWN, Student(), 0)
        self.last: LastTime | None = None
        """The last lesson before that of the swing on the desk."""

        self.day = datetime.date.today()
        """The day of the lesson that is on the desk."""

        self.readable = True
        """Whether the Book could be read; nothing new of somebody is kept until it can."""

        self._reading: Task | None = None
        opened.opened.connect(self.follow)
        opened.document.changed.connect(self.follow)
        records.shown.connect(self._on_shown)

    @property
    def now(self) -> Student:
        """The record as it is shown."""
        return self.held.now

    @property
    def key(self) -> str:
        """The student's id in the Book; empty where there is none yet."""
        return self.held.key

    @property
    def which(self) -> Which:
        """The Book that the swing on the desk belongs to."""
        return self._about[1]

    def whose(self) -> object:
        """Who is on the desk, as a value that work for them can be held against."""
        return self._about[:2]

    def change(self, label: str, **fields: object) -> bool:
        """Change what is known of the student, as a step."""
        return self.records.change(self.held, label, **fields)

    def follow(self) -> None:
        """Take up the golfer of the swing on the desk."""
        store, name = self._open.store, golfer_name(self._open.swing.golfer)
        clip = store.info.path if store else None
        about = name, self.records.books.which(clip), clip
        if about == self._about:
            return
        before, self._about = self._about, about
        if about[:2] != before[:2] or (not name and clip != before[2]):
            self._take_up(name, about[1], same=clip == before[2])
        self.reload()

    def reload(self) -> None:
        """Read the record, and the lesson before, as they are in the Book."""
        name, which, clip = about = self._about
        self._reading = self.records.read(
            which,
            lambda book: _read(book, name, clip),
            subject=lambda: self._about,
            done=lambda found: self._arrive(about, found),
            failed=self._on_failed,
            instead=self._reading,
        )

    def _take_up(self, name: str, which: Which, *, same: bool) -> None:
        draft = self.held
        if same and name and not draft.stands.name and draft.ahead:
            # What was said of the golfer of this clip before there was a name.
            draft.which = which
            draft.stands, draft.now = replace(draft.stands, name=name), replace(draft.now, name=name)
        else:
            if not draft.stands.name:
                # Of somebody whom nobody has named.
                self.records.forget(draft)
            elif draft.ahead and not draft.key:
                self.records.keep_anew(draft)
            self.held = self.records.held_of(which, name) or Held(which, Student(name=name), 0)
        self.last = None
        self.changed.emit()

    def _arrive(self, about: object, found: _Read) -> None:
        name = self._about[0]
        self.readable = True
        if found.revision and name:
            draft, self.held = self.held, self.records.hold(self.which, found.student, found.revision)
            if draft is not self.held and draft.ahead and draft.sent is None:
                self._say_again(draft)
        elif self.held.ahead and name:
            self.records.keep_anew(self.held)
        self.day, self.last = found.day, found.last
        self.changed.emit()
        self.arrived.emit()
        if found.revision:
            self._tell_swing(about)

    def _say_again(self, draft: Held[Student]) -> None:
        """What was said before the Book was read is said of the record there."""
        self.records.forget(draft)
        now, key = self.held.now, self.held.now.id
        both = merged(replace(draft.stands, id=key), replace(draft.now, id=key), now)
        names = [name for name in now.__struct_fields__ if getattr(both.record, name) != getattr(now, name)]
        self.records.change(
            self.held, tr("Write what was said"), **{name: getattr(both.record, name) for name in names}
        )
        if both.lost:
            words = tr("The Book holds other things of %s already, and they stand: %s.")
            self.failed.emit(words % (shown(now.name), listed([tr(name) for name in both.lost])))

    def _tell_swing(self, about: object) -> None:
        """What the Book knows of the body comes before what is only guessed of it in a swing."""
        swing, student = self._open.swing, self.now
        if self._open.store is None or about != self._about:
            return
        told = body_of(student, swing)
        if student.school and told and swing.school == Swing().school:
            told["school"] = student.school
        if told:
            self._open.set("Take over from the Book", **told)

    def _on_shown(self, held: Held[Student]) -> None:
        if held is not self.held:
            same = bool(held.key) and held.key == self.held.key and isinstance(held.now, Student)
            if self.held.joined is not held and (not same or self.held.ahead):
                return
            self.held = held
        self.changed.emit()
        if self.key and self._open.swing.golfer:
            self._tell_swing(self._about)

    def _on_failed(self, error: Exception) -> None:
        self.readable = False
        if isinstance(error, KneelError):
            self.failed.emit(str(error))


def _read(book: Book, name: str, clip: Path | None) -> _Read:
    day = datetime.date.today() if clip is None else day_of(clip)
    with book.reading() as db:
        student, revision = students.named(db, name) if name else (Student(), 0)
        last = last_time(db, student.id, day) if revision and clip is not None else None
    return _Read(student, revision, day, last)
