"""The reading of a swing: every fault judged under one school, in its place in the chain."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from kneel.judge.finding import Finding, Why
from kneel.judge.flight import balls_in, misses_in, misses_of, uncounted
from kneel.judge.kinds import Aimed
from kneel.judge.knowledge import Knowledge, in_use
from kneel.judge.numbers import Numbers, OfSwing
from kneel.judge.records import School
from kneel.judge.roots import Brief, ranked, unanswered
from kneel.judge.verdict import Verdict
from kneel.judge.weighing import weigh, worth_a_word
from kneel.model import Ball, Hand, Swing
from kneel.motion.study import Study
from kneel.motion.viewed import Question

AS_LIKELY = 0.4
"""A fault with so much of its error past what is worth a word is worth asking a mark for."""

LEAST_BALLS, GOOD_SHARE = 3, 0.6
"""So many balls, and so large a share of them good, say that the strike is in order."""

THE_CLUB = ("flip", "low_point_behind")
"""What the club does at the strike, besides the consequences."""

PRAISED = 3
"""So many things that are done well are said."""


@dataclass(frozen=True)
class Reading:
    """All findings under one school, what to work on first; ``priority`` is at most two, roots all.

    ``question`` is what must be asked of how it was filmed, ``balls`` the misses of each ball that was noted,
    ``aimed`` what a drill or an exaggeration is about, ``carries_m`` how far balls flew where that was noted.
    """

    school: School
    findings: tuple[Finding, ...]
    priority: tuple[str, ...]
    question: Question = Question.NONE
    balls: tuple[frozenset[str], ...] = ()
    aimed: Aimed | None = None
    carries_m: tuple[float, ...] = ()

    @property
    def good_balls(self) -> int:
        """How many of the noted balls missed nothing."""
        return sum(not ball for ball in self.balls)

    @property
    def compensated(self) -> tuple[Finding, ...]:
        """Faults of the body beside good balls and a good club: something makes up for them."""
        count = len(self.balls)
        if count < LEAST_BALLS or self.good_balls < GOOD_SHARE * count:
            return ()
        if any(f.verdict.at_work and (f.fault.consequence or f.key in THE_CLUB) for f in self.findings):
            return ()
        return tuple(f for f in self.found(Verdict.FAULT) if f.root)

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

    def renewed(self, numbers: Numbers, key: str | None) -> Reading:
        """The same with one fault weighed anew, where it stands: what a hand that drags a mark looks at."""
        if key is None:
            return self
        old = self.of(key)
        new = unanswered(weigh(old.fault, numbers, self.school, self.aimed), self.question)
        if old.override is None:
            kept = replace(
                new,
                root=old.root,
                because=old.because,
                explains=old.explains,
                credit=old.credit,
                fits=old.fits,
                strange=old.strange,
                balls=old.balls,
            )
            return replace(self, findings=tuple(kept if f is old else f for f in self.findings))
        return self

    @property
    def untold(self) -> Finding | None:
        """What may well be at fault and cannot be told: asked here, and past its limit as likely as not."""
        chances = {f.key: f.chance for f in self.findings if f.why is Why.DOUBT and not f.fault.consequence}
        likely = [f for f in self.findings if chances.get(f.key, 0.0) >= AS_LIKELY]
        return max(likely, key=lambda f: chances[f.key], default=None)

    @property
    def first(self) -> Finding | None:
        """What is spoken of first: what to work on or to watch, what may well be and cannot be told, what is
        done best.
        """
        watched = (f for f in self.findings if f.root and f.verdict is Verdict.WATCH)
        work = (self.of(key) for key in self.priority)
        others = (self.untold, *(f for f, _ in self.chain), *self.well, *self.findings)
        return next((f for f in (*work, *watched, *others) if f is not None), None)

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
    study: Study,
    school: School,
    swing: Swing | None = None,
    knowledge: Knowledge | None = None,
    *,
    balls: Sequence[Ball] = (),
    aimed: Aimed | None = None,
) -> Reading:
    """Judge every fault there is; what this view or these points cannot show is ``unknown``.

    ``swing`` is the document with club, misses and the instructor's word, ``balls`` are others of its set,
    ``aimed`` is what a drill or an exaggeration is about.

    >>> from kneel.judge.knowledge import known
    >>> from kneel.motion.example import example
    >>> judge(example(), known().school("centred")).of("sway").verdict.value
    'fault'
    """
    swing = swing or Swing()
    brief = brief_of(swing, question=study.question, balls=balls, aimed=aimed)
    return judge_numbers(OfSwing(study, swing.club), school, brief, knowledge)


def judge_numbers(
    numbers: Numbers, school: School, brief: Brief | None = None, knowledge: Knowledge | None = None
) -> Reading:
    """Judge numbers of one swing, or of several taken as one.

    >>> from kneel.judge.knowledge import known
    >>> from kneel.motion.example import example
    >>> judge_numbers(OfSwing(example()), known().school("centred")).priority[0]
    'sway'
    """
    knowledge = knowledge or in_use()
    brief = brief or Brief()
    findings = [weigh(fault, numbers, school, brief.aimed) for fault in knowledge.faults.values()]
    return Reading(
        school, *ranked(findings, knowledge, brief), brief.question, brief.balls, brief.aimed, brief.carries_m
    )


def brief_of(
    *swings: Swing,
    question: Question = Question.NONE,
    balls: Sequence[Ball] = (),
    aimed: Aimed | None = None,
) -> Brief:
    """What the documents say besides the numbers, what is to be asked of how they were filmed, and what other
    balls of the set did.

    >>> from kneel.model import Ball
    >>> brief_of(Swing(), balls=[Ball(strike="fat")]) == brief_of(Swing())
    False
    """
    overrides = {one.fault: one for swing in swings for one in swing.overrides}
    words = " ".join(f"{swing.flight} {swing.complaint}" for swing in swings)
    hand = swings[0].hand if swings else Hand.RIGHT
    struck = [(one.ball, one.hand) for one in swings if one.ball is not None]
    struck += [(ball, hand) for ball in balls]
    noted = tuple(misses_of(ball, hand) for ball, hand in struck if ball.noted)
    # What was noted ball by ball is not counted a second time from words.
    counted = max((noted, *(balls_in(one.flight) for one in swings)), key=len)
    carries = tuple(ball.carry for ball, _ in struck if ball.carry is not None)
    return Brief(overrides, misses_in(uncounted(words)), question, counted, carries, aimed)
