"""The pane of the reading: what to do first, findings, the last lesson, the chosen one argued, the rest."""

from __future__ import annotations

from PyQt6.QtCore import QSettings, QSize, pyqtSignal
from PyQt6.QtWidgets import QBoxLayout, QVBoxLayout, QWidget

from kneel.desk.places.bench.reading.explain import Explain
from kneel.desk.places.bench.reading.findings import Findings
from kneel.desk.places.bench.reading.first import FirstDrill
from kneel.desk.places.bench.reading.head import GolferLines, Headline
from kneel.desk.places.bench.reading.joined import Joined
from kneel.desk.places.bench.reading.last import LastLesson
from kneel.desk.places.bench.reading.rest import Rest
from kneel.desk.places.bench.reading.walk import Walk
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import worded
from kneel.desk.widgets.theme import Look
from kneel.judge import in_use
from kneel.judge.kinds import ONCE
from kneel.judge.roots import ADDED, REJECTED
from kneel.model import spoken
from kneel.model.student import LONGEST_TEXT

NARROW, WIDE = 304, 420


class ReadingPane(CardBackground):
    """What was found, root first, and its argument; in one column, or in two where there is room."""

    plan_wanted = pyqtSignal()
    book_wanted = pyqtSignal()
    mark_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look, practice: Practice, settings: QSettings) -> None:
        super().__init__(look)
        self._settings = settings
        self._open, self._practice = opened, practice
        self.golfer = GolferLines(opened, look)
        self.head = Headline(opened, practice)
        self.findings = Findings(opened, look)
        self.findings.knots.after = self.golfer.row
        self.walk = Walk(opened, look)
        self.walk.wanted.connect(self._walk_to)
        self.walking = settings.value("reading/order", "root") == "swing"
        self.joined, self.camera = Joined(tr("Open the other clip where it shows this")), Joined()
        self.last = LastLesson(look, practice)
        self.last.book_wanted.connect(self.book_wanted)
        self.last.give_up_wanted.connect(self.give_up_last)
        self.first = FirstDrill(opened, practice)
        self.first.clicked.connect(self.plan_wanted)
        self.explain = Explain(opened)
        self.explain.mark_wanted.connect(self.mark_wanted)
        self.notes = worded("small", selectable=True)
        self.rest = Rest(opened, look)
        self.rest.school.clicked.connect(self.choose_school)
        self._build()
        practice.changed.connect(self._follow_practice)
        signals = (opened.numbers.renewed, opened.selection.chose, opened.opened, opened.document.changed)
        for signal in (*signals, look.changed):
            signal.connect(self.refresh)
        self.refresh()

    @property
    def balls_told(self) -> bool:
        """Whether it stands there what the balls did."""
        reading = self._open.numbers.reading
        return reading is not None and bool(reading.balls) and not self.golfer.balls.isHidden()

    def sizeHint(self) -> QSize:
        return QSize(NARROW, 480)

    def _build(self) -> None:
        self._chain, self._words = QWidget(), QWidget()
        chain, words = QVBoxLayout(self._chain), QVBoxLayout(self._words)
        for column in (chain, words):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(7)
        for part in (self.golfer, self.head, self.findings, self.walk, self.camera, self.joined, self.last):
            chain.addWidget(part)
        for part in (self.explain, self.first, self.notes, self.rest):
            words.addWidget(part)
        chain.addStretch(1)
        words.addStretch(1)
        inner = QWidget()
        self._columns = QBoxLayout(QBoxLayout.Direction.TopToBottom, inner)
        self._columns.setContentsMargins(12, 6, 12, 12)
        self._columns.setSpacing(7)
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
            self.head.refresh(reading)

    def refresh(self) -> None:
        """Say what the numbers say now."""
        reading = self._open.numbers.reading
        is_open = reading is not None and self._open.store is not None
        awaited = is_open and self._open.gathering.awaited and not self._open.swing.marks
        self.golfer.setVisible(is_open)
        told = is_open and not awaited
        finding = self._open.selection.finding
        argued = told and (reading.told or (finding is not None and finding.override is not None))
        for widget, shown in ((self.head, told), (self.explain, argued), (self.rest, told)):
            widget.setVisible(shown)
        self.findings.setVisible(told and not self.walking)
        self.walk.setVisible(told and self.walking)
        if reading is None or not is_open:
            self.findings.show_chain([])
            self.notes.setText(
                tr("The reading stands here once a clip is open: what to work on first, and why.")
            )
            return
        if awaited:
            self.golfer.refresh(reading)
            self.notes.setVisible(True)
            self.notes.setText("\n\n".join(self._next_step()))
            return
        if self.walking:
            self.walk.show_reading(reading, finding)
        else:
            self.findings.show_chain(reading.chain or [(f, 0) for f in reading.well])
        if self._open.numbers.dragging:
            # The chosen finding follows the hand; all else when it rests.
            self.explain.follow(finding, reading)
            return
        self.golfer.refresh(reading)
        self.head.refresh(reading)
        self.explain.show_finding(finding, reading)
        self.rest.refresh()
        notes = [*self._next_step(), *self._by_colour(), *self._open.numbers.notes]
        notes = [note for note in notes if note != self.head.text_shown()]
        self.notes.setText("\n\n".join(notes))
        self.notes.setVisible(bool(notes))

    def _by_colour(self) -> list[str]:
        """Which points follow a spot of tape that was marked."""
        hand = self._open.swing.hand
        names = ", ".join(spoken(point, hand) for point in sorted(self._open.numbers.spots))
        return [tr("Followed by its colour: %s.") % names] if names else []

    def _next_step(self) -> list[str]:
        """What to do where marks are still lacking."""
        marked = {m.frame for m in self._open.swing.marks}
        if len(marked) >= 3 or self._open.looked.sightings:
            return []
        if self._open.gathering.awaited:
            return [tr("Kneel is looking for the joints; marks set by hand meanwhile are kept.")]
        return [
            tr(
                "Press M and click hips, knees, ankles and hands: at address, half way back, at the top, "
                "half way down and at impact. Kneel follows them in between."
            )
        ]

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
        chooser.open(self.rest.school)
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
        chooser.open(self.findings)
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

    def turn_order(self) -> None:
        """Root first, or in the order of the swing; the next swing is read in the same order."""
        self.walking = not self.walking
        self._settings.setValue("reading/order", "swing" if self.walking else "root")
        self.refresh()

    def _walk_to(self, at: str, fault: str) -> None:
        """Look at a checkpoint, and at what stands there first."""
        if fault:
            self._open.selection.choose(fault)
        if at != ONCE:
            self._open.go_to(at)
        self.refresh()

    def step(self, way: int) -> None:
        """Choose the next finding of the chain, or the next checkpoint of the walk, round and round."""
        reading = self._open.numbers.reading
        if reading is None:
            return
        if self.walking:
            self.walk.step(way)
            return
        keys = [f.key for f, _ in reading.chain] or [f.key for f in reading.well]
        if keys:
            now = self._open.selection.fault
            place = keys.index(now) + way if now in keys else 0
            self._open.selection.choose(keys[place % len(keys)])
