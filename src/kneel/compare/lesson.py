"""Several swings as one: sets of one view, club and kind, and the lesson over all of them.

The face-on clip and the line clip of a lesson are mostly different swings: the root is seen in one, its
consequence in the other. What the clips share in error does not shrink with their number.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from kneel.compare.sets import OfSet
from kneel.compare.views import told_best
from kneel.judge.finding import Finding
from kneel.judge.kinds import FOR_ONE_NUMBER
from kneel.judge.knowledge import Knowledge, in_use
from kneel.judge.numbers import OfSwing
from kneel.judge.reading import Reading, brief_of, judge_numbers
from kneel.judge.records import Fault, School
from kneel.judge.roots import ranked
from kneel.model import Ball, Club, Kind, Swing, View
from kneel.motion.viewed import Question
from kneel.practice.judging import aimed_of


@dataclass(frozen=True)
class Filmed:
    """One swing of a lesson: its document, its numbers and its own reading."""

    swing: Swing
    numbers: OfSwing
    reading: Reading

    @property
    def group(self) -> tuple[View, Club, Kind]:
        return self.numbers.study.setup.view, self.numbers.club, self.numbers.kind


@dataclass(frozen=True, eq=False)
class Balls:
    """Several swings of one view, club and kind: the reading of the typical one, and who shows what.

    ``swings`` are their numbers in the lesson; ``shows`` maps a fault to those in which it is at work.
    """

    view: View
    club: Club
    kind: Kind
    swings: tuple[int, ...]
    numbers: OfSet
    reading: Reading
    shows: Mapping[str, tuple[int, ...]]


@dataclass(frozen=True)
class JudgedLesson:
    """All swings, the sets they fall into, and one reading over them."""

    swings: tuple[Filmed, ...]
    sets: tuple[Balls, ...]
    reading: Reading

    def set_of(self, finding: Finding) -> Balls | None:
        """The set in which a finding of the lesson was decided."""
        for balls in self.sets:
            if balls.reading.of(finding.key).decided is finding.decided and finding.decided is not None:
                return balls
        return None


def judge_lesson(
    swings: Sequence[Filmed],
    school: School,
    knowledge: Knowledge | None = None,
    *,
    balls: Sequence[Ball] = (),
) -> JudgedLesson:
    """Judge all swings of a lesson under one school; ``balls`` are those that were noted and not filmed.

    Raises ``ValueError`` without any swing.

    >>> from kneel.judge import known
    >>> from kneel.motion.example import example
    >>> from kneel.practice.judging import judge_swing
    >>> school, study = known().school("centred"), example()
    >>> filmed = Filmed(Swing(), OfSwing(study), judge_swing(study, school))
    >>> judge_lesson([filmed, filmed], school).reading.priority[0]
    'sway'
    """
    if not swings:
        raise ValueError("a lesson needs a swing")
    knowledge = knowledge or in_use()
    groups: dict[tuple[object, ...], list[int]] = {}
    for k, filmed in enumerate(swings):
        about = filmed.swing.drill if filmed.numbers.kind in FOR_ONE_NUMBER else ""
        groups.setdefault((*filmed.group, about), []).append(k)
    sets = tuple(_balls(swings, members, school, knowledge, balls) for members in groups.values())
    findings = [_over_sets(fault, sets, school) for fault in knowledge.faults.values()]
    # What is to be asked of one set holds back its own findings, not those of others.
    brief = brief_of(*(filmed.swing for filmed in swings), balls=balls)
    return JudgedLesson(
        tuple(swings),
        sets,
        Reading(
            school,
            *ranked(findings, knowledge, brief),
            _question(swings),
            brief.balls,
            carries_m=brief.carries_m,
        ),
    )


def _question(swings: Sequence[Filmed]) -> Question:
    """The first thing that is to be asked of how one of them was filmed."""
    asked = (one.numbers.study.question for one in swings)
    return next((one for one in asked if one), Question.NONE)


def _balls(
    swings: Sequence[Filmed],
    members: Sequence[int],
    school: School,
    knowledge: Knowledge,
    balls: Sequence[Ball],
) -> Balls:
    chosen = [swings[k] for k in members]
    numbers = OfSet(tuple(one.numbers for one in chosen))
    aimed = aimed_of(chosen[0].swing, knowledge, chosen[0].numbers.kind)
    brief = brief_of(*(one.swing for one in chosen), question=_question(chosen), balls=balls, aimed=aimed)
    reading = judge_numbers(numbers, school, brief, knowledge)
    shows = {
        key: tuple(k for k in members if swings[k].reading.of(key).verdict.at_work)
        for key in knowledge.faults
    }
    return Balls(*chosen[0].group, tuple(members), numbers, reading, shows)


def _over_sets(fault: Fault, sets: Sequence[Balls], school: School) -> Finding:
    """What the sets say of one fault together: of several, the one that tells most."""
    found = [_plain(balls.reading.of(fault.key)) for balls in sets]
    best = told_best(fault, found, [balls.numbers for balls in sets], school)
    shown = sorted({k for balls in sets for k in balls.shows[fault.key]})
    return replace(best, swings=tuple(shown))


def _plain(finding: Finding) -> Finding:
    """A finding without its place in its own set's chain, and without the instructor's word."""
    return Finding(
        finding.fault,
        finding.judged,
        finding.weighed,
        finding.decided,
        finding.why,
        finding.reason,
        finding.supports,
        question=finding.question,
    )
