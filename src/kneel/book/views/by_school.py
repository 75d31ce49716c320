"""A student's swings in the Book under two schools: how often each fault is at work, before and after."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Connection

from kneel.book.repository import swings
from kneel.book.repository.swings import Indexed
from kneel.compare.trend import each_once
from kneel.judge import Knowledge, Verdict
from kneel.judge.reading import judge_numbers
from kneel.judge.records import School
from kneel.judge.roots import Brief
from kneel.model import Club, Kind, View
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single


@dataclass(frozen=True)
class OfBook:
    """A swing of the index as numbers to judge: those that were kept of it."""

    row: Indexed
    told: Mapping[tuple[str, str], Single]

    @property
    def kind(self) -> Kind:
        return self.row.kind

    @property
    def club(self) -> Club:
        return self.row.club

    @property
    def size(self) -> float:
        return self.row.size

    def cm(self, unit: str) -> tuple[float, float]:
        """Centimetres per unit of a length, and the relative error of that."""
        return self.row.cm(unit)

    def seen_from(self, measure: str) -> View | None:
        """The view of the clip where it shows a measure."""
        return self.row.view if self.row.view in REGISTRY[measure].views else None

    def tell(self, measure: str, at: str) -> Single | Failed:
        """A measure at a checkpoint, or ``once``."""
        known = self.told.get((measure, at))
        return Failed("It was not kept of this swing.", "none") if known is None else known


@dataclass(frozen=True)
class Counted:
    """A fault by title, and in how many swings it is at work under the one and the other school."""

    title: str
    before: int
    after: int


@dataclass(frozen=True)
class UnderTwo:
    """What two schools see in ``swings`` of a student: the faults that either sees more often than the
    other, what differs most first.
    """

    swings: int
    changed: tuple[Counted, ...]


def under_two(db: Connection, student: str, before: School, after: School, knowledge: Knowledge) -> UnderTwo:
    """Judge all that the Book keeps of a student's swings under two schools; of several documents of one
    swing the newest. Numbers that were not kept are unknown to both.
    """
    rows = each_once(swings.of_student(db, student))
    kept = swings.numbers_of(db, [row.id for row in rows])
    at_work = [
        _at_work([OfBook(row, kept[row.id]) for row in rows], one, knowledge) for one in (before, after)
    ]
    found = [
        Counted(fault.title, *(counts.get(key, 0) for counts in at_work))
        for key, fault in knowledge.faults.items()
    ]
    changed = [one for one in found if one.before != one.after]
    changed.sort(key=lambda one: -abs(one.after - one.before))
    return UnderTwo(len(rows), tuple(changed))


def _at_work(numbers: Sequence[OfBook], school: School, knowledge: Knowledge) -> dict[str, int]:
    counts: dict[str, int] = {}
    for one in numbers:
        # The instructor's word holds under every school.
        brief = Brief({said.fault: said for said in one.row.facts.overrides})
        reading = judge_numbers(one, school, brief, knowledge)
        for finding in reading.found(Verdict.FAULT):
            counts[finding.key] = counts.get(finding.key, 0) + 1
    return counts
