"""A cue that was tried before the open swing: the number in the swing before it, and in this one."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.compare.difference import Difference, difference
from kneel.compare.errors import Member
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.records.practice import Practice
from kneel.desk.records.sides import number_before
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.judge.numbers import OfSwing
from kneel.model import Aim, Ball, Cue
from kneel.motion.quantity import Single
from kneel.practice.cues import tried
from kneel.practice.planning import edge_of
from kneel.speech.change import cue_words, felt_and_real


class Cueing(QObject):
    """Takes a cue in words, and keeps with the student what became of the number. ``said`` tells it."""

    said = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._context, self._practice, self._parent = opened, context, practice, parent
        self._askers = Lane(self)

    def ask(self) -> Entry | None:
        """Ask which cue was tried before this swing."""
        aim, before = self._aim(), self._swing_before()
        if aim is None or before is None:
            lacking = tr("a finding with a number") if aim is None else tr("a swing like it before it")
            self.said.emit(tr("A cue is held against a number of two swings: this one lacks %s") % lacking)
            return None
        known = tried(self._practice.student.tried, aim[0])
        ball = self._open.swing.ball
        entry = Entry(
            self._parent,
            self._context.look,
            tr("Which cue was tried before this swing?"),
            lambda words: self._ask_felt(str(words), before, *aim),
            words=ball.cue if ball else "",
            suggestions=[one.words for one in known],
            remark=". ".join(cue_words(one) for one in known[:3]),
        )
        entry.open()
        return entry

    def _ask_felt(self, words: str, before: Path, fault: str, aim: Aim) -> None:
        """Ask for the student's own word of it; nothing said is no word."""
        if not words.strip():
            return
        ball = self._open.swing.ball
        Entry(
            self._parent,
            self._context.look,
            tr("What did it feel like, in the student’s own words? Enter with nothing leaves it out."),
            lambda felt: self._take(words, str(felt).strip(), before, fault, aim),
            words=ball.felt if ball else "",
        ).open()

    def _aim(self) -> tuple[str, Aim] | None:
        """The fault and the number that a cue is for: the plan's, else what is spoken of first."""
        plan, reading = self._practice.plan, self._open.numbers.reading
        if plan is not None and self._practice.offer.now(plan) is not None:
            return plan.fault, plan.aim
        finding = reading.first if reading is not None else None
        weighed = finding.decided if finding is not None else None
        if finding is None or weighed is None or weighed.told is None or weighed.limits is None:
            return None
        told, limits = weighed.told, weighed.limits
        way, limit = edge_of(limits, weighed.check.side, told)
        aim = Aim(
            weighed.check.measure, weighed.at, told.unit, way, limit, limits.margin, told.value, told.sigma
        )
        return finding.key, aim

    def _swing_before(self) -> Path | None:
        """The swing like this one that stands before it."""
        beside, path = self._practice.beside(), self._open.path
        here = beside.index(path) if path in beside else 0
        return beside[here - 1] if here > 0 else None

    def _take(self, words: str, felt: str, before: Path, fault: str, aim: Aim) -> None:
        analysis, path = self._open.analysis, self._open.path
        numbers = None if analysis is None else OfSwing(analysis, self._open.swing.club)
        now = numbers.tell(aim.measure, aim.at) if numbers is not None else None
        if path is None or numbers is None or not isinstance(now, Single):
            return
        self._open.set(
            tr("Keep a cue"),
            ball=msgspec.structs.replace(self._open.swing.ball or Ball(), cue=words, felt=felt),
        )

        def work(task: Task) -> tuple[Member, Member | None] | None:
            asked = (before, path, aim.measure, aim.at)
            return self._context.beside.call(number_before, *asked, stopped=task.stopped)

        def done(told: tuple[Member, Member | None] | None) -> None:
            found = None
            if told is not None:
                mine, like = told
                after = replace(like or Member(numbers, "now", "now"), numbers=numbers)
                found = difference([mine], [after], aim.measure, aim.at)
            if not isinstance(found, Difference) or told is None:
                self.said.emit(
                    tr("The swing before it tells no such number; the cue is kept with this swing")
                )
                return
            was = told[0].numbers.tell(aim.measure, aim.at)
            assert isinstance(was, Single)
            cue = Cue(
                words,
                self._practice.today,
                fault,
                aim.measure,
                aim.at,
                found.unit,
                aim.way,
                was.value,
                was.sigma,
                now.value,
                now.sigma,
                found.sigma,
                felt,
            )
            self._practice.try_cue(cue)
            self.said.emit(felt_and_real(cue))

        self._askers.start(
            Operation(
                subject=lambda: (self._practice.record.whose(), self._open.path),
                work=work,
                done=done,
                failed=lambda error: self._practice.failed.emit(str(error)),
            )
        )
