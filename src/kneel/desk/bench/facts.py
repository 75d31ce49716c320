"""What the stage has to show at one frame, gathered from the numbers. No painting here."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kneel.desk.swing import OpenSwing
from kneel.desk.words import tr
from kneel.model import anatomical, side_of
from kneel.motion.failure import Failed
from kneel.motion.measures import Measure, measure_of_plumb
from kneel.motion.quantity import Series, Single
from kneel.motion.study import Study
from kneel.speech.words import MINUS, number, with_unit

CHAINS = (
    ("lead", ("lead_hip", "lead_knee", "lead_ankle")),
    ("trail", ("trail_hip", "trail_knee", "trail_ankle")),
    (None, ("lead_hip", "trail_hip")),
)

PLUMBS = ("trail_hip", "pelvis")
"""What can carry a plumb, in the order in which the distances are written."""

HIDDEN_SIGMA_M = 0.2
"""A point less sure than this many metres is not worth drawing."""


@dataclass(frozen=True)
class PointFact:
    """A point at this frame: pixels, doubt, side, and whether it was set by hand here."""

    name: str
    x: float
    y: float
    sigma: float
    side: str | None
    by_hand: bool


@dataclass(frozen=True)
class Crossing:
    """A measure at a plumb: where the plumb stands, where the body is, and what to write there."""

    plumb_x: float
    x: float
    y: float
    sigma: float
    value: str
    error: str
    words: str
    past: bool


def points_at(opened: OpenSwing) -> list[PointFact]:
    """All points worth drawing at the cursor."""
    analysis = opened.analysis
    if analysis is None:
        return []
    hand, frame = opened.swing.hand, opened.cursor.frame
    set_here = {m.point for m in opened.swing.marks if m.frame == frame}
    limit = HIDDEN_SIGMA_M * analysis.px_per_m
    return [
        PointFact(
            name,
            float(track.xy[frame, 0]),
            float(track.xy[frame, 1]),
            float(track.sigma[frame]),
            side_of(name, hand),
            name in set_here,
        )
        for name, track in analysis.tracks.items()
        if name in set_here or (track.sigma[frame] < limit and not analysis.gone(name, frame))
    ]


def lines_at(opened: OpenSwing, frame: int) -> list[tuple[str | None, list[tuple[float, float]]]]:
    """Limbs as they were at a frame, by side, as runs of pixels of the picture at the cursor."""
    analysis = opened.analysis
    if analysis is None:
        return []
    hand, limit = opened.swing.hand, HIDDEN_SIGMA_M * analysis.px_per_m
    runs: list[tuple[str | None, list[tuple[float, float]]]] = []
    for side, names in CHAINS:
        tracks = [analysis.tracks.get(anatomical(n, hand)) for n in names]
        known = [t for t in tracks if t is not None and t.sigma[frame] < limit]
        if len(known) >= 2:
            runs.append((side, [(float(t.xy[frame, 0]), float(t.xy[frame, 1])) for t in known]))
    spine = _spine(analysis, frame)
    if spine:
        runs.append((None, spine))
    ends = [analysis.tracks.get(name) for name in ("grip", "clubhead")]
    shaft = [t for t in ends if t is not None and t.sigma[frame] < limit]
    if len(shaft) == 2:
        runs.append((None, [(float(t.xy[frame, 0]), float(t.xy[frame, 1])) for t in shaft]))
    if frame == opened.cursor.frame or analysis.camera is None:
        return runs
    # What stood there then is seen elsewhere now where the camera has moved.
    return [(side, [_carried(analysis, xy, frame, opened.cursor.frame) for xy in run]) for side, run in runs]


def _carried(analysis: Study, xy: tuple[float, float], start: int, end: int) -> tuple[float, float]:
    x, y = analysis.carried(np.array(xy), start, end).tolist()
    return x, y


def address_frame(opened: OpenSwing) -> int | None:
    if opened.analysis is None or "address" not in opened.analysis.checkpoints:
        return None
    return opened.analysis.checkpoints["address"].shown


def crossings_at(opened: OpenSwing) -> list[Crossing]:
    """Plumbs and what crosses them at the cursor: the trail hip, and the middle of the pelvis."""
    analysis, address = opened.analysis, address_frame(opened)
    if analysis is None or address is None:
        return []
    found = []
    for plumb in PLUMBS:
        entry = measure_of_plumb(plumb, analysis.setup.view) if plumb in opened.sight.plumbs else None
        crossing = _crossing(opened, analysis, address, entry) if entry else None
        if crossing:
            found.append(crossing)
    return found


def _crossing(opened: OpenSwing, analysis: Study, address: int, entry: Measure) -> Crossing | None:
    series = analysis.measure(entry.key)
    known = [t for name in entry.figure.points if (t := analysis.track(name)) is not None]
    if isinstance(series, Failed) or not known:
        return None
    frame = opened.cursor.frame
    value, sigma = float(series.values[frame]), float(series.sigma[frame])
    words = tr(entry.crossing[0] if value >= 0 else entry.crossing[1])
    plumb = analysis.carried(np.mean([t.xy[address] for t in known], axis=0), address, frame)
    return Crossing(
        float(plumb[0]),
        sum(float(t.xy[frame, 0]) for t in known) / len(known),
        sum(float(t.xy[frame, 1]) for t in known) / len(known),
        max(float(t.sigma[frame]) for t in known),
        with_unit(number(value, series.unit), series.unit),
        f"± {number(sigma, series.unit, signed=False)}",
        words,
        _past(opened, series, value),
    )


def _past(opened: OpenSwing, series: Series, value: float) -> bool:
    """Whether the chosen finding rests on this measure, and the body is on the faulty side now."""
    finding, analysis = opened.selection.finding, opened.analysis
    if finding is None or analysis is None or finding.verdict.value not in ("fault", "watch"):
        return False
    if series.key not in finding.fault.measures or finding.checkpoint not in analysis.checkpoints:
        return False
    judged = analysis.at(series.key, finding.checkpoint)
    return isinstance(judged, Single) and judged.value * value > 0


def frame_words(opened: OpenSwing) -> str:
    """Which frame this is: checkpoint, number, real time since address."""
    times, frame = opened.times_s, opened.cursor.frame
    parts = [f"{tr('frame')} {opened.first + frame}"]
    analysis = opened.analysis
    if analysis and "address" in analysis.checkpoints:
        since = float(times[frame]) - analysis.checkpoints["address"].time_s
        when = tr("after address") if since >= 0 else tr("before address")
        parts.append(f"{abs(since):.2f} s {when}")
    else:
        parts.append(f"{float(times[frame]):.2f} s".replace("-", MINUS))
    return " · ".join(parts)


def _spine(analysis: Study, frame: int) -> list[tuple[float, float]]:
    ends = []
    for joint in ("hip", "shoulder"):
        pair = [analysis.tracks.get(f"{side}_{joint}") for side in ("left", "right")]
        if any(t is None for t in pair):
            return []
        ends.append(tuple(float(sum(t.xy[frame, k] for t in pair if t) / 2) for k in (0, 1)))
    return [(ends[0][0], ends[0][1]), (ends[1][0], ends[1][1])]
