"""The reading of a swing: every fault judged, with its reasons as data."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge.knowledge import Check, Evidence, Fault, School, Window, faults
from kneel.judge.verdict import WATCH_AT, Judged, Verdict, judge_value
from kneel.judge.words import checkpoint_words, length_words, number, window_words
from kneel.model import Kind
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.study import Study

NO_TOP = (Kind.HALF, Kind.HELD)
"""Kinds on whose top the windows of a full swing are not laid."""


@dataclass(frozen=True)
class Finding:
    """One fault judged under one school. Numbers are in ``unit``; None where nothing is known."""

    fault: Fault
    verdict: Verdict
    text: str
    probability: float | None = None
    severity: float = 0.0
    checkpoint: str | None = None
    measure: str | None = None
    unit: str | None = None
    value: float | None = None
    sigma: float | None = None
    window: tuple[float | None, float | None] | None = None
    evidence: tuple[str, ...] = ()
    root: bool = False
    explains: tuple[str, ...] = ()


@dataclass(frozen=True)
class Reading:
    """All findings under one school, gravest first, and what to work on first."""

    school: School
    findings: tuple[Finding, ...]
    priority: tuple[str, ...]

    def found(self, verdict: Verdict) -> list[Finding]:
        return [f for f in self.findings if f.verdict is verdict]


def judge(analysis: Study, school: School) -> Reading:
    """Judge every fault there is; what this view or these points cannot show is ``unknown``."""
    findings = [_judge_fault(analysis, school, fault) for fault in faults().values()]
    return _ranked(school, findings)


def _judge_fault(analysis: Study, school: School, fault: Fault) -> Finding:
    best: tuple[Judged, Check, str, Window] | None = None
    reason = ""
    for check in fault.check:
        way = analysis.way(check.measure)
        if isinstance(way, Failed):
            reason = reason or way.reason
            continue
        for at in check.at:
            window = school.find(check.measure, at)
            if window is None or at not in analysis.checkpoints:
                continue
            if at == "top" and analysis.kind in NO_TOP:
                reason = (
                    reason or f"A {analysis.kind.value} swing's top is no top: no window of a full one fits."
                )
                continue
            told = analysis.at(check.measure, at)
            if isinstance(told, Failed):
                reason = reason or told.reason
                continue
            judged = _judge_at(told, window, check, analysis)
            if best is None or _weight(judged) > _weight(best[0]):
                best = (judged, check, at, window)
    if best is None:
        reason = reason or _no_checkpoint(analysis, school, fault)
        return Finding(fault, Verdict.UNKNOWN, reason)
    return _finding(analysis, school, fault, *best)


def _judge_at(told: Single, window: Window, check: Check, analysis: Study) -> Judged:
    """Judge in centimetres, whatever the user reads."""
    per, relative = _cm(told, analysis)
    value = told.value * per
    sigma_cm = ((told.sigma * per) ** 2 + (value * relative) ** 2) ** 0.5
    unit = REGISTRY[check.measure].unit
    return judge_value(value, sigma_cm, window, side=check.side, margin=check.margin, unit=unit)


def _weight(judged: Judged) -> tuple[bool, float, float]:
    """Order of checks of one fault: a settled verdict first, then the likelier and graver."""
    return (judged.verdict is not Verdict.UNKNOWN, round(judged.probability, 3), judged.past)


def _finding(
    analysis: Study,
    school: School,
    fault: Fault,
    judged: Judged,
    check: Check,
    at: str,
    window: Window,
) -> Finding:
    told = analysis.at(check.measure, at)
    assert isinstance(told, Single)
    value, sigma, unit = told.value, told.sigma, told.unit
    per, _ = _cm(told, analysis)
    limits = _divided(window.lo, per), _divided(window.hi, per)
    words = {
        "value": length_words(value, sigma, unit),
        "size": length_words(abs(value), sigma, unit, signed=False),
        "past": length_words(max(judged.past, 0.0) / per, None, unit),
        "limit": window_words(*limits, unit),
        "school": school.title.lower(),
        "checkpoint": checkpoint_words(at),
    }
    if judged.verdict is Verdict.UNKNOWN:
        text = (
            f"{fault.title} cannot be told: {words['value']} at {words['checkpoint']} is too unsure "
            f"against {words['limit']}."
        )
    else:
        text = getattr(check, judged.verdict.value).format(**words)
    return Finding(
        fault,
        judged.verdict,
        text,
        probability=judged.probability,
        severity=judged.severity,
        checkpoint=at,
        measure=check.measure,
        unit=unit,
        value=value,
        sigma=sigma,
        window=limits,
        evidence=_evidence(analysis, fault, at) if judged.probability >= WATCH_AT else (),
    )


def _evidence(analysis: Study, fault: Fault, at: str) -> tuple[str, ...]:
    texts = []
    for item in fault.evidence:
        told = analysis.at(item.measure, at)
        if isinstance(told, Failed) or at not in item.at:
            continue
        texts.append(
            item.text.format(
                value=length_words(told.value, told.sigma, told.unit),
                checkpoint=checkpoint_words(at),
                share=_share(analysis, item, at),
            )
        )
    return tuple(texts)


def _share(analysis: Study, item: Evidence, at: str) -> str:
    """The same as a share of something telling, where that can be told."""
    told = analysis.at(item.share, at) if item.share else None
    return f", {number(told.value, told.unit)} {item.of}" if isinstance(told, Single) else ""


def _ranked(school: School, findings: Sequence[Finding]) -> Reading:
    """Credit each found fault with the found ones it explains; the earliest with most credit leads."""
    at_work = {f.fault.key for f in findings if f.verdict in (Verdict.FAULT, Verdict.WATCH)}
    explained = {k for f in findings if f.fault.key in at_work for k in f.fault.explains if k in at_work}
    ranked = []
    for finding in findings:
        key = finding.fault.key
        caused = tuple(k for k in finding.fault.explains if key in at_work and k in at_work)
        root = key in at_work and key not in explained
        ranked.append(Finding(**{**finding.__dict__, "root": root, "explains": caused}))
    order = [Verdict.FAULT, Verdict.WATCH, Verdict.CLEAR, Verdict.UNKNOWN]
    ranked.sort(key=lambda f: (order.index(f.verdict), not f.root, -len(f.explains), -f.severity))
    priority = tuple(f.fault.key for f in ranked if f.root and f.verdict is Verdict.FAULT)
    return Reading(school, tuple(ranked), priority)


def _cm(told: Single, analysis: Study) -> tuple[float, float]:
    """Centimetres per unit of a length and the relative error of that; 1 and 0 for all else."""
    scale = analysis.scale
    if told.unit in ("stance", "in") and isinstance(scale, Scale):
        return scale.cm_per_unit, scale.cm_relative
    return 1.0, 0.0


def _divided(limit: float | None, per: float) -> float | None:
    return None if limit is None else limit / per


def _no_checkpoint(analysis: Study, school: School, fault: Fault) -> str:
    wanted = [at for check in fault.check for at in check.at]
    if not any(school.find(c.measure, at) for c in fault.check for at in c.at):
        return f"The {school.title.lower()} school says nothing about {fault.title.lower()}."
    names = " and ".join(checkpoint_words(at) for at in wanted if at not in analysis.checkpoints)
    return f"{fault.title} cannot be judged: {names} is not found in this swing."
