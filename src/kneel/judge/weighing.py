"""One fault against the numbers: every check at every checkpoint, which decides, and what supports it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from kneel.judge.finding import NOT_ASKED, Finding, Supported, Weighed, Why
from kneel.judge.kinds import Aimed, asked_of, beyond, of_kind
from kneel.judge.numbers import Numbers, as_used
from kneel.judge.records import Check, Fault, School
from kneel.judge.verdict import HALF, Verdict, judge_value, together
from kneel.model import Kind
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single

STRONGER = 0.25
"""So much of a severity step a supporting number adds to a fault's rank."""


def weigh(fault: Fault, numbers: Numbers, school: School, aimed: Aimed | None = None) -> Finding:
    """Judge one fault under one school; ``aimed`` is what a drill or an exaggeration is about.

    >>> from kneel.judge.knowledge import known
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.motion.example import example
    >>> weigh(known().faults["sway"], OfSwing(example()), known().school("centred")).verdict.value
    'fault'
    """
    if fault.kinds and numbers.kind not in fault.kinds:
        return Finding(fault, Verdict.UNKNOWN, why=Why.KIND, reason=numbers.kind.value)
    weighed = tuple(
        _weighed_at(fault, check, at, numbers, school, aimed) for check in fault.check for at in check.at
    )
    for unasked in (Why.SCHOOL, Why.KIND):
        if all(w.why is unasked for w in weighed):
            return Finding(fault, Verdict.UNKNOWN, weighed, why=unasked, reason=weighed[0].reason)
    parts = _parts(fault, weighed)
    if not parts:
        first = next(w for why in NOT_ASKED for w in weighed if w.why is why)
        return Finding(fault, Verdict.UNKNOWN, weighed, why=first.why, reason=first.reason)
    verdict = together((_over(part) for part in parts), "any")
    same = [part for part in parts if _over(part) is verdict]
    told = [one for part in same if (one := _least(part, verdict)) is not None]
    decided = max(told, key=lambda w: w.past, default=None)
    if decided is not None:
        why = Why.DOUBT if verdict is Verdict.UNKNOWN else Why.NONE
        finding = Finding(fault, verdict, weighed, decided, why)
        return replace(finding, supports=tuple(_supports(fault, numbers, finding)))
    blind = next(w for part in same for w in part if w.verdict is verdict)
    return Finding(fault, verdict, weighed, why=blind.why, reason=blind.reason)


def _parts(fault: Fault, weighed: tuple[Weighed, ...]) -> list[tuple[Weighed, ...]]:
    """What is enough by itself: each check, all of them, or all at one checkpoint; as far as it is asked.

    One view of two is enough, and a check that the school or the kind of swing leaves open asks nothing.
    """
    if fault.need == "all":
        return [] if any(w.why is Why.KIND for w in weighed) else [weighed]
    if fault.need == "moment":
        every = [tuple(w for w in weighed if w.at == at) for at in dict.fromkeys(w.at for w in weighed)]
    else:
        every = [(w,) for w in weighed]
    return [part for part in every if not any(w.why in NOT_ASKED for w in part)]


def over_checks(fault: Fault, sizes: Sequence[float], at: Sequence[str]) -> float:
    """How far a fault is past its limit by how far its checks are, each ``at`` its checkpoint.

    One is enough, or the least of all counts, or that of all at one checkpoint, as the fault needs.

    >>> from kneel.judge.knowledge import shipped
    >>> over_checks(shipped().faults["sway"], [0.5, 1.5], ["half_back", "top"])
    1.5
    """
    if fault.need == "moment":
        return max(min(s for s, a in zip(sizes, at, strict=True) if a == here) for here in set(at))
    return max(sizes) if fault.need == "any" else min(sizes)


def _over(part: tuple[Weighed, ...]) -> Verdict:
    return together((w.verdict for w in part), "all")


def _least(part: tuple[Weighed, ...], verdict: Verdict) -> Weighed | None:
    """The check that a verdict hangs on: of those that say so the one that is least past."""
    same = [w for w in part if w.verdict is verdict and w.judged is not None]
    return min(same, key=lambda w: w.past, default=None)


def _weighed_at(
    fault: Fault, check: Check, at: str, numbers: Numbers, school: School, aimed: Aimed | None
) -> Weighed:
    if not asked_of(numbers.kind, check, at, aimed):
        return Weighed(check, at, why=Why.KIND, reason=numbers.kind.value)
    view = numbers.seen_from(check.measure)
    if view is None or (check.views and view not in check.views):
        return Weighed(check, at, why=Why.VIEW, reason=_only_from(check))
    own = aimed.window(check.measure, at) if aimed else None
    club, kind = numbers.club, numbers.kind
    alone = own or school.of_fault(check.measure, at, club, fault.key, kind, check.own)
    found = alone or school.find(check.measure, at, club, kind=kind)
    usual = alone is not None and alone == check.own
    beyond_it = numbers.kind is Kind.EXAGGERATION
    window = found and of_kind(beyond(found, check.side) if beyond_it else found, numbers.kind, at)
    told = numbers.tell(check.measure, at)
    unit = told.unit if isinstance(told, Single) else REGISTRY[check.measure].unit.value
    limits = as_used(window, numbers, unit) if window else None
    if limits is None or not limits.asks(check.side):
        return Weighed(check, at, why=Why.SCHOOL)
    if isinstance(told, Failed):
        return Weighed(check, at, limits, why=_unknown(told, numbers.kind, at), reason=told.reason)
    # Of a scale that is itself a guess, the error of the window counts too.
    sigma = (told.sigma**2 + (told.value * numbers.cm(unit)[1]) ** 2) ** 0.5
    judged = judge_value(told.value, sigma, limits, check.side)
    if beyond_it and judged.verdict is Verdict.FAULT:
        # Not to go far enough is no fault.
        judged = replace(judged, verdict=Verdict.WATCH)
    return Weighed(check, at, limits, told, judged, beyond=beyond_it, usual=usual)


def _unknown(told: Failed, kind: Kind, at: str) -> Why:
    unheld = kind is Kind.HELD and told.code in UNHELD
    if unheld or (at in AFTER and told.code == "no checkpoint"):
        return Why.KIND
    return Why.PLATE if told.code == "plate" else Why.MISSING


AFTER = ("follow", "through")
"""Checkpoints that a sound swing may not show, as down the line: then nothing is asked there."""

UNHELD = ("no checkpoint", "held", "phase", "swing")
"""Why a held pose cannot tell a number: it is another moment's, counts from address, or needs a swing."""


def _only_from(check: Check) -> str:
    views = check.views or tuple(REGISTRY[check.measure].views)
    return " or ".join(view.value for view in views)


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
    """How grave a finding is among others: its severity, and what speaks for it.

    >>> from kneel.judge.knowledge import known
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.motion.example import example
    >>> school, numbers = known().school("centred"), OfSwing(example())
    >>> sway, dip = (weigh(known().faults[key], numbers, school) for key in ("sway", "head_dip"))
    >>> rank(sway) > rank(dip)
    True
    """
    return finding.severity + STRONGER * sum(one.speaks for one in finding.supports)


def worth_a_word(finding: Finding) -> bool:
    """Whether what is well is worth saying: half a margin inside without much doubt, and no mere consequence.

    A fault that asks several things at once is clear as soon as one is missing: that earns no praise.

    >>> from kneel.judge.knowledge import known
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.motion.example import example
    >>> worth_a_word(weigh(known().faults["sway"], OfSwing(example()), known().school("centred")))
    False
    """
    one, fault = finding.decided, finding.fault
    earned = fault.need == "any" and not fault.consequence and finding.verdict is Verdict.CLEAR
    return bool(earned and one and one.past < -HALF and not one.wide)
