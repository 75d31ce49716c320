"""The practice of the student on the desk: the plan that runs, and every step in it."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Lane, Operation
from kneel.desk.records import Records
from kneel.desk.records.last_lesson import LastLesson
from kneel.desk.records.offer import Offer
from kneel.desk.records.sides import MOST
from kneel.desk.records.student import StudentOnDesk
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import Cue, FileRef, Flag, KneelError, Plan, Practised, Student, UsageError
from kneel.practice import Drills, drills_in_use, plan_of
from kneel.practice.planning import aim_of
from kneel.practice.schedule import check_in_day


class Practice(QObject):
    """Steps in the record of the student on the desk. ``changed`` follows every one, and another student.

    ``failed`` carries a sentence about what could not be done or kept.
    """

    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, records: Records) -> None:
        super().__init__(opened)
        self._open = opened
        self.record = StudentOnDesk(opened, records)
        self.offer = Offer(opened, self.record, lambda: self.today)
        self.last = LastLesson(opened, self.record)
        self.offer.last = self.last
        self.beside: Callable[[], list[Path]] = list
        """The swings like the open one that lie beside it, itself among them: told by the rack."""

        self._loader = Lane(self)
        self._loader.start(
            Operation(work=lambda _: drills_in_use(), done=self._take_drills, failed=self._on_failed)
        )
        self._whose = self.record.whose()
        opened.opened.connect(self._on_opened)
        opened.numbers.renewed.connect(self._on_numbers)
        self.record.changed.connect(self._on_record)
        self.record.failed.connect(self.failed)
        self.changed.connect(self._lead)

    @property
    def main(self) -> str:
        """The fault that all else waits for: the running plan's, or what the last lesson left."""
        last = self.last.carried
        if self.plan is not None:
            return self.plan.fault
        return last.root.fault if last is not None and last.binds else ""

    def _lead(self) -> None:
        """The picture argues that first, until another is chosen by hand."""
        selection = self._open.selection
        if self.main != selection.main:
            before, selection.main = selection.fault, self.main
            selection.fall_back()
            if selection.fault != before:
                selection.chose.emit()

    @property
    def student(self) -> Student:
        return self.record.now

    @property
    def today(self) -> datetime.date:
        return datetime.date.today()

    @property
    def plan(self) -> Plan | None:
        """The plan that runs."""
        return self.student.plan

    # Steps

    def set(self, label: str, **fields: object) -> None:
        """Change what is known of the student."""
        self.record.change(label, **fields)

    def shape(self, label: str, *, days: int | None = None, **fields: object) -> None:
        """Change when there is practice: of the student, and of the plan that runs; its check-in follows."""
        plan = self.plan
        if days is not None:
            self.offer.days = days
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
        self.offer.fault, self.offer.drill = fault, drill
        self.changed.emit()

    def begin(self) -> bool:
        """Begin the plan that is proposed; False where that cannot be, which is said."""
        proposal, numbers = self.offer.proposal, self.offer.numbers
        if self.plan is not None or proposal is None or numbers is None:
            return False
        before = tuple(FileRef(str(one)) for one in self.beside()[:MOST])
        try:
            plan = plan_of(
                proposal,
                numbers,
                self.offer.wanted(),
                school=self._open.swing.school,
                before=before,
            )
        except UsageError as error:
            self.failed.emit(str(error))
            return False
        self.set(tr("Begin a plan"), plans=(*self.student.plans, plan))
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
        plan, proposal, numbers = self.plan, self.offer.proposal, self.offer.numbers
        if plan is None or proposal is None or numbers is None or self.offer.drills is None:
            return
        fresh = self.offer.drills.get(drill)
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
            self.offer.fault = plan.queued[0].fault if plan.queued and why == "held" else ""
            self.offer.drill = ""
            self._renew(tr("End the plan"), replace(plan, ended=why))

    def ask_with(self, after: Sequence[FileRef]) -> None:
        """Keep which swings the plan was held against."""
        plan = self.plan
        if plan is not None:
            self._renew(tr("Hold the plan against swings"), replace(plan, after=tuple(after)))

    def try_cue(self, cue: Cue) -> None:
        """Keep a cue and what became of the number."""
        self.set(tr("Keep a cue"), tried=(*self.student.tried, cue))

    def flag(self, flag: Flag, on: bool) -> None:
        """Say that something has to be spared, or no longer."""
        flags = {*self.student.flags, flag} if on else {*self.student.flags} - {flag}
        self.set(tr("Change what is spared"), flags=tuple(f for f in Flag if f in flags))

    def _renew(self, label: str, plan: Plan, **fields: object) -> None:
        self.set(label, plans=(*self.student.plans[:-1], plan), **fields)

    # What comes

    def _on_opened(self) -> None:
        """Another swing: its golfer, and what it shows."""
        self.offer.clear()
        self.changed.emit()

    def _on_record(self) -> None:
        if self.record.whose() != self._whose:
            self._whose = self.record.whose()
            self.offer.clear()
        self.changed.emit()

    def _on_numbers(self) -> None:
        if not self._open.numbers.dragging:
            self.changed.emit()

    def _take_drills(self, drills: Drills) -> None:
        self.offer.drills = drills
        self.changed.emit()

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, KneelError):
            self.failed.emit(str(error))
