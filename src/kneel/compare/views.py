"""One swing judged by what several cameras show of it: of each fault what tells most, in one chain."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge.finding import Finding, Why
from kneel.judge.knowledge import Knowledge, in_use
from kneel.judge.numbers import Numbers, OfSwing
from kneel.judge.reading import Reading, brief_of
from kneel.judge.records import Fault, School
from kneel.judge.roots import ranked, unanswered
from kneel.judge.verdict import Verdict
from kneel.judge.weighing import weigh
from kneel.model import Ball, Club, Kind, Swing, View
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.motion.study import Study
from kneel.motion.viewed import Question
from kneel.practice.judging import aimed_of

BEST = (Verdict.FAULT, Verdict.WATCH, Verdict.CLEAR, Verdict.UNKNOWN)
"""Of one fault seen in several sets, what tells most."""


@dataclass(frozen=True)
class OfViews:
    """Numbers of several views as if they were of one swing; each is told by the first that shows it."""

    every: tuple[Numbers, ...]

    @property
    def kind(self) -> Kind:
        return self.every[0].kind

    @property
    def club(self) -> Club:
        return self.every[0].club

    @property
    def size(self) -> float:
        return self.every[0].size

    def _who(self, measure: str) -> Numbers:
        return next((one for one in self.every if one.seen_from(measure)), self.every[0])

    def seen_from(self, measure: str) -> View | None:
        return self._who(measure).seen_from(measure)

    def cm(self, unit: str) -> tuple[float, float]:
        return self.every[0].cm(unit)

    def tell(self, measure: str, at: str) -> Single | Failed:
        return self._who(measure).tell(measure, at)


def told_best(fault: Fault, found: Sequence[Finding], every: Sequence[Numbers], school: School) -> Finding:
    """What several views say of one fault together: of several, the one that tells most.

    >>> from kneel.judge import known
    >>> from kneel.motion.example import example
    >>> school, numbers = known().school("centred"), OfSwing(example())
    >>> sway = known().faults["sway"]
    >>> told_best(sway, [weigh(sway, numbers, school)], [numbers], school).verdict.value
    'fault'
    """
    some = list(found)
    if fault.need == "all" and all(one.why in (Why.VIEW, Why.MISSING) for one in found):
        # What no view shows alone may be told from two.
        some.append(weigh(fault, OfViews(tuple(every)), school))
    return min(some, key=lambda one: (BEST.index(one.verdict), not one.asked))


def judge_views(
    studies: Sequence[Study],
    school: School,
    swing: Swing,
    knowledge: Knowledge | None = None,
    *,
    balls: Sequence[Ball] = (),
) -> Reading:
    """Judge one swing by what each of its cameras shows; ``balls`` are others of its set.

    Where one number is told by both, the surer one speaks. What is to be asked of how one clip was filmed
    holds back its own findings alone.

    >>> from kneel.judge import known
    >>> from kneel.motion.example import example
    >>> judge_views([example()], known().school("centred"), Swing()).priority[0]
    'sway'
    """
    knowledge = knowledge or in_use()
    aimed = aimed_of(swing, knowledge, studies[0].kind)
    every = [OfSwing(study, swing.club) for study in studies]
    findings = []
    for fault in knowledge.faults.values():
        found = [
            unanswered(weigh(fault, one, school, aimed), study.question)
            for one, study in zip(every, studies, strict=True)
        ]
        findings.append(told_best(fault, _surest(found), every, school))
    brief = brief_of(swing, balls=balls, aimed=aimed)
    question = next((study.question for study in studies if study.question), Question.NONE)
    return Reading(
        school, *ranked(findings, knowledge, brief), question, brief.balls, brief.aimed, brief.carries_m
    )


def _surest(found: Sequence[Finding]) -> list[Finding]:
    """Of findings that rest on one number at one moment the surest alone."""
    kept: dict[object, Finding] = {}
    for k, one in enumerate(found):
        what = (one.measure, one.checkpoint) if one.decided is not None else k
        before = kept.get(what)
        if before is None or (one.sigma or 0.0) < (before.sigma or 0.0):
            kept[what] = one
    return list(kept.values())
