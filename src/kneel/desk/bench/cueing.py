"""A cue that was tried before the open swing: the number in the swing before it, and in this one."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.compare.difference import Difference, difference
from kneel.compare.errors import Member
from kneel.desk.context import Context
from kneel.desk.entry import Entry
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.practice import Practice
from kneel.desk.practice.sides import number_before
from kneel.desk.swing import OpenSwing
from kneel.desk.words import tr
from kneel.model import Aim, Ball, Cue
from kneel.motion.quantity import Single
from kneel.practice.cues import clearly_moved, tried
from kneel.speech.change import cue_words
from kneel.speech.words import length_words


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
            lambda words: self._take(str(words), before, *aim),
            words=ball.cue if ball else "",
            suggestions=[one.words for one in known],
            remark=". ".join(cue_words(one) for one in known[:3]),
        )
        entry.open()
        return entry

    def _aim(self) -> tuple[str, Aim] | None:
        """The fault and the number that a cue is for: the plan's, else the root's."""
        plan, reading = self._practice.plan, self._open.numbers.reading
        if plan is not None and self._practice.offer.now(plan) is not None:
            return plan.fault, plan.aim
        proposal = self._practice.offer.proposal
        if reading is None or proposal is None:
            return None
        made = self._practice.offer.preview(proposal)
        return (made.fault, made.aim) if made is not None and made.aim.start is not None else None

    def _swing_before(self) -> Path | None:
        """The swing like this one that stands before it."""
        beside, path = self._practice.beside(), self._open.path
        here = beside.index(path) if path in beside else 0
        return beside[here - 1] if here > 0 else None

    def _take(self, words: str, before: Path, fault: str, aim: Aim) -> None:
        numbers, path = self._practice.offer.numbers, self._open.path
        now = numbers.tell(aim.measure, aim.at) if numbers is not None else None
        if not words or path is None or numbers is None or not isinstance(now, Single):
            return
        self._open.set(
            tr("Keep a cue"), ball=msgspec.structs.replace(self._open.swing.ball or Ball(), cue=words)
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
            )
            self._practice.try_cue(cue)
            clearly = tr("it moved") if clearly_moved(cue) else tr("no clear move")
            then = length_words(cue.before, cue.before_sigma, cue.unit)
            self.said.emit(f"{then} → {length_words(cue.after, cue.after_sigma, cue.unit)}: {clearly}")

        self._askers.start(
            Operation(
                subject=lambda: (self._practice.record.whose(), self._open.path),
                work=work,
                done=done,
                failed=lambda error: self._practice.failed.emit(str(error)),
            )
        )
