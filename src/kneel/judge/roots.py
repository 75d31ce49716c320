"""What leads to what: each fault at work under its cause, and the earliest that explains most.

A fault takes the credit of all that it leads to, near or far, through links that are at work themselves
or that cannot be told here; a link that is ruled out breaks the chain.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from kneel.judge.finding import Finding
from kneel.judge.flight import weight_of
from kneel.judge.kinds import Aimed
from kneel.judge.knowledge import Knowledge
from kneel.judge.records import PHASES
from kneel.judge.verdict import Verdict
from kneel.judge.weighing import rank
from kneel.model import Override
from kneel.motion.viewed import Question

REJECTED, ADDED, LEFT = "rejected", "added", "left"
"""What an instructor may say of a fault: it is none; it is one; it is known and left."""

MOST = 2
"""At most so many things are worked on at once."""

MISS_FITS = 0.75
"""Credit that a reported miss gives to a fault that brings it, and takes from one that does not."""


@dataclass(frozen=True)
class Brief:
    """What is known besides the numbers: the instructor's word, the misses that are reported, and what is
    still to be asked of how it was filmed; of each ball that was noted its misses, none for a good one; and
    what a drill or an exaggeration is about.
    """

    overrides: Mapping[str, Override] = field(default_factory=dict)
    misses: frozenset[str] = frozenset()
    question: Question = Question.NONE
    balls: tuple[frozenset[str], ...] = ()
    carries_m: tuple[float, ...] = ()
    aimed: Aimed | None = None


def ranked(
    findings: Sequence[Finding], knowledge: Knowledge, brief: Brief
) -> tuple[tuple[Finding, ...], tuple[str, ...]]:
    """Findings with their place in the chain, what matters first; and what to work on, at most two.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> ranked(reading.findings, known(), Brief())[1][0]
    'sway'
    """
    spoken = {f.key: _spoken(f, brief) for f in findings}
    chain = _Chain(spoken, knowledge)
    placed = {key: _placed(f, chain, brief) for key, f in spoken.items()}
    work = _work(placed)
    order = {key: k for k, key in enumerate(knowledge.order)}
    verdicts = (Verdict.FAULT, Verdict.WATCH, Verdict.CLEAR, Verdict.UNKNOWN)

    def place(f: Finding) -> tuple[object, ...]:
        first = work.index(f.key) if f.key in work else len(work)
        return first, verdicts.index(f.verdict), not f.root, -f.credit, -rank(f), order[f.key]

    return tuple(sorted(placed.values(), key=place)), work


def _spoken(finding: Finding, brief: Brief) -> Finding:
    """A finding with what the instructor says of it, and no surer than how it was filmed is known."""
    finding = unanswered(finding, brief.question)
    override = brief.overrides.get(finding.key)
    if override is None:
        return finding
    return replace(finding, override=override, verdict=said(finding, override), numbers_say=finding.verdict)


def unanswered(finding: Finding, question: Question) -> Finding:
    """A finding while something must be asked of how it was filmed: nothing is surely a fault.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> unanswered(reading.of("sway"), Question.VIEW).verdict.value
    'watch'
    """
    if not question or finding.verdict is not Verdict.FAULT:
        return finding
    return replace(finding, verdict=Verdict.WATCH, question=question)


def said(finding: Finding, override: Override) -> Verdict:
    """The verdict that stands once the instructor has spoken.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> sway = judge(example(), known().school("centred")).of("sway")
    >>> said(sway, Override("sway", REJECTED)).value
    'clear'
    """
    if override.verdict == REJECTED:
        return Verdict.CLEAR
    return Verdict.FAULT if override.verdict == ADDED else finding.verdict


class _Chain:
    """Which faults at work lead to which."""

    def __init__(self, findings: Mapping[str, Finding], knowledge: Knowledge) -> None:
        self.findings = findings
        # Effects come before causes, so that each is known when it is asked for.
        self.leads: dict[str, dict[str, int]] = {}
        for key in reversed(knowledge.order):
            self.leads[key] = self._leads(key, knowledge)

    def _leads(self, key: str, knowledge: Knowledge) -> dict[str, int]:
        """All faults at work that one leads to, with the number of links, by the longest way there is."""
        found: dict[str, int] = {}
        for near in knowledge.faults[key].explains:
            finding = self.findings.get(near)
            if finding is None or finding.verdict is Verdict.CLEAR:
                continue
            steps = {near: 1} if finding.verdict.at_work else {}
            steps |= {far: count + 1 for far, count in self.leads[near].items()}
            for far, count in steps.items():
                found[far] = max(count, found.get(far, count))
        return found

    def causes(self, key: str) -> list[str]:
        """Faults at work that lead to one. What arms and club do passes a chain on and is no cause."""
        return [
            k
            for k, f in self.findings.items()
            if f.verdict.at_work and not f.fault.consequence and key in self.leads[k]
        ]


def _placed(finding: Finding, chain: _Chain, brief: Brief) -> Finding:
    if not finding.verdict.at_work:
        return finding
    key = finding.key
    causes = chain.causes(key)
    # A fault hangs under a fault; under what may only be one, where nothing surer leads to it.
    sure = [k for k in causes if chain.findings[k].verdict is Verdict.FAULT]
    near = min(sure or causes, key=lambda k: (chain.leads[k][key], -rank(chain.findings[k])), default="")
    explains = tuple(sorted(chain.leads[key], key=lambda k: (chain.leads[key][k], -rank(chain.findings[k]))))
    credit = sum(1.0 if chain.findings[k].verdict is Verdict.FAULT else 0.5 for k in explains)
    brings = {*finding.fault.misses, *(m for k in explains for m in chain.findings[k].fault.misses)}
    fits, strange = tuple(sorted(brings & brief.misses)), tuple(sorted(brief.misses - brings))
    explained, unlike = _balls(brings, brief.balls)
    told = (1.0 if fits else -1.0) if brief.misses else 0.0
    told += weight_of(explained, len(brief.balls)) - weight_of(unlike, len(brief.balls))
    # Words and balls may tell the same thing twice.
    credit += MISS_FITS * min(max(told, -1.0), 1.0)
    uncaused = not (sure if finding.verdict is Verdict.FAULT else causes)
    return replace(
        finding,
        because=near,
        explains=explains,
        credit=credit,
        fits=fits,
        strange=strange,
        balls=explained,
        root=uncaused and not finding.fault.consequence,
    )


def _balls(brings: set[str], balls: Sequence[frozenset[str]]) -> tuple[int, int]:
    """How many of the balls a fault would explain, and how many missed otherwise."""
    explained = sum(bool(ball & brings) for ball in balls)
    return explained, sum(bool(ball) for ball in balls) - explained


def _work(placed: Mapping[str, Finding]) -> tuple[str, ...]:
    """What to work on: roots among the faults, the one that explains most first, the earlier of equals."""
    at_work = {key for key, f in placed.items() if f.verdict.at_work}
    roots = [
        f
        for f in placed.values()
        if f.root
        and f.verdict is Verdict.FAULT
        and not (f.override and f.override.verdict == LEFT)
        and not at_work.intersection(f.fault.not_while)
    ]
    roots.sort(key=lambda f: (-f.credit, PHASES.index(f.fault.phase), -rank(f)))
    return tuple(f.key for f in roots[:MOST])
