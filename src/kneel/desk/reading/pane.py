"""The pane of the reading: school, knots, the chosen finding, what is clear, and what to do next."""

from __future__ import annotations

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import (
    QBoxLayout,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.chooser import Choice, Chooser
from kneel.desk.entry import Entry, Line
from kneel.desk.ground import Ground, groundless, scrolled
from kneel.desk.practice import Practice
from kneel.desk.reading.explain import Explain, worded
from kneel.desk.reading.first import FirstDrill
from kneel.desk.reading.fold import Fold
from kneel.desk.reading.knots import Knots
from kneel.desk.reading.last import LastLesson
from kneel.desk.swing import OpenSwing
from kneel.desk.text import Label
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.judge import Finding, Reading, Verdict, in_use
from kneel.judge.roots import ADDED, REJECTED
from kneel.model import spoken
from kneel.model.student import LONGEST_TEXT
from kneel.motion.advice import Advice
from kneel.speech.book import still_work_on
from kneel.speech.findings import differences, done_well, work_on
from kneel.speech.words import number, with_unit

DIFFER = 3
"""So many differences between two schools are told."""

NARROW, WIDE = 304, 420


class ReadingPane(Ground):
    """What was found, root first, and its argument; in one column, or in two where there is room."""

    plan_wanted = pyqtSignal()
    book_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look, practice: Practice) -> None:
        super().__init__(look)
        self._open, self._practice = opened, practice
        self._school = QPushButton()
        self._school.setProperty("role", "flat")
        self._school.setAccessibleName(tr("School the swing is judged by"))
        self._school.clicked.connect(self.choose_school)
        self._agrees = worded("small")
        self._well, self._work = worded("secondary"), worded("strong")
        self.last = LastLesson(look, practice)
        self.last.book_wanted.connect(self.book_wanted)
        self.last.give_up_wanted.connect(self.give_up_last)
        self.first = FirstDrill(opened, practice)
        self.first.clicked.connect(self.plan_wanted)
        self._knots, self._rest = Knots(opened, look), Knots(opened, look)
        self._rest.hide()
        self.explain = Explain(opened, look)
        self._notes = worded("small", selectable=True)
        self._count = Fold(look, tr("What is clear, and what cannot be told"))
        self._count.toggled.connect(lambda _: self.refresh())
        self._complaint, self._flight = self._told("complaint"), self._told("flight")
        self._build()
        practice.changed.connect(self._follow_practice)
        signals = (opened.numbers.renewed, opened.selection.chose, opened.opened, opened.document.changed)
        for signal in (*signals, look.changed):
            signal.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(NARROW, 480)

    # Building

    def _told(self, field: str) -> QLineEdit:
        """A line for what the golfer tells, kept in the document."""
        line = Line(LONGEST_TEXT)

        def keep() -> None:
            if self._open.store is not None and line.text() != getattr(self._open.swing, field):
                self._open.set("Note what the golfer tells", **{field: line.text()})
            line.setModified(False)

        line.editingFinished.connect(keep)
        return line

    def _build(self) -> None:
        self._chain, self._words = QWidget(), QWidget()
        chain, words = QVBoxLayout(self._chain), QVBoxLayout(self._words)
        for column in (chain, words):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(10)
        for part in (
            self.last,
            self._school,
            self._agrees,
            self._well,
            self._work,
            self.first,
            self._knots,
            self._count,
            self._rest,
        ):
            chain.addWidget(part)
        self._asked = QWidget()
        form = QFormLayout(self._asked)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(6)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
        rows = ((self._complaint, tr("Complaint"), tr("pain, or what bothers")),)
        rows += ((self._flight, tr("Ball flight"), tr("fat, slice, weak …")),)
        for line, title, prompt in rows:
            label = Label(title)
            label.setProperty("role", "caption")
            label.setBuddy(line)
            line.setPlaceholderText(prompt)
            line.setAccessibleName(title)
            form.addRow(label, line)
        for part in (self.explain, self._notes, self._asked):
            words.addWidget(part)
        chain.addStretch(1)
        words.addStretch(1)
        inner = groundless()
        self._columns = QBoxLayout(QBoxLayout.Direction.TopToBottom, inner)
        self._columns.setContentsMargins(12, 10, 12, 12)
        self._columns.setSpacing(12)
        self._columns.addWidget(self._chain)
        self._columns.addWidget(self._words, 1)
        self._area = scrolled(inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 4)
        outer.addWidget(self._area)
        self.lie(beside=False)

    def lie(self, *, beside: bool) -> None:
        """Chain over words, in a narrow pane; or chain beside words, in a wide one."""
        direction = QBoxLayout.Direction
        self._columns.setDirection(direction.LeftToRight if beside else direction.TopToBottom)
        self._columns.setStretch(0, 1 if beside else 0)
        if beside:
            self.setMinimumWidth(WIDE)
            self.setMaximumWidth(16777215)
        else:
            self.setFixedWidth(NARROW)

    # Saying

    def _follow_practice(self) -> None:
        """Another golfer, or the last lesson's root given up: what to work on may be another."""
        reading = self._open.numbers.reading
        if reading is not None and self._open.store is not None and not self._open.numbers.dragging:
            words = self._work_on(reading)
            self._work.setText(words)
            self._work.setVisible(bool(words))

    def refresh(self) -> None:
        """Say what the numbers say now."""
        reading = self._open.numbers.reading
        is_open = reading is not None and self._open.store is not None
        parts = (self._school, self._count, self.explain, self._asked)
        for widget in (*parts, self._well, self._work, self._agrees):
            widget.setVisible(is_open)
        if reading is None or not is_open:
            self._knots.show_chain([])
            self._rest.show_chain([])
            self._notes.setText(
                tr("The reading stands here once a clip is open: what to work on first, and why.")
            )
            return
        if self._open.numbers.dragging:
            # The chosen finding follows the hand; all else when it rests.
            self._knots.show_chain(reading.chain or [(f, 0) for f in reading.well])
            self.explain.follow(self._open.selection.finding, reading)
            return
        self._school.setText(tr("Judged as %s ▾") % reading.school.title.lower())
        for label, words in (
            (self._agrees, self._agreement()),
            (self._well, done_well(reading)),
            (self._work, self._work_on(reading)),
        ):
            label.setText(words)
            label.setVisible(bool(words))
        self._knots.show_chain(reading.chain or [(f, 0) for f in reading.well])
        self.explain.show_finding(self._open.selection.finding, reading)
        self._tell_rest(reading)
        for line, words in (
            (self._complaint, self._open.swing.complaint),
            (self._flight, self._open.swing.flight),
        ):
            if not (line.hasFocus() and line.isModified()) and line.text() != words:
                line.setText(words)

    def _work_on(self, reading: Reading) -> str:
        """What to work on: what the last lesson left as long as that binds, else what comes first."""
        last = self._practice.last.carried
        return still_work_on(last) if last is not None and last.binds else work_on(reading)

    def _tell_rest(self, reading: Reading) -> None:
        """One quiet line for what is clear or cannot be told; it opens."""
        rest = self._not_at_work(reading)
        clear = sum(f.verdict is Verdict.CLEAR for f in rest)
        unsure = sum(f.verdict is Verdict.UNKNOWN and f.asked for f in rest)
        unseen = sum(not f.asked for f in reading.findings)
        counts = (
            (clear, tr("%d clear")),
            (unsure, tr("%d can’t be told")),
            (unseen, tr("%d not asked")),
        )
        words = " · ".join(text % count for count, text in counts if count)
        self._count.say(words)
        self._count.setVisible(bool(words))
        self._rest.show_chain([(f, 0) for f in rest] if self._count.isChecked() else [])
        self._rest.setVisible(self._count.isChecked())
        notes = [*self._next_step(), *self._by_colour(), *self._open.numbers.notes]
        self._notes.setText("\n\n".join(notes))
        self._notes.setVisible(bool(notes))

    def _not_at_work(self, reading: Reading) -> list[Finding]:
        shown = {f.key for f, _ in reading.chain} or {f.key for f in reading.well}
        return [f for f in reading.findings if f.asked and f.key not in shown]

    def _by_colour(self) -> list[str]:
        """Which points follow a spot of tape that was marked."""
        hand = self._open.swing.hand
        names = ", ".join(spoken(point, hand) for point in sorted(self._open.numbers.spots))
        return [tr("Followed by its colour: %s.") % names] if names else []

    def _next_step(self) -> list[str]:
        """What to do where marks are still lacking."""
        advice = self._open.selection.advice()
        if advice is not None:
            return [self._advised(advice)]
        marked = {m.frame for m in self._open.swing.marks}
        if len(marked) >= 3 or self._open.looked.sightings:
            return []
        if self._open.gathering.looking.busy:
            return [tr("Kneel is looking for the joints; marks set by hand meanwhile are kept.")]
        return [
            tr(
                "Press M and click hips, knees, ankles and hands: at address, half way back, at the top, "
                "half way down and at impact. Kneel follows them in between."
            )
        ]

    def _advised(self, advice: Advice) -> str:
        """Which one mark would make the chosen finding surer, and how much."""
        finding = self._open.selection.unsure
        unit = (finding.unit if finding else None) or "cm"
        other = finding is not None and finding.key != self._open.selection.fault
        about = tr("%s cannot be told yet. ") % finding.fault.title if finding and other else ""
        return about + tr("Marking the %s %s would bring ± %s down to about ± %s. Press N to set it.") % (
            advice.point.replace("_", " "),
            tr(" and ").join(self._open.numbers.frame_title(frame) for frame in advice.frames),
            number(advice.before, unit, signed=False),
            with_unit(number(advice.after, unit, signed=False), unit),
        )

    def _agreement(self) -> str:
        """How a second school sees the same swing."""
        reading, other = self._open.numbers.reading, self._open.numbers.other
        if reading is None or other is None or not reading.told:
            return ""
        told = differences(reading, other)
        name = other.school.title.lower()
        if not told:
            return tr("The %s school agrees.") % name
        more = len(told) - DIFFER
        tail = " " + tr("And %d more.") % more if more > 0 else ""
        return tr("The %s school sees it otherwise. %s") % (name, " ".join(told[:DIFFER])) + tail

    # What the actions do

    def choose_school(self) -> Chooser | None:
        """Let another school be chosen."""
        if self._open.store is None:
            return None
        now = self._open.swing.school

        def take(key: str) -> None:
            if key != self._open.swing.school:
                self._open.set("Change school", school=key)

        schools = in_use().schools.items()
        choices = [
            Choice(one.title, lambda k=key: take(k), detail=one.creed, checked=key == now)
            for key, one in schools
        ]
        chooser = Chooser(self, self._look, tr("Judge by another school"), choices)
        chooser.open(self._school)
        return chooser

    def give_up_last(self) -> Entry:
        """Say why what the last lesson worked on is not pursued any more."""

        def take(value: object) -> None:
            if str(value).strip():
                self._practice.last.give_up(str(value).strip())

        entry = Entry(self, self._look, tr("Why is it not pursued any more?"), take, most=LONGEST_TEXT)
        entry.open(self.last.give_up)
        return entry

    def add_finding(self) -> Chooser | None:
        """Let a fault be added that the numbers do not see."""
        reading = self._open.numbers.reading
        if reading is None:
            return None

        def add(key: str) -> None:
            self._open.selection.choose(key)
            self.explain.override(ADDED)

        rest = [f for f in reading.findings if not f.verdict.at_work]
        choices = [Choice(f.fault.title, lambda k=f.key: add(k), detail=f.fault.why) for f in rest]
        chooser = Chooser(self, self._look, tr("Add a fault that is seen"), choices, typing=True)
        chooser.open(self._school)
        return chooser

    def dismiss(self) -> None:
        """The instructor does not see the chosen finding."""
        finding = self._open.selection.finding
        if finding is not None and finding.verdict.at_work:
            self.explain.override(REJECTED)

    def ask_unsure(self) -> None:
        """Tell where the error comes from, or no longer."""
        if not self.explain.ask_unsure.isHidden():
            self.explain.ask_unsure.toggle()

    def step(self, way: int) -> None:
        """Choose the next finding of the chain, round and round."""
        reading = self._open.numbers.reading
        if reading is None:
            return
        keys = [f.key for f, _ in reading.chain] or [f.key for f in reading.well]
        if keys:
            now = self._open.selection.fault
            place = keys.index(now) + way if now in keys else 0
            self._open.selection.choose(keys[place % len(keys)])
