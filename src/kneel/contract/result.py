"""From a study and its readings to the typed result."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.contract import v1
from kneel.judge.reading import Finding, Reading
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.study import Study

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
) -> v1.Result:
    """Build the result; ``frames`` (T,) are the numbers that the file gives its frames."""
    measures: dict[str, v1.Measure] = {}
    missing: dict[str, str] = {}
    for key in REGISTRY:
        told = _measure(study, key)
        if isinstance(told, v1.Measure):
            measures[key] = told
        else:
            missing[key] = told
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
                _number(point.time_s, 5),
                _number(point.sigma_s, 5),
                point.source,  # type: ignore[arg-type]
            )
            for name, point in study.checkpoints.items()
        },
        measures,
        missing,
        tuple(_finding(f) for f in reading.findings),
        reading.priority,
        {
            name: v1.Quality(one.grade.value, _number(one.usual_px, 2), _number(one.worst_px, 2), one.spoilt)
            for name, one in study.quality.items()
        },
        (*warnings, *study.warnings, *study.spoilt()),
        None
        if against is None
        else v1.Judgement(against.school.key, tuple(_finding(f) for f in against.findings), against.priority),
    )


def _measure(study: Study, key: str) -> v1.Measure | str:
    """The measure wherever it can be told, or why it cannot be."""
    entry = REGISTRY[key]
    unit: Any = study.unit(key)
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
        return v1.Value(
            _number(single.value), _number(single.sigma), _number(single.low), _number(single.high)
        )
    return v1.Value(_number(single.value), _number(single.sigma))


def _scale(study: Study) -> v1.Scale:
    scale = study.scale
    if not isinstance(scale, Scale):
        return v1.Scale("stance", None, None, "none")
    per_px = scale.per_px * scale.cm_per_unit if scale.unit != "stance" else None
    return v1.Scale(
        scale.unit,  # type: ignore[arg-type]
        _number(per_px, 6),
        _number(scale.relative * per_px if per_px else scale.relative, 6),
        scale.source,
    )


def _finding(finding: Finding) -> v1.Finding:
    low, high = finding.window or (None, None)
    return v1.Finding(
        fault=finding.fault.key,
        verdict=finding.verdict.value,
        probability=_number(finding.probability),
        severity=_number(finding.severity, 2),
        checkpoint=finding.checkpoint,
        measure=finding.measure,
        unit=finding.unit,
        value=_number(finding.value),
        sigma=_number(finding.sigma),
        window=None if finding.window is None else (_number(low), _number(high)),
        root=finding.root,
        explains=finding.explains,
        text=finding.text,
        reasons=finding.evidence,
    )


def _number(value: float | None, digits: int = 4) -> float | None:
    """A finite number rounded for reading; None for what is not known."""
    if value is None or not np.isfinite(value):
        return None
    return round(float(value), digits) + 0.0
