"""Tracks held against the truth: errors, stated errors, and by what the stated ones are too small."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

JOINTS = ("hip", "knee", "ankle", "shoulder", "head", "grip", "clubhead")
INSIDE_95 = 2.4477
"""The radius that holds 95 % of a circular normal error, in sigmas (table of chi square, 2 degrees)."""


@dataclass(frozen=True)
class Judged:
    """One point of one clip: what it is off by (N, 2) cm, and its stated error (N,) cm."""

    point: str
    off_cm: FloatArray
    sigma_cm: FloatArray

    @property
    def joint(self) -> str:
        return self.point.rsplit("_", 1)[-1]


def judged(
    analysis: Study, truth: Mapping[str, FloatArray], cm_per_px: FloatArray | float, part: slice
) -> list[Judged]:
    """Every point of an analysis that the truth knows, px (T, 2), over some frames."""
    return _held(
        {name: (track.xy, track.sigma) for name, track in analysis.tracks.items()}, truth, cm_per_px, part
    )


def sighted(
    analysis: Study, truth: Mapping[str, FloatArray], cm_per_px: FloatArray | float, part: slice
) -> list[Judged]:
    """The same of what the body model alone saw, before anything is solved; its scatter for an error."""
    seen = {name: [s for s in data.sightings if not s.by_hand][:1] for name, data in analysis.points.items()}
    return _held({name: (s[0].xy, s[0].sigma) for name, s in seen.items() if s}, truth, cm_per_px, part)


def _held(
    found: Mapping[str, tuple[FloatArray, FloatArray]],
    truth: Mapping[str, FloatArray],
    cm_per_px: FloatArray | float,
    part: slice,
) -> list[Judged]:
    out = []
    for name, (xy, sigma) in found.items():
        if name in truth and name.rsplit("_", 1)[-1] in JOINTS:
            per_px = np.broadcast_to(cm_per_px, len(xy))
            frames = np.arange(len(xy))[part]
            frames = frames[frames < len(truth[name])]
            frames = frames[np.isfinite(xy[frames, 0])]
            off = (xy[frames] - truth[name][frames]) * per_px[frames, None]
            out.append(Judged(name, off, sigma[frames] * per_px[frames]))
    return out


def factor(many: Sequence[Judged]) -> float:
    """What stated errors would have to be multiplied by to be right: 1 is honest, above it is too small."""
    return float(
        np.sqrt(np.mean(np.concatenate([(one.off_cm / one.sigma_cm[:, None]) ** 2 for one in many])))
    )


def rms_cm(many: Sequence[Judged]) -> float:
    """Radial error."""
    return float(np.sqrt(np.mean(np.concatenate([(one.off_cm**2).sum(axis=1) for one in many]))))


def stated_cm(many: Sequence[Judged]) -> float:
    """The usual stated error of one coordinate."""
    return float(np.median(np.concatenate([one.sigma_cm for one in many])))


def inside(one: Judged) -> float:
    """Share of true places inside the stated 95 % circle."""
    return float((np.linalg.norm(one.off_cm, axis=1) < INSIDE_95 * one.sigma_cm).mean())


def spread(many: Sequence[Judged]) -> float:
    """Mean stated error of the worst tenth of all frames over that of the best tenth."""
    sigma = np.sort(np.concatenate([one.sigma_cm for one in many]))
    tenth = max(1, len(sigma) // 10)
    return float(sigma[-tenth:].mean() / sigma[:tenth].mean())


def lasting_cm(many: Sequence[Judged]) -> FloatArray:
    """What both joints of a pair are off by through one whole clip, (2,) cm right and down."""
    return np.asarray(np.mean([one.off_cm.mean(axis=0) for one in many], axis=0))


def of_joint(many: Iterable[Judged], joint: str) -> list[Judged]:
    """Those of one joint, left and right."""
    return [one for one in many if one.joint == joint]


def table(heads: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table as documents have it."""
    lines = [heads, ["---"] * len(heads), *rows]
    return "\n".join(f"| {' | '.join(line)} |" for line in lines)
