"""What two schools say: where they disagree on the swing on the desk, and in the student's Book."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from kneel.book import Book
from kneel.book.repository.swings import judged_by
from kneel.book.views.by_school import UnderTwo, under_two
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.figures import Figures
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import Label, worded
from kneel.desk.widgets.theme import Look
from kneel.judge.knowledge import in_use
from kneel.judge.records import School
from kneel.speech.findings import differences

LOW = 132
MOST = 4
"""So many faults are counted in words."""

NO_SWING = "Open a swing on the Bench: it is drawn over the windows, and judged by both schools."


class ShortCard(CardBackground):
    """Words under the picture, which scroll where they are many."""

    def __init__(self, look: Look, *labels: Label) -> None:
        super().__init__(look)
        self.setFixedHeight(LOW)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(14, 10, 14, 10)
        for label in labels:
            label.setWordWrap(True)
            column.addWidget(label)
        column.addStretch(1)
        frame = QVBoxLayout(self)
        frame.setContentsMargins(0, 0, 0, 0)
        frame.addWidget(scrolled(inner))


class TwoSchools(ShortCard):
    """Judges the swing on the desk, and its student's in the Book, by two schools. ``failed`` carries a
    sentence.
    """

    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, practice: Practice, look: Look) -> None:
        self.head, self.differ = worded("strong"), worded("secondary")
        self.student = worded("secondary")
        super().__init__(look, self.head, self.student, self.differ)
        self._open, self._practice = opened, practice
        self._judges = Lane(self, newest=True)
        self._counting: Task | None = None
        self._whose: object = None
        self._now: tuple[School, School | None] | None = None

    def tell(self, one: School, other: School | None, *, shown: bool) -> None:
        """Tell what differs from the ``other`` school to this ``one``."""
        self._now = one, other
        figures = self._open.numbers.figures
        if other is None or not shown:
            self.student.hide()
            self._say(figures, other, None)
            return
        self._count(one, other)
        if figures.analysis is None:
            self._say(figures, other, None)
            return
        self._judges.start(
            Operation(
                subject=lambda: self._now,
                work=lambda _: _differences(figures, one, other),
                done=lambda told: self._say(figures, other, told),
            )
        )

    def _say(self, figures: Figures, other: School | None, told: tuple[str, ...] | None) -> None:
        if other is None:
            self.head.setText(tr("Two schools on one swing"))
            self.differ.setText(tr("Choose a school beside it, or shape a copy: what changes stands here."))
            return
        self.head.setText(tr("Where it and %s disagree on this swing") % other.title.lower())
        if figures.analysis is None:
            self.differ.setText(tr(NO_SWING))
        elif told is not None:
            golfer = self._open.swing.golfer or tr("the swing on the desk")
            same = tr("Nowhere: both say the same of every fault, for %s.") % golfer
            self.differ.setText("\n".join(told) if told else same)

    def _count(self, one: School, other: School) -> None:
        """Have all swings of the student on the desk judged by both."""
        record = self._practice.record
        key, whose = record.key, record.whose()
        if whose != self._whose or not key:
            # What was counted is another student's.
            self.student.hide()
        self._whose = whose
        if not key:
            return

        def work(book: Book) -> UnderTwo:
            with book.reading() as db:
                return under_two(db, key, other, one, in_use())

        self._counting = record.records.read(
            record.which,
            work,
            subject=lambda: (record.whose(), self._now),
            done=lambda found: self._say_count(found, other),
            failed=lambda error: self.failed.emit(str(error)),
            instead=self._counting,
        )

    def _say_count(self, found: UnderTwo, other: School) -> None:
        words = [f"{one.title.lower()} {one.before} → {one.after}" for one in found.changed[:MOST]]
        more = len(found.changed) - MOST
        words += [tr("%d more") % more] if more > 0 else []
        same = tr("the same faults in all of them")
        swings = several(found.swings, "One swing", "%d swings")
        of = swings, self._open.swing.golfer, other.title.lower()
        head = tr("%s of %s in the Book, from %s to this one") % of
        self.student.setText(f"{head}: {' · '.join(words) or same}.")
        self.student.setVisible(found.swings > 0)

    def judges_desk(self, key: str) -> bool:
        """Whether the swing on the desk is judged by a school."""
        return self._open.store is not None and self._open.swing.school == key

    def count_judged(self, key: str, told: Callable[[int], None]) -> None:
        """Have counted how many swings of the Book are judged by a school."""
        record = self._practice.record

        def work(book: Book) -> int:
            with book.reading() as db:
                return judged_by(db, key)

        record.records.read(
            record.which,
            work,
            subject=lambda: key,
            done=told,
            failed=lambda error: self.failed.emit(str(error)),
        )


def _differences(figures: Figures, one: School, other: School) -> tuple[str, ...]:
    first, second = figures.under(one), figures.under(other)
    return differences(first, second) if first is not None and second is not None else ()
