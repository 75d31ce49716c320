"""From a study and its readings to the typed result."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from kneel.compare.lesson import Balls, JudgedLesson
from kneel.compare.sets import Spread
from kneel.contract import v1
from kneel.judge import Finding, Reading
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.study import Study
from kneel.speech.balls import balls_count, balls_said
from kneel.speech.findings import differences, done_well, place, reasons, sentence
from kneel.speech.headline import headline
from kneel.speech.lesson import lesson_text, seen_in
from kneel.speech.units import spoken, spoken_unit

if TYPE_CHECKING:
    from kneel.motion.space.linked import Linked

IntArray = NDArray[np.int64]

LOPSIDED = 0.1
"""An interval is told beside sigma where its middle is off the value by more than this share of its width."""


def result(
    study: Study,
    reading: Reading,
    clip: dict[str, Any],
    frames: IntArray,
    *,
    against: Reading | None = None,
    warnings: Sequence[str] = (),
    linked: Linked | None = None,
) -> v1.Result:
    """Build the result; ``frames`` (T,) are the numbers that the file gives its frames, ``linked`` what a
    second camera of the swing adds.
    """
    measures: dict[str, v1.Measure] = {}
    missing: dict[str, str] = {}
    for key in REGISTRY:
        told = _measure(study, key)
        if isinstance(told, v1.Measure):
            measures[key] = told
        else:
            missing[key] = told
    measures |= _in_space(linked)
    stand = study.stand
    return v1.Result(
        v1.VERSION,
        clip,
        study.kind.value,
        reading.school.key,
        _scale(study),
        v1.Camera(
            round(stand.yaw_deg, 2),
            round(stand.yaw_sigma, 2),
            round(stand.roll_deg, 2),
            round(stand.roll_sigma, 2),
            stand.told,
        ),
        {
            name: v1.Checkpoint(
                int(frames[point.shown]),
                number(point.time_s, 5),
                number(point.sigma_s, 5),
                point.source,  # type: ignore[arg-type]
            )
            for name, point in study.checkpoints.items()
        },
        measures,
        missing,
        findings_of(reading),
        reading.priority,
        headline(reading, study),
        done_well(reading),
        {
            name: v1.Quality(one.grade.value, number(one.usual_px, 2), number(one.worst_px, 2), one.spoilt)
            for name, one in study.quality.items()
        },
        (*warnings, *study.warnings, *study.spoilt()),
        None
        if against is None
        else v1.Judgement(
            against.school.key, findings_of(against), against.priority, differences(reading, against)
        ),
        balls_of(reading),
        None
        if linked is None
        else v1.Space(
            number(linked.clock.offset_s, 5), number(linked.clock.sigma_s, 5), number(linked.clock.left_cm, 2)
        ),
    )


def _in_space(linked: Linked | None) -> dict[str, v1.Measure]:
    """What two cameras tell together, by keys of its own."""
    found: dict[str, dict[str, v1.Value]] = {}
    units: dict[str, Any] = {}
    for (key, moment), one in linked.numbers.items() if linked is not None else ():
        units[key] = spoken_unit(one.unit)
        value = v1.Value(told_number(one.value, one.unit), told_number(one.sigma, one.unit))
        found.setdefault(key, {})[moment] = value
    return {key: v1.Measure(units[key], at) for key, at in found.items()}


def balls_of(reading: Reading) -> v1.Balls | None:
    """What the noted balls did; None where none was."""
    if not reading.balls:
        return None
    return v1.Balls(
        len(reading.balls),
        reading.good_balls,
        balls_count(reading),
        tuple(finding.key for finding in reading.compensated),
        balls_said(reading),
    )


def _measure(study: Study, key: str) -> v1.Measure | str:
    """The measure wherever it can be told, or why it cannot be."""
    entry = REGISTRY[key]
    unit: Any = spoken_unit(study.unit(key))
    if entry.domain is Domain.ONCE:
        single = study.once(key)
        if isinstance(single, Single):
            return v1.Measure(unit, once=_value(single), estimate=entry.estimate)
        return single.reason
    every = [n for n in study.checkpoints if not entry.at or n in entry.at]
    names = ["address"] if entry.domain is Domain.SETUP else every
    told = {name: study.at(key, name) for name in names}
    at = {name: _value(one) for name, one in told.items() if isinstance(one, Single)}
    if at:
        return v1.Measure(unit, at, estimate=entry.estimate)
    return next((one.reason for one in told.values() if not isinstance(one, Single)), study.missing(key))


def _value(single: Single) -> v1.Value:
    middle, width = (single.low + single.high) / 2, single.high - single.low
    if abs(middle - single.value) > LOPSIDED * width:
        ends = (single.value, single.sigma, single.low, single.high)
        return v1.Value(*(told_number(one, single.unit) for one in ends))
    return v1.Value(told_number(single.value, single.unit), told_number(single.sigma, single.unit))


def _scale(study: Study) -> v1.Scale:
    scale = study.scale
    if not isinstance(scale, Scale):
        return v1.Scale("stance", None, None, "none")
    per_px = scale.per_px * scale.cm_per_unit if scale.unit != "stance" else None
    return v1.Scale(
        spoken_unit(scale.unit),  # type: ignore[arg-type]
        number(per_px, 6),
        number(scale.relative * per_px if per_px else scale.relative, 6),
        scale.source,
    )


def findings_of(reading: Reading) -> tuple[v1.Finding, ...]:
    """All findings of a reading, with their words."""
    return tuple(_finding(f, reading) for f in reading.findings)


def _finding(finding: Finding, reading: Reading) -> v1.Finding:
    return v1.Finding(**_fields(finding, reading))


def _fields(finding: Finding, reading: Reading) -> dict[str, Any]:
    low, high = finding.window or (None, None)
    unit = finding.unit or ""
    return {
        "fault": finding.key,
        "verdict": finding.verdict.value,
        "probability": number(finding.probability),
        "severity": number(finding.severity, 2),
        "checkpoint": finding.checkpoint,
        "measure": finding.measure,
        "unit": finding.unit and spoken_unit(unit),
        "value": told_number(finding.value, unit),
        "sigma": told_number(finding.sigma, unit),
        "window": None if finding.window is None else (told_number(low, unit), told_number(high, unit)),
        "root": finding.root,
        "explains": finding.explains,
        "text": sentence(finding, reading.school),
        "reasons": reasons(finding),
        "because": finding.because or None,
        "place": place(finding, reading),
        "why_not": finding.why.value,
        "explains_balls": finding.balls,
        "override": finding.override.verdict if finding.override else "",
    }


def lesson_result(lesson: JudgedLesson, swings: Sequence[v1.Result]) -> v1.LessonResult:
    """Several swings of one lesson; ``swings`` are their own results, in the same order."""
    reading = lesson.reading
    findings = tuple(
        v1.Shown(**_fields(f, reading), swings=f.swings, seen=seen_in(lesson, f)) for f in reading.findings
    )
    told = v1.Lesson(
        reading.school.key,
        tuple(swings),
        tuple(_set(balls) for balls in lesson.sets),
        findings,
        reading.priority,
        lesson_text(lesson),
        done_well(reading),
        balls_of(reading),
    )
    return v1.LessonResult(v1.VERSION, told)


def _set(balls: Balls) -> v1.Set:
    reading = balls.reading
    findings = []
    for finding in reading.findings:
        shows = balls.shows[finding.key]
        over = balls.numbers.over(finding.measure, finding.checkpoint or "") if finding.measure else None
        spread = over.spread if isinstance(over, Spread) else None
        fields = _fields(finding, reading)
        count = f"{len(shows)} of {len(balls.swings)}"
        findings.append(
            v1.SetFinding(**fields, swings=shows, count=count, spread=told_number(spread, finding.unit or ""))
        )
    return v1.Set(
        balls.view.value,
        balls.club.value,
        balls.kind.value,
        balls.swings,
        tuple(findings),
        reading.priority,
    )


def told_number(value: float | None, unit: str) -> float | None:
    """A value of ``unit`` in the unit in which it is told, rounded for reading."""
    return number(value if value is None else spoken(value, unit))


def number(value: float | None, digits: int = 4) -> float | None:
    """A finite number rounded for reading; None for what is not known."""
    if value is None or not np.isfinite(value):
        return None
    return round(float(value), digits) + 0.0
