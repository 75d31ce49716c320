"""One fault against the numbers: every check at every checkpoint, which decides, and what supports it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from kneel.judge.finding import Finding, Supported, Weighed, Why
from kneel.judge.numbers import Numbers, as_used
from kneel.judge.records import Check, Fault, School
from kneel.judge.verdict import HALF, Verdict, judge_value, together
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single

STRONGER = 0.25
"""So much of a severity step a supporting number adds to a fault's rank."""


def weigh(fault: Fault, numbers: Numbers, school: School) -> Finding:
    """Judge one fault under one school."""
    if numbers.kind not in fault.kinds:
        return Finding(fault, Verdict.UNKNOWN, why=Why.KIND, reason=numbers.kind.value)
    weighed = tuple(_weighed(fault, numbers, school))
    if all(w.why is Why.SCHOOL for w in weighed):
        return Finding(fault, Verdict.UNKNOWN, weighed, why=Why.SCHOOL)
    if fault.need == "any":
        # One view of two is enough, and a check that the school leaves open asks nothing.
        asked = tuple(w for w in weighed if w.why not in (Why.VIEW, Why.SCHOOL))
    else:
        asked = weighed
    if not asked:
        return Finding(fault, Verdict.UNKNOWN, weighed, why=Why.VIEW)
    verdict = together((w.verdict for w in asked), fault.need)
    decided = _deciding(asked, verdict, fault.need)
    if decided is not None:
        why = Why.DOUBT if verdict is Verdict.UNKNOWN else Why.NONE
        finding = Finding(fault, verdict, weighed, decided, why)
        return replace(finding, supports=tuple(_supports(fault, numbers, finding)))
    blind = next(w for w in asked if w.verdict is verdict)
    return Finding(fault, verdict, weighed, why=blind.why, reason=blind.reason)


def _weighed(fault: Fault, numbers: Numbers, school: School) -> Iterator[Weighed]:
    for check in fault.check:
        for at in check.at:
            yield _weighed_at(check, at, numbers, school)


def _weighed_at(check: Check, at: str, numbers: Numbers, school: School) -> Weighed:
    view = numbers.seen_from(check.measure)
    if view is None or (check.views and view not in check.views):
        return Weighed(check, at, why=Why.VIEW, reason=_only_from(check))
    window = check.own or school.find(check.measure, at, numbers.club)
    told = numbers.tell(check.measure, at)
    unit = told.unit if isinstance(told, Single) else REGISTRY[check.measure].unit.value
    limits = as_used(window, numbers, unit) if window else None
    if limits is None or not limits.asks(check.side):
        return Weighed(check, at, why=Why.SCHOOL)
    if isinstance(told, Failed):
        return Weighed(check, at, limits, why=Why.MISSING, reason=told.reason)
    # Of a scale that is itself a guess, the error of the window counts too.
    sigma = (told.sigma**2 + (told.value * numbers.cm(unit)[1]) ** 2) ** 0.5
    return Weighed(check, at, limits, told, judge_value(told.value, sigma, limits, check.side))


def _only_from(check: Check) -> str:
    views = check.views or tuple(REGISTRY[check.measure].views)
    return " or ".join(view.value for view in views)


def _deciding(asked: tuple[Weighed, ...], verdict: Verdict, need: str) -> Weighed | None:
    """The check that stands for the verdict: of those that say so, the one that is farthest past.

    Where all are needed it is the one that is least past: on that it hangs.
    """
    same = [
        (w.judged.past / w.limits.margin, w) for w in asked if w.verdict is verdict and w.judged and w.limits
    ]
    chosen = max if need == "any" else min
    return chosen(same, key=lambda pair: pair[0])[1] if same else None


def _supports(fault: Fault, numbers: Numbers, finding: Finding) -> Iterator[Supported]:
    """What supporting numbers say where the fault was decided, or at the last checkpoint they know."""
    for support in fault.support:
        at = finding.checkpoint if finding.checkpoint in support.at else support.at[-1]
        if numbers.seen_from(support.measure) is None or at is None:
            continue
        told = numbers.tell(support.measure, at)
        if isinstance(told, Failed):
            continue
        share = numbers.tell(support.share, at) if support.share else None
        per = numbers.size / numbers.cm(told.unit)[0] if REGISTRY[support.measure].unit == "length" else 1.0
        low = support.lo is None or told.value - told.sigma > support.lo * per
        high = support.hi is None or told.value + told.sigma < support.hi * per
        yield Supported(support, at, told, share if isinstance(share, Single) else None, low and high)


def rank(finding: Finding) -> float:
    """How grave a finding is among others: its severity, and what speaks for it."""
    return finding.severity + STRONGER * sum(one.speaks for one in finding.supports)


def worth_a_word(finding: Finding) -> bool:
    """Whether what is well is worth saying: half a margin inside without much doubt, and no mere consequence.

    A fault that asks several things at once is clear as soon as one is missing: that earns no praise.
    """
    one, fault = finding.decided, finding.fault
    earned = fault.need == "any" and not fault.consequence and finding.verdict is Verdict.CLEAR
    return bool(earned and one and one.past < -HALF and not one.wide)
