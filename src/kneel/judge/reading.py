"""The reading of a swing: every fault judged under one school, in its place in the chain."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from kneel.judge.finding import Finding
from kneel.judge.flight import misses_in
from kneel.judge.knowledge import Knowledge, in_use
from kneel.judge.numbers import Numbers, OfSwing
from kneel.judge.records import School
from kneel.judge.roots import Brief, ranked
from kneel.judge.verdict import Verdict
from kneel.judge.weighing import weigh, worth_a_word
from kneel.model import Club, Swing
from kneel.motion.study import Study

PRAISED = 3
"""So many things that are done well are said."""


@dataclass(frozen=True)
class Reading:
    """All findings under one school, what to work on first; ``priority`` is at most two, roots all."""

    school: School
    findings: tuple[Finding, ...]
    priority: tuple[str, ...]

    def found(self, verdict: Verdict) -> list[Finding]:
        return [f for f in self.findings if f.verdict is verdict]

    def of(self, key: str) -> Finding:
        """The finding of a fault. Raises ``KeyError``."""
        for finding in self.findings:
            if finding.key == key:
                return finding
        raise KeyError(key)

    @property
    def told(self) -> bool:
        """Whether any of its findings rests on a value."""
        return any(finding.value is not None for finding in self.findings)

    def renewed(self, study: Study, key: str | None, club: Club) -> Reading:
        """The same with one fault weighed anew, where it stands: what a hand that drags a mark looks at."""
        if key is None:
            return self
        old = self.of(key)
        new = weigh(old.fault, OfSwing(study, club), self.school)
        if old.override is None:
            kept = replace(
                new,
                root=old.root,
                because=old.because,
                explains=old.explains,
                credit=old.credit,
                fits=old.fits,
                strange=old.strange,
            )
            return replace(self, findings=tuple(kept if f is old else f for f in self.findings))
        return self

    @property
    def well(self) -> tuple[Finding, ...]:
        """What is done well: first what would lead to most if it were not, then what is farthest inside."""
        inside = [f for f in self.findings if worth_a_word(f)]
        inside.sort(key=lambda f: (-len(f.fault.explains), f.decided.past if f.decided else 0.0))
        return tuple(inside[:PRAISED])

    @property
    def chain(self) -> tuple[tuple[Finding, int], ...]:
        """What is at work, each under its cause, with its depth: roots are 0."""
        return tuple(self._under("", 0))

    def _under(self, key: str, depth: int) -> Iterator[tuple[Finding, int]]:
        for finding in self.findings:
            if finding.verdict.at_work and finding.because == key:
                yield finding, depth
                yield from self._under(finding.key, depth + 1)


def judge(
    study: Study, school: School, swing: Swing | None = None, knowledge: Knowledge | None = None
) -> Reading:
    """Judge every fault there is; what this view or these points cannot show is ``unknown``.

    ``swing`` is the document with club, misses and the instructor's word.
    """
    swing = swing or Swing()
    return judge_numbers(OfSwing(study, swing.club), school, brief_of(swing), knowledge)


def judge_numbers(
    numbers: Numbers, school: School, brief: Brief | None = None, knowledge: Knowledge | None = None
) -> Reading:
    """Judge numbers of one swing, or of several taken as one."""
    knowledge = knowledge or in_use()
    findings = [weigh(fault, numbers, school) for fault in knowledge.faults.values()]
    return Reading(school, *ranked(findings, knowledge, brief or Brief()))


def brief_of(*swings: Swing) -> Brief:
    """What the documents say besides the numbers."""
    overrides = {one.fault: one for swing in swings for one in swing.overrides}
    words = " ".join(f"{swing.flight} {swing.complaint}" for swing in swings)
    return Brief(overrides, misses_in(words))
