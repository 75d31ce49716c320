"""The Plan place: drills at the left, the weeks, the ladder and the check-in at the right."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers
from kneel.desk.places.plan.actions import PlanActions, PlanParts
from kneel.desk.places.plan.calendar import Calendar
from kneel.desk.places.plan.cards import DrillCards
from kneel.desk.places.plan.checkin import CheckIn
from kneel.desk.places.plan.fault_line import FaultLine
from kneel.desk.places.plan.how import How
from kneel.desk.places.plan.ladder import Ladder
from kneel.desk.places.plan.tokens import PlanTokens
from kneel.desk.records.practice import Practice
from kneel.desk.records.sides import AnswerTold
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded
from kneel.judge.roots import ADDED
from kneel.model import Plan
from kneel.practice import Proposal
from kneel.practice.choice import DrillChoice
from kneel.practice.cues import tried
from kneel.practice.films import film_of
from kneel.speech import practice as say
from kneel.speech.findings import sentence
from kneel.speech.words import length_words, listed

LEFT_WIDE, LEFT_NARROW, NARROW = 316, 274, 1000


class PlanPlace(PlanParts):
    """One thing to work on, for the student of the swing on the desk.

    ``said`` carries a sentence; ``name_wanted`` asks for the golfer's name and then for what is to be done.
    """

    key, title = "plan", "Plan"
    name_wanted = pyqtSignal(object)

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(practice.record.undoing)
        self._open, self._look, self.practice = opened, context.look, practice
        self._looked_at = ""
        self.answer: AnswerTold | None = None
        look = context.look
        self._head = worded("title")
        self.fault = FaultLine(look)
        self._carries, self._number = worded("secondary"), worded("secondary")
        self.cards, self.how = DrillCards(look), How()
        self._films = Lane(self, newest=True)
        self.how.show_film(there=False)
        self.how.film.clicked.connect(lambda _=False: self.handlers()["drill_film"]())
        self._empty = worded("secondary")
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.other = QPushButton(tr("Plan for a fault …"))
        self.tokens = PlanTokens(practice, look)
        self.calendar, self.ladder, self.check_in = Calendar(look), Ladder(look), CheckIn(look)
        self._build()
        self._actions = PlanActions(opened, context, practice, self)
        table = self._actions.table()
        self.check_in.asked.connect(lambda key: table[key]())
        self.calendar.picked.connect(self._actions.note_day)
        self.cards.picked.connect(self._look_at)
        for way in (self.fault, self.other):
            way.clicked.connect(lambda _=False: self._actions.choose_fault())
        practice.changed.connect(self._on_changed)
        opened.opened.connect(self._forget)
        look.changed.connect(self.update)
        self.refresh()

    def _build(self) -> None:
        left = self._left = CardBackground(self._look)
        left.setFixedWidth(LEFT_WIDE)
        self._left = left
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(8)
        self._head.setText(tr("Work on one thing"))
        for part in (self._head, self.fault, self._carries, self._number, self.cards, self.how):
            column.addWidget(part)
        column.addStretch(1)
        frame = QVBoxLayout(left)
        frame.setContentsMargins(0, 4, 0, 4)
        frame.addWidget(scrolled(inner))
        weeks = QWidget()
        right = QVBoxLayout(weeks)
        right.setContentsMargins(0, 0, 4, 0)
        right.setSpacing(10)
        right.addWidget(self.tokens)
        right.addWidget(self.calendar, 1)
        right.addWidget(self.ladder)
        right.addWidget(self.check_in)
        right.addWidget(self._nothing())
        outer = QHBoxLayout(self)
        outer.setContentsMargins(10, 0, 12, 6)
        outer.setSpacing(12)
        outer.addWidget(left)
        outer.addWidget(scrolled(weeks), 1)

    def _nothing(self) -> QWidget:
        """What stands there while there is nothing to plan for."""
        self._blank = QWidget()
        column = QVBoxLayout(self._blank)
        column.addStretch(2)
        column.addWidget(self._empty)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.other)
        row.addStretch(1)
        column.addSpacing(8)
        column.addLayout(row)
        column.addStretch(3)
        return self._blank

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def hints(self) -> str:
        return tr("F2 Bench    F4 note today’s session    Ctrl+Z undo    F1 all keys")

    def enter(self) -> None:
        first = next((card for card in self.cards.cards if card.isChecked()), None)
        (first or self.tokens.tokens["weekdays"]).setFocus()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """All days of a week stand there, also where the window is narrow."""
        super().resizeEvent(event)
        self._left.setFixedWidth(LEFT_NARROW if self.width() < NARROW else LEFT_WIDE)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    @property
    def looked_at(self) -> DrillChoice | None:
        """The drill that is read about: the plan's, unless another one was picked."""
        proposal = self.practice.offer.proposal
        if proposal is None:
            return None
        wanted = self._looked_at or (self.practice.plan.drill if self.practice.plan else "")
        found = next((one for one in proposal.drills if one.drill.key == wanted), None)
        return found or proposal.chosen or next(iter(proposal.drills), None)

    def refresh_film(self) -> None:
        """Say whether the drill that is looked at has a film of one's own."""
        choice = self.looked_at
        if choice is None:
            return
        key = choice.drill.key
        self._films.start(
            Operation(
                subject=lambda: self.looked_at.drill.key if self.looked_at else "",
                work=lambda _: film_of(key),
                done=lambda film: self.how.show_film(there=film is not None),
            )
        )

    def show_answer(self, answer: AnswerTold | None) -> None:
        """Show what a check-in came to."""
        self.answer = answer
        self.refresh()

    def begin_named(self, begin: Callable[[], object]) -> None:
        """Begin what needs a name, after asking for one where there is none."""
        if self.practice.student.name:
            begin()
        else:
            self.name_wanted.emit(begin)

    def _forget(self) -> None:
        self._looked_at, self.answer = "", None

    def _look_at(self, key: str) -> None:
        """Read about another drill; before a plan has begun it is the one that would be begun."""
        self._looked_at = key
        proposal = self.practice.offer.proposal
        one = next((c for c in proposal.drills if c.drill.key == key), None) if proposal else None
        if self.practice.plan is None and proposal is not None and one is not None and not one.forbidden:
            self.practice.choose(proposal.finding.key, key)
        else:
            self.refresh()

    def _on_changed(self) -> None:
        if self.isVisible():
            self.refresh()

    # Showing

    def refresh(self) -> None:
        """Show the plan that runs, or the one that would begin."""
        proposal = self.practice.offer.proposal
        plan, begun = self.practice.offer.preview(proposal), self.practice.plan is not None
        choice = self.looked_at
        drill = choice.drill if choice else None
        running = self.practice.plan.drill if self.practice.plan else ""
        self._tell_fault(proposal, plan)
        self.cards.show_proposal(proposal, drill.key if drill else "", running)
        drills = self.practice.offer.drills
        of_plan = drills.all.get(plan.drill) if plan and drills else None
        cues = tried(self.practice.student.tried, proposal.finding.key) if proposal else ()
        self.how.show_drill(choice, plan, cues)
        self.refresh_film()
        self.tokens.setVisible(proposal is not None)
        self.tokens.refresh(plan)
        flags = self.practice.student.flags
        self.calendar.show_plan(plan, of_plan, self.practice.today, begun=begun, flags=flags)
        self.ladder.show_plan(plan, of_plan, begun=begun)
        self.check_in.show_plan(
            plan,
            self.answer,
            begun=begun,
            other_drill=begun and drill is not None and drill.key != running and not choice.forbidden,
            named=bool(self.practice.student.name),
        )

    def _tell_fault(self, proposal: Proposal | None, plan: Plan | None) -> None:
        """What is worked on, what hangs under it, and its number."""
        for part in (self.fault, self._carries, self._number):
            part.setVisible(proposal is not None)
        lacking = self._lacking(proposal, plan)
        self._empty.setText(lacking)
        self._blank.setVisible(bool(lacking))
        self._left.setVisible(proposal is not None)
        self.other.setVisible(self._open.numbers.reading is not None and self.practice.plan is None)
        if proposal is None:
            return
        finding = proposal.finding
        self.fault.show_fault(finding.verdict.value, finding.fault.title, opens=self.practice.plan is None)
        reading = self._open.numbers.reading
        under = [reading.of(key).fault.title.lower() for key in finding.explains[:3]] if reading else []
        self._carries.setText(tr("carries %s") % listed(under) if under else "")
        self._carries.setVisible(bool(under))
        if plan is None:
            self._number.setText(sentence(finding, reading.school) if reading else "")
            return
        aim = plan.aim
        now = self.practice.offer.now(plan)
        said = say.measure_words(aim.measure, aim.at)
        words = [
            tr("%s: %s, wanted %s") % (said, say.start_words(aim) or tr("not told yet"), say.limit_words(aim))
        ]
        if finding.override is not None and finding.override.verdict == ADDED:
            words.append(tr("on the instructor’s word"))
        if self.practice.plan is not None and now is not None and now.value != aim.start:
            words.append(tr("in this swing %s") % length_words(now.value, now.sigma, now.unit))
        self._number.setText("; ".join(words))

    def _lacking(self, proposal: Proposal | None, plan: Plan | None) -> str:
        """Why there is nothing to plan for, and what to do; empty where there is."""
        if self._open.store is None:
            return tr("A plan is made from a swing: open one on the Bench (Ctrl+O), then come back.")
        if self._open.numbers.reading is None or self.practice.offer.drills is None:
            return tr("The swing is being read …")
        if proposal is None:
            return tr(
                "Nothing in this swing is sure enough to plan weeks for. "
                "A fault that is seen all the same can be chosen."
            )
        if not proposal.drills:
            return tr("This is a consequence: work on what it hangs under.")
        if plan is None:
            return tr("None of the drills can be begun with what is at hand and what has to be spared.")
        return ""
