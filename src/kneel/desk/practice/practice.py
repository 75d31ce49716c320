"""The student's record, its undo, and the plan that runs or is proposed."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book import Book, lessons, students
from kneel.book.before import LastTime, change_since, last_time
from kneel.book.filing import day_of
from kneel.book.saving import save_lesson, save_student
from kneel.book.words import golfer_name
from kneel.compare.difference import Difference
from kneel.desk.books import Books
from kneel.desk.practice.sides import MOST
from kneel.desk.swing import OpenSwing
from kneel.desk.tasks import Task, Workers
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.judge import Reading, at_hand
from kneel.judge.numbers import OfSwing
from kneel.model import (
    Cue,
    FileRef,
    Flag,
    History,
    KneelError,
    Plan,
    Practised,
    Stature,
    Student,
    Swing,
    UsageError,
)
from kneel.motion.quantity import Single
from kneel.practice import Drills, Proposal, Wanted, Wish, known_drills, plan_of, propose
from kneel.practice.carried import Carried, carried
from kneel.practice.planning import aim_of
from kneel.practice.schedule import check_in_day
from kneel.speech.words import listed

LENGTH_DAYS = 21


class Practice(QObject):
    """What is known of the golfer on the desk. ``changed`` follows every step, and another golfer.

    ``failed`` carries a sentence about what could not be done or kept.
    """

    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, books: Books) -> None:
        super().__init__(opened)
        self._open, self._books = opened, books
        self.book: Book | None = None
        self._base, self._revision = Student(), 0
        self._about: tuple[str, Book | None, Path | None] | None = None
        self.last: LastTime | None = None
        """The last lesson before that of the swing on the desk."""

        self.day = datetime.date.today()
        """The day of the lesson that is on the desk."""

        self._carried: tuple[tuple[object, ...], Carried] | None = None
        self._proposed: tuple[tuple[object, ...], Proposal | None] | None = None
        self.history: History[Student] = History(Student())
        self.drills: Drills | None = None
        self.beside: Callable[[], list[Path]] = list
        """The swings like the open one that lie beside it, itself among them: told by the rack."""

        self.fault = self.drill = ""
        self.days = LENGTH_DAYS
        self._loader = Workers(self)
        self._loader.start(Task(lambda _: known_drills(), done=self._take_drills, failed=self._on_failed))
        opened.opened.connect(self._on_opened)
        opened.document.changed.connect(self._follow)
        opened.numbers.renewed.connect(self._on_numbers)

    @property
    def student(self) -> Student:
        return self.history.now

    @property
    def student_id(self) -> str:
        """The student's id in the Book; empty where there is none yet."""
        return self._base.id

    @property
    def today(self) -> datetime.date:
        return datetime.date.today()

    @property
    def plan(self) -> Plan | None:
        """The plan that runs."""
        return self.student.plan

    @property
    def wish(self) -> Wish:
        return Wish.of(self.student, self._open.swing.club)

    # What is proposed

    @property
    def proposal(self) -> Proposal | None:
        """What to work on, by the swing on the desk and the plan that runs; None where nothing is at work."""
        reading = self._open.numbers.reading
        if self.drills is None or reading is None or self._open.store is None:
            return None
        about = (reading, self.student, self.fault, self.drill, self._open.swing.club, self.last)
        if self._proposed is None or any(a is not b for a, b in zip(self._proposed[0], about, strict=True)):
            self._proposed = about, self._propose(reading, self.drills)
        return self._proposed[1]

    def _propose(self, reading: Reading, drills: Drills) -> Proposal | None:
        plan, last = self.plan, self.carried
        fault = plan.fault if plan else self.fault
        if not fault and last is not None and last.binds:
            # A second root comes only once the first is inside its window, or given up with a reason.
            fault = last.root.fault
        drill = plan.drill if plan else self.drill
        try:
            return propose(reading, self.wish, drills, fault=fault, drill=drill)
        except UsageError:
            # Of another swing, or of knowledge that is not there any more: what fits best now.
            self.drill = ""
            return propose(reading, self.wish, drills, fault=fault if fault in at_hand()[0].faults else "")

    # What the last lesson left

    @property
    def carried(self) -> Carried | None:
        """The last lesson's root held against the swing on the desk; None without either."""
        numbers = self.numbers
        root = self.last.root if self.last is not None else None
        if numbers is None or root is None:
            return None
        about = (numbers.study, root)
        if self._carried is None or any(a is not b for a, b in zip(self._carried[0], about, strict=True)):
            self._carried = about, carried(root, numbers)
        return self._carried[1]

    @property
    def since(self) -> Difference | None:
        """What lies between the last lesson's swings and this one, by the rule for changes."""
        numbers = self.numbers
        if numbers is None or self.last is None:
            return None
        return change_since(self.last, self._open.swing, numbers)

    def give_up(self, why: str) -> None:
        """The last lesson's root is not pursued any more; the lesson itself says so."""
        last, book = self.last, self.book
        if last is None or book is None or last.worked is None or last.root is None:
            return
        base = last.worked
        try:
            with book.reading() as db:
                base, revision = lessons.load(db, base.id)
            root = replace(base.root or last.root, given_up=why)
            saved = save_lesson(book, base, replace(base, root=root), revision)
        except KneelError as error:
            self.failed.emit(str(error))
            return
        lesson = saved.record if last.lesson.id == base.id else last.lesson
        self.last = LastTime(lesson, saved.record, last.rows)
        self._books.changed.emit()
        self.changed.emit()

    def preview(self, proposal: Proposal | None) -> Plan | None:
        """The plan that runs, or the one that would begin today; None where no number can be held to."""
        if self.plan is not None:
            return self.plan
        numbers = self.numbers
        if proposal is None or numbers is None:
            return None
        wanted = Wanted(self.today, self.days, self.student.weekdays, self.student.minutes)
        try:
            return plan_of(proposal, numbers, wanted, school=self._open.swing.school)
        except UsageError:
            return None

    @property
    def numbers(self) -> OfSwing | None:
        """The numbers of the swing on the desk."""
        study = self._open.analysis
        return None if study is None else OfSwing(study, self._open.swing.club)

    def now(self, plan: Plan) -> Single | None:
        """The plan's number in the swing on the desk, where that is one of its view and tells it."""
        numbers = self.numbers
        if numbers is None or numbers.seen_from(plan.aim.measure) is None:
            return None
        told = numbers.tell(plan.aim.measure, plan.aim.at)
        return told if isinstance(told, Single) and told.unit == plan.aim.unit else None

    # Steps

    def set(self, label: str, **fields: object) -> None:
        """Change what is known of the student."""
        self._push(label, replace(self.student, **fields))

    def shape(self, label: str, *, days: int | None = None, **fields: object) -> None:
        """Change when there is practice: of the student, and of the plan that runs; its check-in follows."""
        plan = self.plan
        if days is not None:
            self.days = days
        if plan is None:
            if not fields:
                self.changed.emit()
            self.set(label, **fields)
            return
        weekdays = fields.get("weekdays", plan.weekdays)
        length = days or plan.days
        moved = plan.weekdays != weekdays or plan.days != length
        check_in = check_in_day(plan.start, length, weekdays) if moved else plan.check_in  # type: ignore[arg-type]
        told = {k: v for k, v in fields.items() if k in ("weekdays", "minutes")}
        self._renew(label, replace(plan, days=length, check_in=check_in, **told), **fields)

    def choose(self, fault: str, drill: str = "") -> None:
        """Look at another fault, or another drill for it; nothing is begun by that."""
        self.fault, self.drill = fault, drill
        self.changed.emit()

    def begin(self) -> bool:
        """Begin the plan that is proposed; False where that cannot be, which is said."""
        proposal, numbers = self.proposal, self.numbers
        if self.plan is not None or proposal is None or numbers is None:
            return False
        wanted = Wanted(self.today, self.days, self.student.weekdays, self.student.minutes)
        try:
            plan = plan_of(
                proposal, numbers, wanted, school=self._open.swing.school, before=self._swings_now()
            )
        except UsageError as error:
            self.failed.emit(str(error))
            return False
        self._push(tr("Begin a plan"), replace(self.student, plans=(*self.student.plans, plan)))
        return True

    def log(self, done: Practised) -> None:
        """Note a session; a second word on one day stands for the first."""
        plan = self.plan
        if plan is not None:
            rest = [one for one in plan.log if one.date != done.date]
            log = tuple(sorted((*rest, done), key=lambda one: one.date))
            self._renew(tr("Note a session"), replace(plan, log=log))

    def unlog(self, day: datetime.date) -> None:
        """Take a session back."""
        plan = self.plan
        if plan is not None:
            self._renew(
                tr("Take a session back"), replace(plan, log=tuple(o for o in plan.log if o.date != day))
            )

    def change_drill(self, drill: str) -> None:
        """Go on with another drill for the same fault: guards and number are told anew, the ladder stays."""
        plan, proposal, numbers = self.plan, self.proposal, self.numbers
        if plan is None or proposal is None or numbers is None or self.drills is None:
            return
        fresh = self.drills.get(drill)
        try:
            aim = replace(plan.aim, by=aim_of(proposal.finding, fresh, numbers).by)
        except UsageError as error:
            self.failed.emit(str(error))
            return
        self._renew(tr("Change the drill"), replace(plan, drill=drill, aim=aim))

    def end(self, why: str) -> None:
        """End the plan; ``why`` is how it came out."""
        plan = self.plan
        if plan is not None:
            self.fault = plan.queued[0].fault if plan.queued and why == "held" else ""
            self.drill = ""
            self._renew(tr("End the plan"), replace(plan, ended=why))

    def ask_with(self, after: Sequence[FileRef]) -> None:
        """Keep which swings the plan was held against."""
        plan = self.plan
        if plan is not None:
            self._renew(tr("Hold the plan against swings"), replace(plan, after=tuple(after)))

    def try_cue(self, cue: Cue) -> None:
        """Keep a cue and what became of the number."""
        self._push(tr("Keep a cue"), replace(self.student, tried=(*self.student.tried, cue)))

    def undo(self) -> None:
        if self.history.undo():
            self._keep()

    def redo(self) -> None:
        if self.history.redo():
            self._keep()

    def flag(self, flag: Flag, on: bool) -> None:
        """Say that something has to be spared, or no longer."""
        flags = {*self.student.flags, flag} if on else {*self.student.flags} - {flag}
        self.set(tr("Change what is spared"), flags=tuple(f for f in Flag if f in flags))

    # Keeping

    def _renew(self, label: str, plan: Plan, **fields: object) -> None:
        plans = (*self.student.plans[:-1], plan)
        self._push(label, replace(self.student, plans=plans, **fields))

    def _push(self, label: str, student: Student) -> None:
        if self.history.push(label, student):
            self._keep()

    def _keep(self) -> None:
        """Write the record, once the student has a name; what another desk changed comes with it."""
        if self.student.name and self.book is None:
            words = tr("The Book cannot be read, so that nothing new of %s is kept until that is mended.")
            self.failed.emit(words % shown(self.student.name))
        elif self.student.name and self.book is not None:
            try:
                self._save(self.book)
            except KneelError as error:
                self.failed.emit(str(error))
        self.changed.emit()

    def _save(self, book: Book) -> None:
        mine = replace(self.student, id=self._base.id)
        saved = save_student(book, self._base, mine, self._revision)
        self._base, self._revision = saved.record, saved.revision
        if replace(saved.record, id=mine.id) != mine:
            self.history = History(saved.record)
        if saved.lost:
            words = tr(
                "%s was changed at another desk meanwhile, in %s too: that stands, "
                "and yours is kept in the Book."
            )
            self.failed.emit(words % (shown(mine.name), listed([tr(name) for name in saved.lost])))
        self._books.changed.emit()

    def _on_opened(self) -> None:
        """Another swing: its golfer, and what it shows."""
        self.fault = self.drill = ""
        self._follow()
        self.changed.emit()

    def _follow(self) -> None:
        """Take up the golfer of the swing on the desk."""
        store, name = self._open.store, golfer_name(self._open.swing.golfer)
        try:
            book = self._books.of(store.info.path if store else None)
        except KneelError as error:
            # Nothing is written over what cannot be read.
            book = None
            self.failed.emit(str(error))
        clip = store.info.path if store else None
        if (name, book, clip) == self._about:
            return
        if self._about is not None and (name, book) == self._about[:2]:
            # Another swing of the same golfer: of the record nothing has changed.
            self._about = name, book, clip
            self._load_last()
            return
        self._about = name, book, clip
        unnamed = self.student if not self.student.name else None
        self.book, self.fault, self.drill = book, "", ""
        self._load(name)
        if unnamed is not None and name and self._revision == 0:
            # What was said before there was a name is of this student.
            self.history = History(replace(unnamed, name=name))
        self.changed.emit()
        if self._revision:
            QTimer.singleShot(0, self._tell_swing)

    def _tell_swing(self) -> None:
        """What the Book knows of the body comes before what is only guessed of it in a swing."""
        swing, student, told = self._open.swing, self.student, dict[str, object]()
        if self._open.store is None or golfer_name(swing.golfer) != (self._about or ("",))[0]:
            return
        if student.stature_cm is not None and "scale" in swing.guessed:
            told["scale"] = Stature(student.stature_cm)
        if student.hand is not None and "hand" in swing.guessed:
            told["hand"] = student.hand
        if student.school and told and swing.school == Swing().school:
            told["school"] = student.school
        if told:
            self._open.set("Take over from the Book", **told)

    def _load(self, name: str) -> None:
        self._base, self._revision = Student(name=name), 0
        if name and self.book is not None:
            try:
                with self.book.reading() as db:
                    self._base, self._revision = students.named(db, name)
            except KneelError as error:
                self.book = None
                self.failed.emit(str(error))
        self.history = History(self._base)
        self._load_last()

    def _load_last(self) -> None:
        """Look up the lesson before that of the swing on the desk."""
        store, book = self._open.store, self.book
        self.last, self.day = None, self.today
        if store is None:
            return
        try:
            self.day = day_of(store.info.path)
            if book is not None and self._base.id:
                with book.reading() as db:
                    self.last = last_time(db, self._base.id, self.day)
        except (KneelError, OSError) as error:
            self.failed.emit(str(error))

    def reload(self) -> None:
        """Read the record again where the Book holds a newer one and nothing of it is changed here."""
        book, name = self.book, self.student.name
        if not name or book is None or replace(self.student, id=self._base.id) != self._base:
            return
        try:
            with book.reading() as db:
                key = self._base.id
                now = students.load(db, key) if key else students.named(db, name)
        except KneelError:
            return
        if now[1] != self._revision or now[0].id != self._base.id:
            self._base, self._revision = now
            self.history = History(self._base)
            self._load_last()
            self.changed.emit()

    def _swings_now(self) -> tuple[FileRef, ...]:
        """The open swing and those like it that lie beside it."""
        return tuple(FileRef(str(one)) for one in self.beside()[:MOST])

    def _on_numbers(self) -> None:
        if not self._open.numbers.dragging:
            self.changed.emit()

    def _take_drills(self, drills: Drills) -> None:
        self.drills = drills
        self.changed.emit()

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))
