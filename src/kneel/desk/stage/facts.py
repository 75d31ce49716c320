"""What the stage has to show at one frame, gathered from the numbers. No painting here."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np

from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import anatomical, side_of
from kneel.motion.drawn import Place, carried
from kneel.motion.study import Study
from kneel.speech.words import MINUS

CHAINS = (
    ("lead", ("lead_hip", "lead_knee", "lead_ankle")),
    ("trail", ("trail_hip", "trail_knee", "trail_ankle")),
    (None, ("lead_hip", "trail_hip")),
)

BULK_M = (
    (("lead_hip", "lead_knee"), 0.10),
    (("trail_hip", "trail_knee"), 0.10),
    (("lead_knee", "lead_ankle"), 0.08),
    (("trail_knee", "trail_ankle"), 0.08),
    (("lead_shoulder", "lead_hip"), 0.13),
    (("trail_shoulder", "trail_hip"), 0.13),
    (("lead_shoulder", "trail_shoulder"), 0.12),
    (("lead_shoulder", "grip"), 0.08),
    (("trail_shoulder", "grip"), 0.08),
    (("lead_hip", "trail_hip"), 0.12),
    (("head", "head"), 0.15),
    (("grip", "clubhead"), 0.02),
    (("ball", "ball"), 0.06),
    (("lead_ankle", "lead_ankle"), 0.12),
    (("trail_ankle", "trail_ankle"), 0.12),
)
"""How far flesh and clothes reach about the lines between joints (common practice, no source)."""

SHARES = (0.0, 0.25, 0.5, 0.75, 1.0)

HIDDEN_SIGMA_M = 0.2
"""A point less sure than this many metres is not worth drawing."""

TRAIL_S = 1.5
"""The trail of the pelvis reaches so far back, real seconds."""


class PointSource(Enum):
    """Where a point comes from: marked on this frame, followed from marks elsewhere, or found."""

    HAND = "hand"
    FOLLOWED = "followed"
    FOUND = "found"


@dataclass(frozen=True)
class PointFact:
    """A point at this frame: pixels, doubt, side, and where it comes from."""

    name: str
    x: float
    y: float
    sigma: float
    side: str | None
    source: PointSource

    @property
    def by_hand(self) -> bool:
        return self.source is PointSource.HAND


def points_at(opened: OpenSwing) -> list[PointFact]:
    """All points worth drawing at the cursor."""
    analysis = opened.analysis
    if analysis is None:
        return []
    hand, frame = opened.swing.hand, opened.cursor.frame
    marks = opened.swing.marks
    set_here = {m.point for m in marks if m.frame == frame}
    marked = {m.point for m in marks}
    limit = HIDDEN_SIGMA_M * analysis.px_per_m
    found = []
    for name, track in analysis.tracks.items():
        shown = name in set_here or (track.sigma[frame] < limit and not analysis.gone(name, frame))
        if shown:
            source = (
                PointSource.HAND
                if name in set_here
                else PointSource.FOLLOWED
                if name in marked
                else PointSource.FOUND
            )
            x, y = track.xy[frame].tolist()
            found.append(PointFact(name, x, y, float(track.sigma[frame]), side_of(name, hand), source))
    return found


def lines_at(opened: OpenSwing, frame: int, *, spine: bool = True) -> list[tuple[str | None, list[Place]]]:
    """Limbs as they were at a frame, by side, as runs of pixels of the picture at the cursor.

    ``spine`` is whether the line from lower to upper centre is one of them.
    """
    analysis = opened.analysis
    if analysis is None:
        return []
    hand, limit = opened.swing.hand, HIDDEN_SIGMA_M * analysis.px_per_m
    runs: list[tuple[str | None, list[Place]]] = []
    for side, names in CHAINS:
        tracks = [analysis.tracks.get(anatomical(n, hand)) for n in names]
        known = [t for t in tracks if t is not None and t.sigma[frame] < limit]
        if len(known) >= 2:
            runs.append((side, [(float(t.xy[frame, 0]), float(t.xy[frame, 1])) for t in known]))
    trunk = _spine(analysis, frame) if spine else []
    if trunk:
        runs.append((None, trunk))
    ends = [analysis.tracks.get(name) for name in ("grip", "clubhead")]
    shaft = [t for t in ends if t is not None and t.sigma[frame] < limit]
    if len(shaft) == 2:
        runs.append((None, [(float(t.xy[frame, 0]), float(t.xy[frame, 1])) for t in shaft]))
    if frame == opened.cursor.frame or analysis.camera is None:
        return runs
    # What stood there then is seen elsewhere now where the camera has moved.
    return [(side, [carried(analysis, xy, frame, opened.cursor.frame) for xy in run]) for side, run in runs]


def body_discs(analysis: Study | None, frame: int, hand) -> np.ndarray:
    """Where the body is at a frame: discs (N, 3) of middle and radius, px of the picture."""
    if analysis is None or analysis.px_per_m <= 0:
        return np.zeros((0, 3))
    limit, rows = HIDDEN_SIGMA_M * analysis.px_per_m, []
    for (start, end), bulk in BULK_M:
        ends = [analysis.tracks.get(anatomical(name, hand)) for name in (start, end)]
        if any(t is None or t.sigma[frame] > limit for t in ends):
            continue
        (ax, ay), (bx, by) = (t.xy[frame].tolist() for t in ends)
        radius = bulk * analysis.px_per_m
        shares = SHARES if start != end else SHARES[:1]
        rows += [(ax + share * (bx - ax), ay + share * (by - ay), radius) for share in shares]
    return np.array(rows) if rows else np.zeros((0, 3))


def pelvis_trail(opened: OpenSwing) -> list[Place]:
    """Where the middle of the hips has been since address, px of the picture at the cursor."""
    analysis, address = opened.analysis, address_frame(opened)
    if analysis is None or address is None:
        return []
    hips = [analysis.tracks.get(f"{side}_hip") for side in ("left", "right")]
    frame = opened.cursor.frame
    if any(t is None for t in hips) or frame <= address:
        return []
    times = opened.times_s
    first = max(address, int(np.searchsorted(times, times[frame] - TRAIL_S)))
    path = (hips[0].xy[first : frame + 1] + hips[1].xy[first : frame + 1]) / 2
    if analysis.camera is None:
        return [(float(x), float(y)) for x, y in path]
    return [carried(analysis, (float(x), float(y)), first + k, frame) for k, (x, y) in enumerate(path)]


def address_frame(opened: OpenSwing) -> int | None:
    """The frame that shows address, None where it is not found."""
    return opened.numbers.shown("address")


def frame_words(opened: OpenSwing) -> str:
    """Which frame this is: number, and real time since address."""
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


def _spine(analysis: Study, frame: int) -> list[Place]:
    ends = []
    for joint in ("hip", "shoulder"):
        pair = [analysis.tracks.get(f"{side}_{joint}") for side in ("left", "right")]
        if any(t is None for t in pair):
            return []
        ends.append(tuple(float(sum(t.xy[frame, k] for t in pair if t) / 2) for k in (0, 1)))
    return [(ends[0][0], ends[0][1]), (ends[1][0], ends[1][1])]
