"""What is offered to work on, by the swing on the desk, the student and the plan that runs."""

from __future__ import annotations

import datetime
from collections.abc import Callable

from kneel.desk.records.last_lesson import LastLesson, numbers_of
from kneel.desk.records.student import StudentOnDesk
from kneel.desk.swing import OpenSwing
from kneel.judge import Reading, in_use
from kneel.judge.numbers import OfSwing
from kneel.model import Plan, UsageError
from kneel.motion.quantity import Single
from kneel.practice import Drills, PracticeDays, Proposal, Wish, plan_of, propose

LENGTH_DAYS = 21


class Offer:
    """The proposal, and which fault and drill it was asked for; nothing is begun by it."""

    def __init__(self, opened: OpenSwing, record: StudentOnDesk, today: Callable[[], datetime.date]) -> None:
        self._open, self._record, self._today = opened, record, today
        self.last: LastLesson | None = None
        self.drills: Drills | None = None
        self.fault = self.drill = ""
        self.days = LENGTH_DAYS
        self._proposed: tuple[tuple[object, ...], Proposal | None] | None = None

    def clear(self) -> None:
        """Ask for nothing in particular any more."""
        self.fault = self.drill = ""

    @property
    def numbers(self) -> OfSwing | None:
        """The numbers of the swing on the desk."""
        return numbers_of(self._open)

    @property
    def wish(self) -> Wish:
        """What fits the student and the club."""
        return Wish.of(self._record.now, self._open.swing.club)

    @property
    def proposal(self) -> Proposal | None:
        """What to work on, by the swing on the desk and the plan that runs; None where nothing is at work."""
        reading = self._open.numbers.reading
        if self.drills is None or reading is None or self._open.store is None:
            return None
        last = self.last.known if self.last is not None else None
        club = self._open.swing.club
        about = (reading, self._record.now, self.fault, self.drill, club, last and last.worked)
        if self._proposed is None or any(a is not b for a, b in zip(self._proposed[0], about, strict=True)):
            self._proposed = about, self._propose(reading, self.drills)
        return self._proposed[1]

    def _propose(self, reading: Reading, drills: Drills) -> Proposal | None:
        plan, last = self._record.now.plan, self.last.carried if self.last is not None else None
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
            return propose(reading, self.wish, drills, fault=fault if fault in in_use().faults else "")

    def wanted(self) -> PracticeDays:
        """When there would be practice."""
        student = self._record.now
        return PracticeDays(self._today(), self.days, student.weekdays, student.minutes)

    def preview(self, proposal: Proposal | None) -> Plan | None:
        """The plan that runs, or the one that would begin today; None where no number can be held to."""
        plan, numbers = self._record.now.plan, self.numbers
        if plan is not None:
            return plan
        if proposal is None or numbers is None:
            return None
        try:
            return plan_of(proposal, numbers, self.wanted(), school=self._open.swing.school)
        except UsageError:
            return None

    def now(self, plan: Plan) -> Single | None:
        """The plan's number in the swing on the desk, where that is one of its view and tells it."""
        numbers = self.numbers
        if numbers is None or numbers.seen_from(plan.aim.measure) is None:
            return None
        told = numbers.tell(plan.aim.measure, plan.aim.at)
        return told if isinstance(told, Single) and told.unit == plan.aim.unit else None
