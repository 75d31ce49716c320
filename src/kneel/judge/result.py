"""The result of an analysis as the JSON contract of the command line has it."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.judge.reading import Finding, Reading
from kneel.motion.analysis import Analysis
from kneel.motion.quality import Quality
from kneel.motion.scale import Scale

IntArray = NDArray[np.int64]

VERSION = 1


def result(analysis: Analysis, reading: Reading, clip: dict[str, Any], frames: IntArray) -> dict[str, Any]:
    """Build the result; ``frames`` (T,) are the numbers that the file gives its frames."""
    return {
        "kneel": VERSION,
        "clip": clip,
        "school": reading.school.key,
        "scale": _scale(analysis),
        "checkpoints": {
            name: {
                "frame": int(frames[point.shown]),
                "time_s": _number(point.time_s, 5),
                "sigma_s": _number(point.sigma_s, 5),
                "source": point.source,
            }
            for name, point in analysis.checkpoints.items()
        },
        "measures": {key: _measure(analysis, key) for key in analysis.measures},
        "missing": dict(analysis.missing),
        "findings": [_finding(f) for f in reading.findings],
        "priority": list(reading.priority),
        "quality": {name: _quality(one) for name, one in analysis.quality.items()},
        "warnings": [*analysis.warnings, *analysis.spoilt()],
    }


def _quality(quality: Quality) -> dict[str, Any]:
    return {
        "grade": quality.grade.value,
        "usual_px": _number(quality.usual_px, 2),
        "worst_px": _number(quality.worst_px, 2),
        "spoilt": list(quality.spoilt),
    }


def _scale(analysis: Analysis) -> dict[str, Any]:
    scale = analysis.scale
    if not isinstance(scale, Scale):
        return {"unit": "stance", "cm_per_px": None, "sigma": None, "source": "none"}
    per_px = scale.per_px if scale.unit == "cm" else None
    return {
        "unit": scale.unit,
        "cm_per_px": _number(per_px, 6),
        "sigma": _number(scale.relative * scale.per_px if per_px else scale.relative, 6),
        "source": scale.source,
    }


def _measure(analysis: Analysis, key: str) -> dict[str, Any]:
    series = analysis.measures[key]
    at: dict[str, Any] = {}
    for name, point in analysis.checkpoints.items():
        value, sigma = series.at(point)
        at[name] = {"value": _number(value), "sigma": _number(sigma)}
        for share, values in series.shares.items():
            at[name][f"of_{share}"] = _number(float(np.interp(point.frame, np.arange(len(values)), values)))
    return {"unit": series.unit, "at": at}


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "fault": finding.fault.key,
        "verdict": finding.verdict.value,
        "probability": _number(finding.probability),
        "severity": _number(finding.severity, 2),
        "checkpoint": finding.checkpoint,
        "measure": finding.measure,
        "unit": finding.unit,
        "value": _number(finding.value),
        "sigma": _number(finding.sigma),
        "window": None if finding.window is None else [_number(x) for x in finding.window],
        "root": finding.root,
        "explains": list(finding.explains),
        "text": finding.text,
        "reasons": list(finding.evidence),
    }


def _number(value: float | None, digits: int = 4) -> float | None:
    """A finite number rounded for reading; None for what is not known."""
    if value is None or not np.isfinite(value):
        return None
    return round(float(value), digits) + 0.0
